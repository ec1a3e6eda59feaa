import { describe, expect, it } from 'vitest'
import { keysOf } from './command'

const press = (key: string, held: Partial<Record<'ctrlKey' | 'metaKey' | 'altKey' | 'shiftKey', boolean>> = {}) =>
  keysOf({ key, ctrlKey: false, metaKey: false, altKey: false, shiftKey: false, ...held })

describe('keys', () => {
  it('are named with their modifiers in one order', () => {
    expect(press('z', { ctrlKey: true })).toBe('Ctrl+Z')
    expect(press('Z', { ctrlKey: true, shiftKey: true })).toBe('Ctrl+Shift+Z')
    expect(press('z', { metaKey: true })).toBe('Ctrl+Z')
    expect(press(' ')).toBe('Space')
    expect(press('.', { altKey: true })).toBe('Alt+.')
  })

  it('count Shift for letters and named keys, not for signs that need it to be typed', () => {
    expect(press('+', { shiftKey: true })).toBe('+')
    expect(press('P', { shiftKey: true })).toBe('Shift+P')
    expect(press(' ', { shiftKey: true })).toBe('Shift+Space')
  })
})

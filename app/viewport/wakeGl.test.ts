import { afterEach, describe, expect, it, vi } from 'vitest'
import type { AnyCanvas } from './compositor'
import { wakeGl } from './wakeGl'

const canvas = { width: 1, height: 1, addEventListener: () => undefined, removeEventListener: () => undefined, getContext: () => null } as unknown as AnyCanvas

describe('the GPU backend', () => {
  afterEach(() => vi.doUnmock('./glCompositor'))

  it('is done without where the browser has no WebGL', async () => {
    const said = vi.spyOn(console, 'error').mockImplementation(() => undefined)
    expect(await wakeGl(canvas)).toBeNull()
    said.mockRestore()
  })

  it('is done without while its program can’t be fetched, and had once it can', async () => {
    const made = { kind: 'gl' }
    vi.doMock('./glCompositor', () => {
      throw new TypeError('Failed to fetch dynamically imported module')
    })
    expect(await wakeGl(canvas)).toBeNull()
    vi.doMock('./glCompositor', () => ({ createGlCompositor: () => made }))
    vi.resetModules()
    expect(await wakeGl(canvas)).toBe(made)
  })
})

import { beforeEach, describe, expect, it, vi } from 'vitest'
import type { AnyCanvas } from './compositor'

const canvas = () => ({ width: 1, height: 1, addEventListener: () => undefined, removeEventListener: () => undefined, getContext: vi.fn(() => null) })
const awake = () => import('./wakeGl')

describe('the GPU backend', () => {
  // What a browser was found to lack is remembered by the module.
  beforeEach(() => {
    vi.resetModules()
    vi.doUnmock('./glCompositor')
    vi.doMock('./graphicsCard', () => ({ hasGraphicsCard: () => true }))
  })

  it('is done without where the browser has no WebGL, which is asked for once', async () => {
    const said = vi.spyOn(console, 'error').mockImplementation(() => undefined)
    const { mayWakeGl, wakeGl } = await awake()
    const [first, next] = [canvas(), canvas()]
    expect(mayWakeGl()).toBe(true)
    expect(await wakeGl(first as unknown as AnyCanvas)).toBeNull()
    expect(first.getContext).toHaveBeenCalled()
    expect(mayWakeGl()).toBe(false)
    expect(await wakeGl(next as unknown as AnyCanvas)).toBeNull()
    expect(next.getContext).not.toHaveBeenCalled()
    said.mockRestore()
  })

  it('is done without while its program can’t be fetched, and had once it can', async () => {
    const made = { kind: 'gl' }
    let reached = false
    vi.doMock('./glCompositor', () => {
      if (!reached) throw new TypeError('Failed to fetch dynamically imported module')
      return { createGlCompositor: () => made }
    })
    const { mayWakeGl, wakeGl } = await awake()
    expect(await wakeGl(canvas() as unknown as AnyCanvas)).toBeNull()
    expect(mayWakeGl()).toBe(true)
    reached = true
    expect(await wakeGl(canvas() as unknown as AnyCanvas)).toBe(made)
  })

  it('is not looked for where no graphics card would draw', async () => {
    vi.doMock('./graphicsCard', () => ({ hasGraphicsCard: () => false }))
    const { mayWakeGl, wakeGl } = await awake()
    const asked = canvas()
    expect(mayWakeGl()).toBe(false)
    expect(await wakeGl(asked as unknown as AnyCanvas)).toBeNull()
    expect(asked.getContext).not.toHaveBeenCalled()
  })
})

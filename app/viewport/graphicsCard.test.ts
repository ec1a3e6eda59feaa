import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'

const RENDERER = 7936
const UNMASKED = 37446

/** A browser whose WebGL tells this of itself; null: it has none. */
function browserWith(name: string | null, tellsMore = true) {
  const lost = vi.fn()
  const asked = vi.fn(() =>
    name === null ? null : {
      RENDERER,
      getExtension: (extension: string) => (extension === 'WEBGL_lose_context' ? { loseContext: lost } : tellsMore ? { UNMASKED_RENDERER_WEBGL: UNMASKED } : null),
      getParameter: (what: number) => (what === (tellsMore ? UNMASKED : RENDERER) ? name : 'WebKit WebGL'),
    },
  )
  vi.stubGlobal('OffscreenCanvas', class { getContext = asked })
  return { asked, lost }
}
const look = async () => (await import('./graphicsCard')).hasGraphicsCard

describe('a graphics card', () => {
  // What was found is remembered by the module.
  beforeEach(() => vi.resetModules())
  afterEach(() => vi.unstubAllGlobals())

  it('is one that does not simulate itself', async () => {
    for (const name of ['ANGLE (Google, Vulkan 1.3.0 (SwiftShader Device (Subzero) (0x0000C0DE)), SwiftShader driver)', 'llvmpipe (LLVM 15.0.6, 256 bits)', 'Software Rasterizer', 'ANGLE (Microsoft, Microsoft Basic Render Driver)']) {
      vi.resetModules()
      browserWith(name)
      expect((await look())(), name).toBe(false)
    }
    vi.resetModules()
    browserWith('ANGLE (Maker, Model 12 Direct3D11 vs_5_0 ps_5_0)')
    expect((await look())()).toBe(true)
  })

  it('is asked for once, and its context is given back', async () => {
    const { asked, lost } = browserWith('Model 12', false)
    const hasGraphicsCard = await look()
    expect([hasGraphicsCard(), hasGraphicsCard()]).toEqual([true, true])
    expect(asked).toHaveBeenCalledOnce()
    expect(lost).toHaveBeenCalledOnce()
  })

  it('is not there where the browser has no WebGL, or no canvases but those of a page', async () => {
    browserWith(null)
    expect((await look())()).toBe(false)
    vi.resetModules()
    vi.stubGlobal('OffscreenCanvas', undefined)
    expect((await look())()).toBe(false)
  })
})

let known: boolean | null = null

/**
 * True where drawing is done by a graphics card. A simulated one takes two to five times as long as the 2D backend, turned levels
 * included, and all of the machine meanwhile.
 */
export function hasGraphicsCard(): boolean {
  return (known ??= look())
}

function look(): boolean {
  try {
    const gl = new OffscreenCanvas(1, 1).getContext('webgl2')
    if (gl === null) return false
    const info = gl.getExtension('WEBGL_debug_renderer_info')
    const name = String(gl.getParameter(info === null ? gl.RENDERER : info.UNMASKED_RENDERER_WEBGL))
    gl.getExtension('WEBGL_lose_context')?.loseContext()
    return !/swiftshader|llvmpipe|software|basic render/i.test(name)
  } catch {
    return false
  }
}

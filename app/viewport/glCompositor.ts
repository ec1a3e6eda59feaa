import {
  BufferAttribute,
  BufferGeometry,
  CanvasTexture,
  ClampToEdgeWrapping,
  Color,
  CustomBlending,
  LinearFilter,
  LinearMipmapLinearFilter,
  LinearSRGBColorSpace,
  Matrix3,
  Mesh,
  NoColorSpace,
  OneFactor,
  OneMinusSrcAlphaFactor,
  OrthographicCamera,
  Scene,
  ShaderMaterial,
  Vector2,
  Vector3,
  WebGLRenderer,
  type IUniform,
  type Texture,
} from 'three'
import { changedSince, type ArtRaster } from './artRaster'
import type { ComposedLevel } from './composition'
import { createShown, type AnyCanvas, type Compositor } from './compositor'
import { around, type PixelBox } from './pixelBox'

// The corners come in canvas px times their distance, and the distance.
const VERTEX = /* glsl */ `
  uniform vec3 corners[4];
  uniform vec2 sizePx;
  attribute float which;
  void main() {
    vec3 corner = corners[int(which)];
    gl_Position = vec4(2.0 * corner.x / sizePx.x - corner.z, corner.z - 2.0 * corner.y / sizePx.y, 0.0, corner.z);
  }
`
// Where a pixel falls on the art is worked out from the pixel itself: corners are snapped to a sixteenth of a pixel
// by the rasteriser, and what is interpolated between them with them.
const FRAGMENT = /* glsl */ `
  uniform sampler2D map;
  uniform float opacity;
  uniform vec2 sizePx;
  uniform mat3 toArt;
  void main() {
    vec3 art = toArt * vec3(gl_FragCoord.x, sizePx.y - gl_FragCoord.y, 1.0);
    gl_FragColor = texture2D(map, vec2(art.x / art.z, 1.0 - art.y / art.z)) * opacity;
  }
`

interface Slot {
  readonly mesh: Mesh<BufferGeometry, ShaderMaterial>
  readonly corners: readonly Vector3[]
  readonly toArt: Matrix3
  readonly map: IUniform
  readonly opacity: IUniform
}

interface KeptTexture {
  readonly texture: Texture
  version: number
  usedAt: number
}

const KEPT_TEXTURES = 64

/** The GPU backend, for any composition. Colours pass through untouched; art is premultiplied throughout. */
export function createGlCompositor(canvas: AnyCanvas): Compositor {
  const renderer = new WebGLRenderer({
    canvas: canvas as HTMLCanvasElement,
    alpha: true,
    antialias: false,
    premultipliedAlpha: true,
    depth: false,
    stencil: false,
    preserveDrawingBuffer: true,
  })
  renderer.outputColorSpace = LinearSRGBColorSpace
  renderer.setPixelRatio(1)
  // Levels stand in the scene in draw order; three's own sorting would go by their centres.
  renderer.sortObjects = false
  const geometry = new BufferGeometry()
  geometry.setAttribute('which', new BufferAttribute(new Float32Array([0, 1, 2, 3]), 1))
  geometry.setIndex([0, 1, 2, 0, 2, 3])
  const sizePx = { value: new Vector2() }
  const scene = new Scene()
  scene.matrixWorldAutoUpdate = false
  const camera = new OrthographicCamera()
  const slots: Slot[] = []
  const textures = new Map<ArtRaster, KeptTexture>()
  const colour = new Color()
  let clock = 0
  const shown = createShown()
  let widthPx = 0
  let heightPx = 0

  function slot(index: number): Slot {
    const known = slots[index]
    if (known !== undefined) return known
    const corners = [new Vector3(), new Vector3(), new Vector3(), new Vector3()]
    const toArt = new Matrix3()
    const uniforms = { map: { value: null }, opacity: { value: 1 }, corners: { value: corners }, toArt: { value: toArt }, sizePx }
    const material = new ShaderMaterial({
      vertexShader: VERTEX,
      fragmentShader: FRAGMENT,
      uniforms,
      transparent: true,
      depthTest: false,
      depthWrite: false,
      premultipliedAlpha: true,
      blending: CustomBlending,
      blendSrc: OneFactor,
      blendDst: OneMinusSrcAlphaFactor,
      side: 2,
    })
    const mesh = new Mesh(geometry, material)
    mesh.frustumCulled = false
    mesh.matrixAutoUpdate = false
    mesh.renderOrder = index
    scene.add(mesh)
    const made = { mesh, corners, toArt, map: uniforms.map, opacity: uniforms.opacity }
    slots.push(made)
    return made
  }

  function textureOf(level: ComposedLevel): Texture {
    const { raster } = level
    let kept = textures.get(raster)
    if (kept === undefined) {
      const texture = new CanvasTexture(raster.canvas as HTMLCanvasElement)
      texture.colorSpace = NoColorSpace
      texture.premultiplyAlpha = true
      texture.wrapS = texture.wrapT = ClampToEdgeWrapping
      texture.magFilter = LinearFilter
      // Square art is never shrunk past half its octave, so it needs none; turned art does.
      texture.generateMipmaps = level.affine === null
      texture.minFilter = level.affine === null ? LinearMipmapLinearFilter : LinearFilter
      kept = { texture, version: raster.version, usedAt: 0 }
      textures.set(raster, kept)
    }
    if (level.affine === null && !kept.texture.generateMipmaps) {
      kept.texture.generateMipmaps = true
      kept.texture.minFilter = LinearMipmapLinearFilter
      kept.texture.needsUpdate = true
    }
    if (kept.version !== raster.version) {
      const changed = kept.usedAt > 0 && !kept.texture.generateMipmaps ? changedSince(raster, kept.version) : null
      if (changed === null) kept.texture.needsUpdate = true
      else upload(kept.texture, raster, changed)
      kept.version = raster.version
    }
    kept.usedAt = ++clock
    return kept.texture
  }

  /** Sends only what has changed: a whole raster of a large level takes many times as long. */
  function upload(texture: Texture, raster: ArtRaster, changed: readonly PixelBox[]) {
    const box = around(changed)
    if (box === null) return
    const [w, h] = [box.right - box.left, box.bottom - box.top]
    const part = new OffscreenCanvas(w, h)
    part.getContext('2d')!.drawImage(raster.canvas as CanvasImageSource, box.left, box.top, w, h, 0, 0, w, h)
    const piece = new CanvasTexture(part as unknown as HTMLCanvasElement)
    piece.colorSpace = NoColorSpace
    piece.premultiplyAlpha = true
    // Textures stand on their heads: rows are counted from the bottom.
    renderer.copyTextureToTexture(piece, texture, null, new Vector2(box.left, raster.canvas.height - box.bottom))
    piece.dispose()
  }

  function forgetOld() {
    if (textures.size <= KEPT_TEXTURES) return
    const oldest = [...textures].sort((a, b) => a[1].usedAt - b[1].usedAt).slice(0, textures.size - KEPT_TEXTURES)
    for (const [raster, kept] of oldest) {
      kept.texture.dispose()
      textures.delete(raster)
    }
  }

  return {
    kind: 'gl',
    canvas,
    draw(composition, background) {
      if (shown.replacedBy(composition, background, 'exact').repaint === 'nothing') return false
      const { view, levels } = composition
      if (view.widthPx !== widthPx || view.heightPx !== heightPx) {
        widthPx = view.widthPx
        heightPx = view.heightPx
        renderer.setSize(widthPx, heightPx, false)
      }
      const clear = background.surround ?? background.frame
      if (clear === null) renderer.setClearColor(0x000000, 0)
      else renderer.setClearColor(colour.setStyle(clear, LinearSRGBColorSpace), 1)
      sizePx.value.set(view.widthPx, view.heightPx)
      for (let index = 0; index < levels.length; index++) {
        const level = levels[index]!
        const target = slot(index)
        for (let i = 0; i < 4; i++) target.corners[i]!.fromArray(level.corners[i]!)
        setToArt(target.toArt, level.corners)
        target.mesh.visible = true
        target.map.value = textureOf(level)
        target.opacity.value = level.opacity
      }
      for (let i = levels.length; i < slots.length; i++) slots[i]!.mesh.visible = false
      renderer.render(scene, camera)
      forgetOld()
      return true
    },
    dispose() {
      geometry.dispose()
      for (const { mesh } of slots) mesh.material.dispose()
      for (const { texture } of textures.values()) texture.dispose()
      textures.clear()
      renderer.dispose()
    },
  }
}

/** The way back from canvas px to parts of the raster's width and height, from the corners that it maps them to. */
function setToArt(target: Matrix3, corners: ComposedLevel['corners']) {
  const [bottomLeft, , topRight, origin] = corners as [Corner, Corner, Corner, Corner]
  target
    .set(
      topRight[0] - origin[0], bottomLeft[0] - origin[0], origin[0],
      topRight[1] - origin[1], bottomLeft[1] - origin[1], origin[1],
      topRight[2] - origin[2], bottomLeft[2] - origin[2], origin[2],
    )
    .invert()
}

type Corner = ComposedLevel['corners'][number]

/** True where drawing is done by a graphics card; a software GPU is slower than the 2D backend. */
export function hasGraphicsCard(): boolean {
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

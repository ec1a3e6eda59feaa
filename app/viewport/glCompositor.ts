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
import type { LevelPart } from './cuts'
import { mipsOf } from './mips'
import { around, type PixelBox } from './pixelBox'
import { artOfPx, boxSeen, SAMPLES } from './turnedPixels'

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
/** Lines that one part of a level may end at; every graphics card has room for so many. */
const MOST_CUTS = 64
// Where a pixel falls on the art is worked out from the pixel itself: corners are snapped to a sixteenth of a pixel
// by the rasteriser, and what is interpolated between them with them. Turned art is sampled as turnedPixels.ts tells.
const FRAGMENT = /* glsl */ `
  uniform sampler2D map;
  uniform float opacity;
  uniform vec2 sizePx;
  uniform mat3 toArt;
  #ifdef TURNED
    uniform bool exact;
  #endif
  #ifdef CUT
    uniform ivec4 cuts[${MOST_CUTS}];
    uniform int cutCount;
  #endif
  void main() {
    #ifdef CUT
      ivec2 odd = 2 * ivec2(int(gl_FragCoord.x), int(sizePx.y) - 1 - int(gl_FragCoord.y)) + 1;
      for (int i = 0; i < cutCount; i++) {
        if ((cuts[i].x * odd.x + cuts[i].y * odd.y + cuts[i].z >= 0) != (cuts[i].w > 0)) discard;
      }
    #endif
    vec3 art = toArt * vec3(gl_FragCoord.x, sizePx.y - gl_FragCoord.y, 1.0);
    if (art.z <= 0.0) discard;
    vec2 at = art.xy / art.z;
    #if defined(CUT) || defined(TURNED)
      if (any(lessThan(at, vec2(0.0))) || any(greaterThan(at, vec2(1.0)))) discard;
    #endif
    #ifdef TURNED
      vec2 mapPx = vec2(textureSize(map, 0));
      vec2 across = (toArt[0].xy - at * toArt[0].z) / art.z * mapPx;
      vec2 down = (toArt[1].xy - at * toArt[1].z) / art.z * mapPx;
      float e = across.x * across.x + down.x * down.x;
      float f = across.x * across.y + down.x * down.y;
      float g = across.y * across.y + down.y * down.y;
      float mean = (e + g) / 2.0;
      float off = sqrt((e - g) * (e - g) / 4.0 + f * f);
      float longest = sqrt(mean + off);
      if (exact) {
        float wide = max(1.0, max(longest / ${SAMPLES}.0, sqrt(max(0.0, mean - off))));
        float reach = max(0.0, longest - wide);
        vec2 axis = e >= g ? vec2(mean + off - g, f) : vec2(f, mean + off - e);
        float size = length(axis);
        vec2 stride = size > 0.0 ? axis / size / mapPx * reach / ${SAMPLES - 1}.0 : vec2(0.0);
        vec4 sum = vec4(0.0);
        for (int i = 0; i < ${SAMPLES}; i++) {
          vec2 sampled = at + stride * (float(i) - ${(SAMPLES - 1) / 2});
          sum += textureLod(map, vec2(sampled.x, 1.0 - sampled.y), log2(wide));
        }
        gl_FragColor = sum / ${SAMPLES}.0 * opacity;
      } else gl_FragColor = textureLod(map, vec2(at.x, 1.0 - at.y), log2(max(1.0, longest))) * opacity;
    #else
      gl_FragColor = textureLod(map, vec2(at.x, 1.0 - at.y), 0.0) * opacity;
    #endif
  }
`

interface Slot {
  readonly mesh: Mesh<BufferGeometry, ShaderMaterial>
  readonly corners: readonly Vector3[]
  readonly toArt: Matrix3
  readonly map: IUniform
  readonly opacity: IUniform
  readonly cuts: IUniform<Int32Array>
  readonly cutCount: IUniform<number>
  /** By whether its level is turned, and whether it is cut. */
  readonly materials: Map<string, ShaderMaterial>
  readonly uniforms: Record<string, IUniform>
}

interface KeptTexture {
  readonly texture: Texture
  /** With halves, quarters and so on of its own making. */
  readonly isPyramid: boolean
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
  const exact = { value: true }
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
    const uniforms = { map: { value: null }, opacity: { value: 1 }, corners: { value: corners }, toArt: { value: toArt }, sizePx, exact, cuts: { value: new Int32Array(4 * MOST_CUTS) }, cutCount: { value: 0 } }
    const mesh = new Mesh<BufferGeometry, ShaderMaterial>(geometry)
    mesh.frustumCulled = false
    mesh.matrixAutoUpdate = false
    mesh.renderOrder = index
    scene.add(mesh)
    const { map, opacity, cuts, cutCount } = uniforms
    const made: Slot = { mesh, corners, toArt, map, opacity, cuts, cutCount, materials: new Map(), uniforms }
    slots.push(made)
    return made
  }

  function materialOf({ materials, uniforms }: Slot, isTurned: boolean, isCut: boolean): ShaderMaterial {
    const key = `${isTurned} ${isCut}`
    const known = materials.get(key)
    if (known !== undefined) return known
    const material = new ShaderMaterial({
      defines: { ...(isTurned ? { TURNED: 1 } : {}), ...(isCut ? { CUT: 1 } : {}) },
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
    materials.set(key, material)
    return material
  }

  function textureOf(level: ComposedLevel): Texture {
    const { raster } = level
    // Square art is never shrunk past half its octave, so it needs no pyramid; turned art does.
    const needsPyramid = level.affine === null
    let kept = textures.get(raster)
    if (kept !== undefined && needsPyramid && !kept.isPyramid) {
      kept.texture.dispose()
      kept = undefined
    }
    if (kept === undefined) {
      const texture = new CanvasTexture(raster.canvas as HTMLCanvasElement)
      texture.colorSpace = NoColorSpace
      texture.premultiplyAlpha = true
      texture.wrapS = texture.wrapT = ClampToEdgeWrapping
      texture.magFilter = LinearFilter
      texture.generateMipmaps = false
      texture.minFilter = needsPyramid ? LinearMipmapLinearFilter : LinearFilter
      if (needsPyramid) texture.mipmaps = [...mipsOf(raster)] as HTMLCanvasElement[]
      kept = { texture, isPyramid: needsPyramid, version: raster.version, usedAt: 0 }
      textures.set(raster, kept)
    }
    if (kept.version !== raster.version) {
      const changed = kept.usedAt > 0 && !kept.isPyramid ? changedSince(raster, kept.version) : null
      if (kept.isPyramid) mipsOf(raster)
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
    draw(composition, background, resampling) {
      // Square art looks the same either way, and is not drawn again for it.
      const { repaint, as } = shown.replacedBy(composition, background, composition.turned ? resampling : 'exact')
      if (repaint === 'nothing') return false
      exact.value = as === 'exact'
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
        const { part } = level
        // What is turned or cut is looked for in all the box around it: a plane seen nearly edge-on is thinner than a px.
        const box = part?.box ?? (level.affine === null ? boxSeen(level.corners, view) : null)
        for (const [i, corner] of (box === null ? level.corners : cornersOfBox(box)).entries()) target.corners[i]!.fromArray(corner)
        const toArt = artOfPx(level.corners)
        if (toArt === null || (box === null && level.affine === null)) {
          target.mesh.visible = false
          continue
        }
        target.toArt.set(...(toArt as Parameters<Matrix3['set']>))
        target.mesh.material = materialOf(target, level.affine === null, part !== null)
        if (part !== null) setCuts(target, part)
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
      for (const { materials } of slots) for (const material of materials.values()) material.dispose()
      for (const { texture } of textures.values()) texture.dispose()
      textures.clear()
      renderer.dispose()
    },
  }
}

const cornersOfBox = ({ left, top, right, bottom }: PixelBox): ComposedLevel['corners'] => [[left, bottom, 1], [right, bottom, 1], [right, top, 1], [left, top, 1]]

function setCuts({ cuts, cutCount }: Slot, part: LevelPart): void {
  cutCount.value = Math.min(MOST_CUTS, part.cuts.length)
  for (let i = 0; i < cutCount.value; i++) {
    const { a, b, c, before } = part.cuts[i]!
    cuts.value.set([a, b, c, before ? 1 : 0], i * 4)
  }
}

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

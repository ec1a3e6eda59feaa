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
  Vector4,
  WebGLRenderer,
  type IUniform,
  type Texture,
} from 'three'
import { changedSince, type ArtRaster } from './artRaster'
import type { ComposedLevel } from './composition'
import { createShown, type AnyCanvas, type Compositor } from './compositor'
import type { LevelPart } from './cuts'
import { mipsOf } from './mips'
import { freeCanvas } from './paint'
import { around, type PixelBox } from './pixelBox'
import { SOFT_PLACE_GLSL, type SoftPyramid } from './softPyramid'
import { artOfPx, boxSeen, ONE_OVER, SAMPLES, SOFT_STRIDE, SPREAD, TWO_APART, TWO_OVER } from './turnedPixels'

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
  #ifdef VEIL
    uniform vec3 veilColour;
    // Of a square level its share; of a turned one its kind (1 haze, 2 distances) and two numbers of it.
    uniform vec3 veil;
  #endif
  #ifdef SOFT
    uniform sampler2D pyramid;
    // From parts of the raster's size to parts of the pyramid's: factors, and what is added.
    uniform vec4 inPyramid;
    // Of a square level its place in the pyramid and share; of a turned one 1/sharp, px by 1/distance, and the most px.
    uniform vec3 soft;
    ${SOFT_PLACE_GLSL}
  #endif
  #ifdef TURNED
    // As turnedPixels.ts does: over a reach of so many px, where what is sampled has px so wide.
    vec4 along(sampler2D from, vec2 middle, vec2 axis, float reach, float unit, float lod) {
      int samples = reach <= ${ONE_OVER} * unit ? 1 : reach <= ${TWO_OVER} * unit ? 2 : ${SAMPLES};
      vec2 apart = axis * reach * (samples == 1 ? 0.0 : samples == 2 ? ${TWO_APART.toFixed(9)} : ${(1 / (SAMPLES - 1)).toFixed(9)});
      vec4 sum = vec4(0.0);
      for (int i = 0; i < samples; i++) {
        vec2 sampled = middle + apart * (float(i) - float(samples - 1) / 2.0);
        sum += textureLod(from, vec2(sampled.x, 1.0 - sampled.y), lod);
      }
      return sum / float(samples);
    }
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
    #ifdef SOFT
      vec2 atSoft = at * inPyramid.xy + inPyramid.zw;
      if (any(lessThan(atSoft, vec2(0.0))) || any(greaterThan(atSoft, vec2(1.0)))) discard;
      float inside = any(lessThan(at, vec2(0.0))) || any(greaterThan(at, vec2(1.0))) ? 0.0 : 1.0;
    #elif defined(CUT) || defined(TURNED)
      if (any(lessThan(at, vec2(0.0))) || any(greaterThan(at, vec2(1.0)))) discard;
    #endif
    vec4 colour;
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
      float wide = exact ? max(1.0, max(longest / ${SAMPLES}.0, sqrt(max(0.0, mean - off)))) : max(1.0, longest);
      vec2 axis = e >= g ? vec2(mean + off - g, f) : vec2(f, mean + off - e);
      axis = length(axis) > 0.0 ? normalize(axis) / mapPx : vec2(0.0);
      colour = along(map, at, axis, max(0.0, longest - wide), wide, log2(wide));
    #else
      colour = textureLod(map, vec2(at.x, 1.0 - at.y), 0.0);
    #endif
    #ifdef SOFT
      colour *= inside;
      #ifdef TURNED
        float deviation = min(soft.z, abs(art.z - soft.x) * soft.y);
        float narrow = max(deviation * (exact ? sqrt(max(0.0, mean - off)) : longest), deviation * longest / ${SOFT_STRIDE}.0);
        vec2 place = softPlace(narrow * narrow / (wide * wide));
        float spread = exact ? sqrt(max(0.0, deviation * deviation * longest * longest - narrow * narrow)) * ${SPREAD} : 0.0;
        colour = mix(colour, along(pyramid, atSoft, axis * inPyramid.xy, spread, wide * exp2(place.x), log2(wide) + place.x), place.y);
      #else
        colour = mix(colour, textureLod(pyramid, vec2(atSoft.x, 1.0 - atSoft.y), soft.x), soft.y);
      #endif
    #endif
    #ifdef VEIL
      #ifdef TURNED
        float z = 1.0 / art.z;
        float share = veil.x < 1.5 ? (z <= veil.z ? 0.0 : 1.0 - exp(-veil.y * (z - veil.z))) : clamp((art.z - veil.z) * veil.y, 0.0, 1.0);
      #else
        float share = veil.x;
      #endif
      colour.rgb = mix(colour.rgb, veilColour * colour.a, share);
    #endif
    gl_FragColor = colour * opacity;
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
  readonly veilColour: Vector3
  readonly veil: Vector3
  readonly pyramid: IUniform
  readonly inPyramid: Vector4
  readonly soft: Vector3
  /** By whether its level is turned, cut, hazy, soft. */
  readonly materials: Map<number, ShaderMaterial>
  readonly uniforms: Record<string, IUniform>
}

interface KeptTexture {
  readonly texture: Texture
  /** With halves, quarters and so on of its own making. */
  readonly isPyramid: boolean
  readonly bytes: number
  version: number
  usedAt: number
}

/** What textures may take that the picture at hand does without. */
const KEPT_BYTES = 256 * 1024 * 1024

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
  const textures = new Map<ArtRaster | SoftPyramid, KeptTexture>()
  const colour = new Color()
  let clock = 0
  let keptBytes = 0
  const shown = createShown()
  let widthPx = 0
  let heightPx = 0

  function slot(index: number): Slot {
    const known = slots[index]
    if (known !== undefined) return known
    const corners = [new Vector3(), new Vector3(), new Vector3(), new Vector3()]
    const toArt = new Matrix3()
    const [veilColour, veil, inPyramid, soft] = [new Vector3(), new Vector3(), new Vector4(), new Vector3()]
    const pyramid = { value: null }
    const uniforms = { veilColour: { value: veilColour }, veil: { value: veil }, pyramid, inPyramid: { value: inPyramid }, soft: { value: soft }, map: { value: null }, opacity: { value: 1 }, corners: { value: corners }, toArt: { value: toArt }, sizePx, exact, cuts: { value: new Int32Array(4 * MOST_CUTS) }, cutCount: { value: 0 } }
    const mesh = new Mesh<BufferGeometry, ShaderMaterial>(geometry)
    mesh.frustumCulled = false
    mesh.matrixAutoUpdate = false
    mesh.renderOrder = index
    scene.add(mesh)
    const { map, opacity, cuts, cutCount } = uniforms
    const made: Slot = { mesh, corners, toArt, map, opacity, cuts, cutCount, veilColour, veil, pyramid, inPyramid, soft, materials: new Map(), uniforms }
    slots.push(made)
    return made
  }

  function materialOf({ materials, uniforms }: Slot, { affine, part, air }: ComposedLevel): ShaderMaterial {
    const is = [affine === null, part !== null, air !== null && air.veil !== null, air !== null && air.soft !== null] as const
    const key = (is[0] ? 1 : 0) + (is[1] ? 2 : 0) + (is[2] ? 4 : 0) + (is[3] ? 8 : 0)
    const known = materials.get(key)
    if (known !== undefined) return known
    const defines = Object.fromEntries(['TURNED', 'CUT', 'VEIL', 'SOFT'].flatMap((name, i) => (is[i]! ? [[name, 1]] : [])))
    const material = new ShaderMaterial({
      defines,
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

  /** All levels of a pyramid; between two of them the card mixes. */
  function pyramidTexture(pyramid: SoftPyramid, version: number): Texture {
    let kept = textures.get(pyramid)
    if (kept === undefined) {
      kept = keep(pyramid, pyramid.levels, true, version)
    }
    if (kept.version !== version) {
      kept.texture.needsUpdate = true
      kept.version = version
    }
    kept.usedAt = ++clock
    return kept.texture
  }

  function artTexture(canvases: readonly AnyCanvas[]): Texture {
    const texture = new CanvasTexture(canvases[0] as HTMLCanvasElement)
    texture.colorSpace = NoColorSpace
    texture.premultiplyAlpha = true
    texture.wrapS = texture.wrapT = ClampToEdgeWrapping
    texture.magFilter = LinearFilter
    texture.generateMipmaps = false
    texture.minFilter = canvases.length > 1 ? LinearMipmapLinearFilter : LinearFilter
    if (canvases.length > 1) texture.mipmaps = [...canvases] as HTMLCanvasElement[]
    return texture
  }

  function setAir(target: Slot, { affine, air, raster }: ComposedLevel): void {
    const { veil, soft } = air!
    if (veil !== null) {
      target.veilColour.fromArray(veil.rgb)
      if (affine === null) target.veil.set(veil.by === 'haze' ? 1 : 2, veil.a, veil.b)
      else target.veil.setX(veil.share)
    }
    if (soft === null) return
    const { pyramid } = soft
    const { width, height } = raster.canvas
    target.pyramid.value = pyramidTexture(pyramid, raster.version)
    target.inPyramid.set(width / pyramid.widthPx, height / pyramid.heightPx, pyramid.padPx / pyramid.widthPx, pyramid.padPx / pyramid.heightPx)
    if (affine === null) target.soft.set(soft.inverseSharp, soft.strengthPx, soft.mostPx)
    else target.soft.set(soft.place.level, soft.place.share, 0)
  }

  function textureOf(level: ComposedLevel): Texture {
    const { raster } = level
    // Square art is never shrunk past half its octave, so it needs no pyramid; turned art does.
    const needsPyramid = level.affine === null
    let kept = textures.get(raster)
    if (kept !== undefined && needsPyramid && !kept.isPyramid) {
      forget(raster, kept)
      kept = undefined
    }
    if (kept === undefined) {
      kept = keep(raster, needsPyramid ? mipsOf(raster) : [raster.canvas], needsPyramid, raster.version)
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

  function keep(of: ArtRaster | SoftPyramid, canvases: readonly AnyCanvas[], isPyramid: boolean, version: number): KeptTexture {
    const made: KeptTexture = { texture: artTexture(canvases), isPyramid, bytes: canvases.reduce((sum, { width, height }) => sum + 4 * width * height, 0), version, usedAt: 0 }
    textures.set(of, made)
    keptBytes += made.bytes
    return made
  }

  function forget(of: ArtRaster | SoftPyramid, kept: KeptTexture) {
    kept.texture.dispose()
    textures.delete(of)
    keptBytes -= kept.bytes
  }

  /** What the picture needed that was drawn since `begun` stays, or each of its frames would send it anew. */
  function forgetOld(begun: number) {
    if (keptBytes <= KEPT_BYTES) return
    for (const [of, kept] of [...textures].sort((a, b) => a[1].usedAt - b[1].usedAt)) {
      if (keptBytes <= KEPT_BYTES || kept.usedAt > begun) return
      forget(of, kept)
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
      const begun = clock
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
        const box = part?.box ?? (level.affine === null ? boxSeen(level.reach, view) : null)
        const ends = box === null ? level.reach : cornersOfBox(box)
        for (let i = 0; i < 4; i++) target.corners[i]!.fromArray(ends[i]!)
        const toArt = artOfPx(level.corners)
        if (toArt === null || (box === null && level.affine === null)) {
          target.mesh.visible = false
          continue
        }
        target.toArt.fromArray(toArt).transpose()
        target.mesh.material = materialOf(target, level)
        if (level.air !== null) setAir(target, level)
        if (part !== null) setCuts(target, part)
        target.mesh.visible = true
        target.map.value = textureOf(level)
        target.opacity.value = level.opacity
      }
      for (let i = levels.length; i < slots.length; i++) slots[i]!.mesh.visible = false
      renderer.render(scene, camera)
      forgetOld(begun)
      return true
    },
    dispose() {
      geometry.dispose()
      for (const { materials } of slots) for (const material of materials.values()) material.dispose()
      for (const [of, kept] of textures) forget(of, kept)
      renderer.dispose()
      // A browser has a handful of these, and takes them from the oldest when it runs out.
      renderer.forceContextLoss()
      freeCanvas(canvas)
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

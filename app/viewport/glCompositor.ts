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
  Mesh,
  NoColorSpace,
  OneFactor,
  OneMinusSrcAlphaFactor,
  OrthographicCamera,
  Scene,
  ShaderMaterial,
  WebGLRenderer,
  type Texture,
} from 'three'
import type { ArtRaster } from './artLibrary'
import type { ComposedLevel } from './composition'
import type { AnyCanvas, Compositor } from './compositor'

// Clip-space corners are worked out by the composition; w carries the distance, so turned art foreshortens rightly.
const VERTEX = /* glsl */ `
  attribute vec3 corner;
  varying vec2 vUv;
  void main() {
    vUv = uv;
    gl_Position = vec4(corner.xy, 0.0, corner.z);
  }
`
const FRAGMENT = /* glsl */ `
  uniform sampler2D map;
  uniform float opacity;
  varying vec2 vUv;
  void main() {
    gl_FragColor = texture2D(map, vUv) * opacity;
  }
`

interface Slot {
  readonly mesh: Mesh<BufferGeometry, ShaderMaterial>
  readonly corner: BufferAttribute
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
  renderer.sortObjects = true
  const scene = new Scene()
  scene.matrixWorldAutoUpdate = false
  const camera = new OrthographicCamera()
  const slots: Slot[] = []
  const textures = new Map<ArtRaster, KeptTexture>()
  const colour = new Color()
  let clock = 0
  let shown = ''

  function slot(index: number): Slot {
    const known = slots[index]
    if (known !== undefined) return known
    const geometry = new BufferGeometry()
    const corner = new BufferAttribute(new Float32Array(12), 3)
    geometry.setAttribute('corner', corner)
    geometry.setAttribute('uv', new BufferAttribute(new Float32Array([0, 0, 1, 0, 1, 1, 0, 1]), 2))
    geometry.setIndex([0, 1, 2, 0, 2, 3])
    const material = new ShaderMaterial({
      vertexShader: VERTEX,
      fragmentShader: FRAGMENT,
      uniforms: { map: { value: null }, opacity: { value: 1 } },
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
    const made = { mesh, corner }
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
      kept.version = raster.version
      kept.texture.needsUpdate = true
    }
    kept.usedAt = ++clock
    return kept.texture
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
      const signature = `${composition.signature}|${background.frame}|${background.surround}`
      if (signature === shown) return false
      shown = signature
      const { view, levels } = composition
      renderer.setSize(view.widthPx, view.heightPx, false)
      const clear = background.surround ?? background.frame
      if (clear === null) renderer.setClearColor(0x000000, 0)
      else renderer.setClearColor(colour.setStyle(clear, LinearSRGBColorSpace), 1)
      const sx = 2 / view.widthPx
      const sy = 2 / view.heightPx
      levels.forEach((level, index) => {
        const { mesh, corner } = slot(index)
        level.corners.forEach(([xw, yw, w], i) => corner.setXYZ(i, xw * sx - w, w - yw * sy, w))
        corner.needsUpdate = true
        mesh.visible = true
        mesh.material.uniforms.map!.value = textureOf(level)
        mesh.material.uniforms.opacity!.value = level.opacity
      })
      for (let i = levels.length; i < slots.length; i++) slots[i]!.mesh.visible = false
      renderer.render(scene, camera)
      forgetOld()
      return true
    },
    dispose() {
      for (const { mesh } of slots) {
        mesh.geometry.dispose()
        mesh.material.dispose()
      }
      for (const { texture } of textures.values()) texture.dispose()
      textures.clear()
      renderer.dispose()
    },
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

import { untouchedPose } from '@rubato/core/camera'
import type { Drawing, TakeBody } from '@rubato/core/document'
import { createTakeStage } from '@rubato/core/stage'
import { BufferAttribute, BufferGeometry, CanvasTexture, LinearFilter, Mesh, MeshBasicMaterial, OrthographicCamera, Scene, WebGLRenderer } from 'three'
import { ArtLibrary } from '../app/viewport/artLibrary'
import { compose, wholeFrame } from '../app/viewport/composition'
import { createGlCompositor } from '../app/viewport/glCompositor'
import { LENGTH, repeated, takeOf } from './movingTakes'
import { median, optics, takeOfOneLevel, WHITE } from './shared'

const drawingOf = (i: number): Drawing => ({ marks: [{ id: 'm', order: 'a1', kind: 'fill', mode: 'ink', outlines: [[-0.5, -0.3, 0.5, -0.3, 0.3, 0.1 + i * 0.01]], colour: '#27241e', opacity: 0.5 }] })
/** Until the picture is there: else the next one's time has what this one left to do. */
const finish = (target: OffscreenCanvas | HTMLCanvasElement) => {
  const context = target.getContext('webgl2') as WebGL2RenderingContext
  context.readPixels(0, 0, 1, 1, context.RGBA, context.UNSIGNED_BYTE, new Uint8Array(4))
}

/** Script ms a frame for 12 levels: composing and drawing an evaluated frame, and bare three.js with the same quads. */
export function glScriptMs(widthPx: number, frames: number): { ours: number; bare: number } {
  const heightPx = Math.round((widthPx * 9) / 16)
  const levels = Array.from({ length: 12 }, (_, i) => ({ ...takeOfOneLevel().levels.l!, id: `l${i}`, depth: i * 0.4, scale: 1 + i * 0.28 }))
  const take: TakeBody = {
    ...takeOfOneLevel(),
    levels: Object.fromEntries(levels.map((level) => [level.id, level])),
    cells: Object.fromEntries(levels.map((level, i) => [`${level.id}.p`, { id: `${level.id}.p`, levelId: level.id, panelId: 'p', drawingId: `d${i}` }])),
  }
  const drawings: Record<string, Drawing> = Object.fromEntries(
    levels.map((_, i) => [`d${i}`, drawingOf(i)]),
  )
  const stage = createTakeStage(take, optics)
  const rest = untouchedPose(optics)
  const library = new ArtLibrary(widthPx, () => null)
  const view = wholeFrame(widthPx, heightPx)
  const gl = createGlCompositor(new OffscreenCanvas(8, 8))
  const at = (i: number) => stage.withPose(0, { ...rest, x: i * 0.0005 })
  const composeAt = (frame: ReturnType<typeof at>) => compose(frame, view, library, (id) => drawings[id]!, false)

  const canvas = new OffscreenCanvas(widthPx, heightPx)
  const renderer = new WebGLRenderer({ canvas: canvas as unknown as HTMLCanvasElement, alpha: true, antialias: false, premultipliedAlpha: true })
  renderer.setPixelRatio(1)
  renderer.setSize(widthPx, heightPx, false)
  const scene = new Scene()
  const camera = new OrthographicCamera(-0.5, 0.5, 0.28, -0.28, -10, 10)
  const meshes = composeAt(at(0)).levels.map((level, i) => {
    const texture = new CanvasTexture(level.raster.canvas as HTMLCanvasElement)
    texture.generateMipmaps = false
    texture.minFilter = LinearFilter
    const geometry = new BufferGeometry()
    geometry.setAttribute('position', new BufferAttribute(new Float32Array([-0.5, -0.3, 0, 0.5, -0.3, 0, 0.5, 0.3, 0, -0.5, 0.3, 0]), 3))
    geometry.setAttribute('uv', new BufferAttribute(new Float32Array([0, 0, 1, 0, 1, 1, 0, 1]), 2))
    geometry.setIndex([0, 1, 2, 0, 2, 3])
    const mesh = new Mesh(geometry, new MeshBasicMaterial({ map: texture, transparent: true, depthTest: false }))
    mesh.renderOrder = i
    scene.add(mesh)
    return mesh
  })
  const ours: number[] = []
  const bare: number[] = []
  for (let i = 0; i < frames; i++) {
    const frame = at(i)
    let begun = performance.now()
    gl.draw(composeAt(frame), WHITE, 'exact')
    if (i >= frames / 4) ours.push(performance.now() - begun)
    finish(gl.canvas)
    begun = performance.now()
    for (const mesh of meshes) mesh.position.x = i * 0.0005
    renderer.render(scene, camera)
    if (i >= frames / 4) bare.push(performance.now() - begun)
    finish(canvas)
  }
  renderer.dispose()
  return { ours: median(ours), bare: median(bare) }
}

/** What of a frame's script time is evaluating it. */
interface ScriptTime {
  readonly all: number
  readonly evaluating: number
}

/** All of the script time of a frame, ms: evaluated, composed and handed to the GPU. Frames follow each other, shot after shot in turn. */
export function framesScriptMs(widthPx: number, frames: number): Readonly<Record<'still' | 'moving' | 'ten' | 'hundred' | 'tenTimes' | 'hundredTimes', ScriptTime>> {
  const takes = { still: takeOf(12, 0), moving: takeOf(12, 20), ten: takeOf(10, 20), hundred: takeOf(100, 20), tenTimes: repeated(10), hundredTimes: repeated(100) }
  const view = wholeFrame(widthPx, Math.round((widthPx * 9) / 16))
  const drawings = new Map<string, Drawing>()
  const drawing = (id: string): Drawing => drawings.get(id) ?? (drawings.set(id, drawingOf(drawings.size)), drawings.get(id)!)
  const shots = Object.entries(takes).map(([name, take]) => ({
    name,
    stage: createTakeStage(take, optics),
    library: new ArtLibrary(widthPx, () => null),
    gl: createGlCompositor(new OffscreenCanvas(8, 8)),
    all: [] as number[],
    evaluating: [] as number[],
  }))
  for (let i = 0; i < frames; i++) {
    for (const shot of shots) {
      const begun = performance.now()
      const frame = shot.stage.at(i % LENGTH)
      const evaluated = performance.now()
      shot.gl.draw(compose(frame, view, shot.library, drawing, false), WHITE, 'exact')
      const drawn = performance.now()
      finish(shot.gl.canvas)
      if (i < frames / 4) continue
      shot.all.push(drawn - begun)
      shot.evaluating.push(evaluated - begun)
    }
  }
  for (const { gl } of shots) gl.dispose()
  return Object.fromEntries(shots.map(({ name, all, evaluating }) => [name, { all: median(all), evaluating: median(evaluating) }])) as ReturnType<typeof framesScriptMs>
}

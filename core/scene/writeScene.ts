import { fieldAngleDegrees } from '../camera/lens'
import type { CameraPose } from '../camera/pose'
import { basisOf } from '../camera/projection'
import { heightOf, widthOf, type Rectangle } from '../geometry/rectangle'
import type { Point3 } from '../geometry/point'
import { pointOnPlane } from '../depth/levelPlane'
import { inOrder } from '../document/order'
import type { Level } from '../document/records'
import { showsNothing } from '../document/records'
import type { TakeStage } from '../stage/takeStage'
import { framesPerSecond, type Rate } from '../time/rate'
import { GlbBuffer } from './glb'
import { flipped, near, slerp, sparse, straight, turnOfCamera, turnOfPlane, type Keys } from './tracks'

/** A drawing as the picture that its level is shown with, and where that lies in the art's own fw. */
export interface ScenePicture {
  readonly png: Uint8Array
  readonly box: Rectangle
}

export interface SceneAsk {
  readonly title: string
  readonly rate: Rate
  /** The take with its sets unfolded. */
  readonly stage: TakeStage
  /** Null where nobody has said: a frame width is then a metre. */
  readonly metresPerFw: number | null
  /** Of drawings that are not in it levels show nothing. */
  readonly pictures: ReadonlyMap<string, ScenePicture>
}

/** Under this key stands what Rubato reads again. */
export const SCENE_OWN = 'rubato'
/** Exact to this: places as parts of a frame width, turns as parts of a quaternion. 32-bit floats keep no more. */
const WITHIN = 1e-6
/** From so far behind everything stands before whoever looks. */
const FAR: CameraPose = Object.freeze({ x: 0, y: 0, depth: -2e6, panDegrees: 0, tiltDegrees: 0, rollDegrees: 0, focalLengthMm: 50 })
const NEAREST = 0.01

interface Stood {
  readonly place: readonly number[]
  readonly turn: [number, number, number, number]
  readonly size: number
}
interface LevelTrack {
  readonly level: Level
  readonly copy: number
  /** A frame each; undefined where it is not there. */
  readonly stands: (Stood | undefined)[]
  readonly shows: (string | null)[]
  readonly opacity: number
}

type Json = Record<string, unknown>

/**
 * A shot as a 3D scene, binary glTF 2.0: every camera with its animation, every level as a textured plane where it stands, carriers as empty
 * nodes. Units are metres, y up, cameras look along −z; a field is that of the film back, upright, as `yfov` asks. A channel has a key a frame,
 * or fewer where what is between is exactly on the way.
 */
export function writeScene(ask: SceneAsk): Uint8Array<ArrayBuffer> {
  const { stage, rate, metresPerFw } = ask
  const { take, optics, lengthFrames } = stage
  const metres = metresPerFw ?? 1
  const fps = framesPerSecond(rate)
  const buffer = new GlbBuffer()
  const nodes: Json[] = []
  const cameras: Json[] = []
  const meshes: Json[] = []
  const materials: Json[] = []
  const textures: Json[] = []
  const images: Json[] = []
  const samplers: Json[] = []
  const channels: Json[] = []
  const roots: number[] = []
  const used = new Set<string>()
  const times = new Map<string, number>()

  const timesOf = (frames: readonly number[]): number => {
    const key = frames.join()
    const known = times.get(key)
    if (known !== undefined) return known
    const made = buffer.floats(frames.map((frame) => frame / fps), 'SCALAR')
    times.set(key, made)
    return made
  }
  const channel = (target: Json, { frames, values }: Keys, type: 'SCALAR' | 'VEC3' | 'VEC4', interpolation: 'LINEAR' | 'STEP' = 'LINEAR') => {
    samplers.push({ input: timesOf(frames), output: buffer.floats(values.flat(), type), interpolation })
    channels.push({ sampler: samplers.length - 1, target })
  }
  /** Still where it never changes, and animated where it does. */
  const tell = (node: number, path: 'translation' | 'rotation' | 'scale', values: readonly (readonly number[])[], within = WITHIN) => {
    const keys = sparse(values, within, path === 'rotation' ? slerp : straight)
    const first = keys.values[0]!
    const plain = path === 'scale' ? [1, 1, 1] : path === 'rotation' ? [0, 0, 0, 1] : [0, 0, 0]
    if (first.some((value, i) => value !== plain[i])) nodes[node]![path] = [...first]
    if (keys.frames.length > 1) channel({ node, path }, keys, path === 'rotation' ? 'VEC4' : 'VEC3')
  }
  const addNode = (fields: Json): number => nodes.push(fields) - 1
  const frames = Array.from({ length: Math.max(1, lengthFrames) }, (_, frame) => frame)
  const metric = (point: Point3) => flipped(point).map((value) => value * metres)

  for (const camera of inOrder(take.cameras)) {
    const poses = frames.map((frame) => stage.poseOf(camera.id, frame))
    const yfovs = poses.map(({ focalLengthMm }) => (fieldAngleDegrees(focalLengthMm, optics.filmBackMm / optics.aspect) * Math.PI) / 180)
    const zooms = yfovs.some((each) => Math.abs(each - yfovs[0]!) > WITHIN)
    cameras.push({ type: 'perspective', name: `Camera ${camera.letter}`, perspective: { aspectRatio: optics.aspect, yfov: yfovs[0]!, znear: NEAREST * metres }, extras: { [SCENE_OWN]: { filmBackMm: optics.filmBackMm, focalLengthMm: zooms ? poses.map(({ focalLengthMm }) => focalLengthMm) : [poses[0]!.focalLengthMm] } } })
    const node = addNode({ name: `Camera ${camera.letter}`, camera: cameras.length - 1, extras: { [SCENE_OWN]: { camera: camera.id } } })
    roots.push(node)
    tell(node, 'translation', poses.map((pose) => metric(pose)))
    let before: [number, number, number, number] | undefined
    tell(node, 'rotation', poses.map((pose) => (before = near(before, turnOfCamera(basisOf(pose))))))
    if (!zooms) continue
    used.add('KHR_animation_pointer')
    channel({ path: 'pointer', extensions: { KHR_animation_pointer: { pointer: `/cameras/${cameras.length - 1}/perspective/yfov` } } }, sparse(yfovs.map((each) => [each]), WITHIN, straight), 'SCALAR')
  }

  const meshOf = new Map<string, number>()
  const materialOf = new Map<string, number>()
  for (const { level, copy, stands, shows, opacity } of levelTracks(stage, frames, metric)) {
    const known = stands.find((stand) => stand !== undefined)
    if (known === undefined) continue
    const node = addNode({ name: copy === 0 ? level.name : `${level.name} ${copy + 1}`, extras: { [SCENE_OWN]: { level: level.id, ...(copy === 0 ? {} : { copy }), ...(level.standIn === true ? { standIn: true } : {}) } } })
    roots.push(node)
    // Where it is not there it waits where it last was.
    let last = known
    const whole = stands.map((stand) => (last = stand ?? last))
    tell(node, 'translation', whole.map(({ place }) => place))
    let before: [number, number, number, number] | undefined
    tell(node, 'rotation', whole.map(({ turn }) => (before = near(before, turn))))
    tell(node, 'scale', whole.map(({ size }) => [size, size, size]))
    const shown = [...new Set(shows.flatMap((id) => (id !== null && ask.pictures.has(id) ? [id] : [])))]
    const children = shown.map((drawingId) => {
      const mesh = meshFor(level, drawingId, opacity)
      const child = addNode({ name: shown.length === 1 ? level.name : `${level.name} ${shown.indexOf(drawingId) + 1}`, mesh, extras: { [SCENE_OWN]: { drawing: drawingId } } })
      const isOn = shows.map((id, frame) => id === drawingId && stands[frame] !== undefined)
      if (!isOn.every(Boolean)) {
        const at = isOn.flatMap((on, frame) => (frame === 0 || on !== isOn[frame - 1] ? [frame] : []))
        nodes[child]!.scale = Array<number>(3).fill(isOn[0] ? 1 : 0)
        channel({ node: child, path: 'scale' }, { frames: at, values: at.map((frame) => Array<number>(3).fill(isOn[frame] ? 1 : 0)) }, 'VEC3', 'STEP')
      }
      return child
    })
    if (children.length > 0) nodes[node]!.children = children
  }
  for (const level of inOrder(take.levels)) {
    if (!showsNothing(level)) continue
    const node = addNode({ name: level.name, extras: { [SCENE_OWN]: { carrier: level.id } } })
    roots.push(node)
    const stands = frames.map((frame) => stage.seen(frame).standOf(level.id))
    tell(node, 'translation', stands.map(({ place }) => metric(place)))
    let before: [number, number, number, number] | undefined
    tell(node, 'rotation', stands.map((stand) => (before = near(before, turnOfCamera(stand)))))
    tell(node, 'scale', stands.map(({ size }) => Array<number>(3).fill(size)))
  }
  if (meshes.length > 0) used.add('KHR_materials_unlit')
  return buffer.write({
    asset: { version: '2.0', generator: 'Rubato', extras: { [SCENE_OWN]: { title: ask.title, fps: [rate.numerator, rate.denominator], frames: lengthFrames, metresPerFw, filmBackMm: optics.filmBackMm } } },
    ...(used.size === 0 ? {} : { extensionsUsed: [...used] }),
    scene: 0,
    scenes: [{ name: ask.title, nodes: roots }],
    nodes,
    ...(cameras.length === 0 ? {} : { cameras }),
    ...(meshes.length === 0 ? {} : { meshes, materials, textures, images, samplers: [{ magFilter: 9729, minFilter: 9987, wrapS: 33_071, wrapT: 33_071 }] }),
    ...(channels.length === 0 ? {} : { animations: [{ name: ask.title, channels, samplers }] }),
  })

  /** A rectangle of art about the level's pivot. Meshes are shared by copies, materials by whatever shows the picture as strongly. */
  function meshFor(level: Level, drawingId: string, opacity: number): number {
    const pivot = level.pivot ?? { x: 0, y: 0 }
    const key = `${drawingId} ${pivot.x} ${pivot.y} ${opacity}`
    const known = meshOf.get(key)
    if (known !== undefined) return known
    const { png, box } = ask.pictures.get(drawingId)!
    const [left, bottom] = [box.left - pivot.x, box.bottom - pivot.y].map((value) => value * metres) as [number, number]
    const [right, top] = [left + widthOf(box) * metres, bottom + heightOf(box) * metres]
    const materialKey = `${drawingId} ${opacity}`
    if (!materialOf.has(materialKey)) {
      let texture = textures.findIndex((each) => each.name === drawingId)
      if (texture < 0) {
        images.push({ name: drawingId, mimeType: 'image/png', bufferView: buffer.file(png) })
        texture = textures.push({ name: drawingId, source: images.length - 1, sampler: 0 }) - 1
      }
      materials.push({ name: level.name, doubleSided: true, alphaMode: 'BLEND', pbrMetallicRoughness: { baseColorTexture: { index: texture }, baseColorFactor: [1, 1, 1, opacity], metallicFactor: 0, roughnessFactor: 1 }, extensions: { KHR_materials_unlit: {} } })
      materialOf.set(materialKey, materials.length - 1)
    }
    const attributes = {
      POSITION: buffer.floats([left, bottom, 0, right, bottom, 0, right, top, 0, left, top, 0], 'VEC3', true),
      TEXCOORD_0: buffer.floats([0, 1, 1, 1, 1, 0, 0, 0], 'VEC2', true),
    }
    meshes.push({ name: level.name, primitives: [{ attributes, indices: buffer.indices([0, 1, 2, 0, 2, 3]), material: materialOf.get(materialKey)! }] })
    meshOf.set(key, meshes.length - 1)
    return meshes.length - 1
  }
}

/** How each level, and each copy of one, stands at every frame, for the camera that is live then. */
function levelTracks(stage: TakeStage, frames: readonly number[], metric: (point: Point3) => readonly number[]): readonly LevelTrack[] {
  const tracks = new Map<string, LevelTrack>()
  for (const frame of frames) {
    const cameraId = stage.live.at(frame)
    for (const { level, copy, plane, drawingId, opacity } of stage.through(frame, cameraId, stage.poseOf(cameraId, frame), null, FAR).levels) {
      if (level.kind === 'reference' || showsNothing(level)) continue
      const key = `${level.id} ${copy}`
      let track = tracks.get(key)
      if (track === undefined) tracks.set(key, (track = { level, copy, stands: [], shows: frames.map(() => null), opacity }))
      const { rotation, size } = turnOfPlane(plane.axisX, plane.axisY)
      track.stands[frame] = { place: metric(pointOnPlane(plane, level.pivot ?? { x: 0, y: 0 })), turn: rotation, size }
      track.shows[frame] = drawingId
    }
  }
  for (const { stands } of tracks.values()) stands.length = frames.length
  return [...tracks.values()].map((track) => ({ ...track, stands: Array.from(track.stands) }))
}

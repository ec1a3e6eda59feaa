import { Logger, Verbosity, WebIO, type Accessor, type AnimationSampler, type Document, type Mesh, type Node } from '@gltf-transform/core'
import { holdable, shorten } from '../document/text'
import { framesPerSecond, isKnownRate, type Rate } from '../time/rate'
import { openGlb } from './glb'
import { slerp, straight } from './tracks'
import { SCENE_OWN } from './writeScene'

const NODES_MOST = 20_000
const NUMBERS_MOST = 40_000_000
const DEPTH_MOST = 256
/** Of a place, turn or size; farther than any set reaches in any unit. */
const VALUE_MOST = 1e12
/** Longer is no shot. */
const SECONDS_MOST = 4 * 3600
const NAME_LETTERS = 120

/** Where something stands at a moment, as the file has it: metres, y up; the directions are of length 1 and at right angles. */
export interface SceneStand {
  readonly place: readonly [number, number, number]
  readonly x: readonly [number, number, number]
  readonly y: readonly [number, number, number]
  readonly z: readonly [number, number, number]
  readonly size: number
}
export interface SceneThing {
  readonly name: string
  /** `level`: a plane that was a level of a shot here; `mesh`: something with a shape; `empty`: what carries others, or moves. */
  readonly kind: 'level' | 'mesh' | 'empty'
  /** Of the level or carrier that it was here. */
  readonly levelId: string | null
  /** Of its shape, in its own axes: the least and the greatest. */
  readonly bounds: { readonly least: readonly [number, number, number]; readonly most: readonly [number, number, number] } | null
  readonly moves: boolean
  at(seconds: number): SceneStand
}
export interface SceneCamera {
  readonly name: string
  readonly cameraId: string | null
  readonly moves: boolean
  at(seconds: number): SceneStand
  /** The tangent of half of what it sees upright. */
  halfHeightAt(seconds: number): number
  /** Width over height; null where the file leaves it open. */
  readonly aspect: number | null
}
export interface OpenedScene {
  readonly title: string
  readonly seconds: number
  /** Of the film that it was written from; null for a file made elsewhere. */
  readonly own: { readonly rate: Rate; readonly frames: number; readonly metresPerFw: number | null } | null
  /** Keys stand so many a second, as far as can be told. */
  readonly keysPerSecond: number | null
  readonly cameras: readonly SceneCamera[]
  readonly things: readonly SceneThing[]
  readonly notes: readonly string[]
}
export type SceneRead = { readonly ok: true; readonly scene: OpenedScene } | { readonly ok: false; readonly why: string }

const numberOf = (value: unknown): number | null => (typeof value === 'number' && Number.isFinite(value) ? value : null)
const isJson = (value: unknown): value is Record<string, unknown> => typeof value === 'object' && value !== null && !Array.isArray(value)
const ownIn = (extras: unknown): Record<string, unknown> => (isJson(extras) && isJson(extras[SCENE_OWN]) ? extras[SCENE_OWN] : {})
const idIn = (value: unknown): string | null => (typeof value === 'string' && /^[a-z0-9][a-z0-9_.-]{0,191}$/i.test(value) ? value : null)

/** What the library says of a file, where that is said for people. */
function wordsOf(error: unknown): string {
  const { name, message } = error as Error
  const isForPeople = name === 'Error' && message !== '' && !/undefined|NaN|\[object|not a function/i.test(message)
  return isForPeople ? shorten(holdable(message), 200) : 'a part of it is not as the format has it.'
}

/** Reads a binary glTF scene, made here or elsewhere. Whatever it is, what comes is a scene or a refusal in words. */
export async function readScene(bytes: Uint8Array): Promise<SceneRead> {
  const opened = openGlb(bytes)
  if (typeof opened === 'string') return { ok: false, why: opened }
  const trouble = troubleIn(opened.json)
  if (trouble !== null) return { ok: false, why: trouble }
  let document: Document
  try {
    document = await new WebIO().setLogger(new Logger(Verbosity.SILENT)).readBinary(bytes)
  } catch (error) {
    return { ok: false, why: `It can’t be read: ${wordsOf(error)}` }
  }
  try {
    return { ok: true, scene: new SceneReader(document, opened.json).scene() }
  } catch (error) {
    if (error instanceof Unreadable) return { ok: false, why: error.message }
    return { ok: false, why: `It does not hold together: ${wordsOf(error)}` }
  }
}

/** What is wrong with a file, in words. Also thrown by `at`, where what a thing hangs on takes it past all numbers. */
export class Unreadable extends Error {}

/** What no reader should be led into: other files, circles, more than memory holds. */
function troubleIn(json: Record<string, unknown>): string | null {
  const version = isJson(json.asset) ? json.asset.version : undefined
  if (typeof version !== 'string') return 'It does not say which version of glTF it is; version 2 is read.'
  if (!version.startsWith('2.')) return `It says that it is glTF of version ${shorten(holdable(version), 20)}; version 2 is read.`
  const list = (name: string) => (Array.isArray(json[name]) ? (json[name] as unknown[]) : [])
  const nodes = list('nodes')
  if (nodes.length > NODES_MOST) return `There are ${nodes.length} nodes in it; ${NODES_MOST.toLocaleString('en')} are read at the most.`
  if (list('buffers').some((buffer) => isJson(buffer) && typeof buffer.uri === 'string' && !buffer.uri.startsWith('data:'))) return 'Its numbers lie in another file. Save it again as one file (.glb) with everything in it.'
  const numbers = list('accessors').reduce<number>((sum, each) => sum + (isJson(each) ? Math.max(0, numberOf(each.count) ?? 0) * 16 : 0), 0)
  if (!(numbers <= NUMBERS_MOST)) return 'It claims to hold more numbers than a set and its cameras have.'
  const children = nodes.map((node) => (isJson(node) && Array.isArray(node.children) ? node.children.filter((each): each is number => Number.isInteger(each) && each >= 0 && each < nodes.length) : []))
  const parents = new Int32Array(nodes.length).fill(-1)
  for (const [i, own] of children.entries()) {
    for (const child of own) {
      if (parents[child] !== -1) return 'One of its nodes hangs on two others.'
      parents[child] = i
    }
  }
  for (let i = 0; i < nodes.length; i++) {
    let [at, deep] = [i, 0]
    while (at >= 0 && deep <= DEPTH_MOST) [at, deep] = [parents[at]!, deep + 1]
    if (deep > DEPTH_MOST) return 'Its nodes hang on one another in a circle, or deeper than any set.'
  }
  return null
}

const NO_PLACE = 'Something in it stands at a place that is no number, or farther away than any set reaches. Take it out there, and save it again.'
const isPlace = (value: number) => Math.abs(value) <= VALUE_MOST

type Path = 'translation' | 'rotation' | 'scale'
type Trs = { readonly place: readonly number[]; readonly turn: readonly number[]; readonly size: readonly number[] }
type Matrix = readonly number[]

class SceneReader {
  readonly #document: Document
  readonly #json: Record<string, unknown>
  readonly #channels = new Map<Node, Map<Path, AnimationSampler>>()
  #seconds = 0
  #keys = new Map<number, number>()
  #ignored = 0

  constructor(document: Document, json: Record<string, unknown>) {
    this.#document = document
    this.#json = json
    for (const animation of document.getRoot().listAnimations()) {
      for (const channel of animation.listChannels()) {
        const [node, path, sampler] = [channel.getTargetNode(), channel.getTargetPath(), channel.getSampler()]
        if (sampler === null) continue
        this.#look(sampler.getInput())
        if (node === null || (path !== 'translation' && path !== 'rotation' && path !== 'scale')) continue
        if (sampler.getInput() === null || sampler.getOutput() === null) throw new Unreadable('One of its moves has no keys.')
        if (sampler.getOutput()!.getArray()?.every(isPlace) !== true) throw new Unreadable(NO_PLACE)
        const own = this.#channels.get(node) ?? new Map<Path, AnimationSampler>()
        // Of several animations the first that moves something is meant.
        if (own.has(path)) this.#ignored++
        else own.set(path, sampler)
        this.#channels.set(node, own)
      }
    }
    if (!(this.#seconds <= SECONDS_MOST)) throw new Unreadable('Its animation is longer than any shot.')
  }

  #look(times: Accessor | null) {
    if (times === null) return
    const count = times.getCount()
    if (count === 0) return
    if (times.getArray()?.every(Number.isFinite) !== true) throw new Unreadable('One of its moves has times that are no numbers.')
    this.#seconds = Math.max(this.#seconds, times.getScalar(count - 1))
    for (let i = 1; i < Math.min(count, 50); i++) {
      const rate = Math.round(1000 / (times.getScalar(i) - times.getScalar(i - 1))) / 1000
      if (rate >= 1 && rate <= 240) this.#keys.set(rate, (this.#keys.get(rate) ?? 0) + 1)
    }
  }

  scene(): OpenedScene {
    const root = this.#document.getRoot()
    const nodes = root.listNodes()
    const cameras: SceneCamera[] = []
    const things: SceneThing[] = []
    const notes: string[] = []
    let [flat, skinned] = [0, 0]
    const childLevels = new Set(nodes.filter((node) => ownIn(node.getExtras()).drawing !== undefined))
    for (const node of nodes) {
      const own = ownIn(node.getExtras())
      if (![...node.getTranslation(), ...node.getRotation(), ...node.getScale()].every(isPlace)) throw new Unreadable(NO_PLACE)
      const name = shorten(holdable(node.getName().trim()), NAME_LETTERS)
      const moves = this.#moves(node)
      const at = (seconds: number) => standOf(this.#world(node, seconds))
      const camera = node.getCamera()
      if (camera !== null) {
        if (camera.getType() !== 'perspective') flat++
        else {
          const yfov = camera.getYFov()
          if (!(yfov > 0 && yfov < Math.PI)) throw new Unreadable(`The camera ${name || 'in it'} sees ${yfov} radians upright, which no camera does.`)
          const index = root.listCameras().indexOf(camera)
          const zoom = this.#zoomOf(index)
          const aspect = camera.getAspectRatio()
          cameras.push({ name: name || `Camera ${cameras.length + 1}`, cameraId: idIn(own.camera), moves: moves || zoom !== null, at, aspect: aspect !== null && aspect > 0 ? aspect : null, halfHeightAt: (seconds) => Math.tan((zoom?.(seconds) ?? yfov) / 2) })
        }
        continue
      }
      if (childLevels.has(node)) continue
      if (node.getSkin() !== null) skinned++
      const mesh = node.getMesh()
      const levelId = idIn(own.level) ?? idIn(own.carrier)
      if (own.copy !== undefined) continue
      const kind = own.level !== undefined ? 'level' : mesh !== null && levelId === null ? 'mesh' : 'empty'
      // What neither moves, nor has a shape, nor was anything here, says nothing.
      if (kind === 'empty' && levelId === null && !moves) continue
      things.push({ name: name || (kind === 'mesh' ? 'Shape' : 'Carrier'), kind, levelId, bounds: mesh === null ? null : boundsOf(mesh), moves, at })
    }
    const told = ownIn(root.getAsset().extras)
    const rate = Array.isArray(told.fps) && told.fps.length === 2 ? { numerator: Number(told.fps[0]), denominator: Number(told.fps[1]) } : null
    const own = rate !== null && isKnownRate(rate) ? { rate, frames: Math.max(0, Math.min(1e6, Math.round(numberOf(told.frames) ?? 0))), metresPerFw: numberOf(told.metresPerFw) } : null
    if (flat > 0) notes.push(`${flat === 1 ? 'One camera sees' : `${flat} cameras see`} without perspective, and ${flat === 1 ? 'is' : 'are'} left out.`)
    if (skinned > 0) notes.push('Shapes that are bent by bones stand as they are at rest.')
    if (this.#ignored > 0) notes.push('Something is moved by more than one animation: the first is taken.')
    if (cameras.length === 0 && things.length === 0) throw new Unreadable('There is no camera in it, nothing that moves and no shape.')
    const usual = [...this.#keys].sort((a, b) => b[1] - a[1])[0]?.[0] ?? null
    return { title: shorten(holdable(root.getDefaultScene()?.getName() ?? ''), NAME_LETTERS), seconds: this.#seconds, own, keysPerSecond: own === null ? usual : framesPerSecond(own.rate), cameras, things, notes }
  }

  #moves(node: Node): boolean {
    for (let at: Node | null = node; at !== null; at = at.getParentNode()) if (this.#channels.has(at)) return true
    return false
  }

  #own(node: Node, seconds: number): Trs {
    const channels = this.#channels.get(node)
    const of = (path: Path, still: readonly number[]) => ((sampler) => (sampler === undefined ? still : sampled(sampler, seconds, path === 'rotation')))(channels?.get(path))
    return { place: of('translation', node.getTranslation()), turn: of('rotation', node.getRotation()), size: of('scale', node.getScale()) }
  }

  #world(node: Node, seconds: number): Matrix {
    let matrix = matrixOf(this.#own(node, seconds))
    for (let at = node.getParentNode(); at !== null; at = at.getParentNode()) matrix = multiplied(matrixOf(this.#own(at, seconds)), matrix)
    if (!matrix.every(Number.isFinite)) throw new Unreadable(NO_PLACE)
    return matrix
  }

  /** The field of a camera over time, where the file animates it (KHR_animation_pointer). */
  #zoomOf(camera: number): ((seconds: number) => number) | null {
    const animations = Array.isArray(this.#json.animations) ? this.#json.animations : []
    for (const animation of animations) {
      if (!isJson(animation) || !Array.isArray(animation.channels) || !Array.isArray(animation.samplers)) continue
      for (const channel of animation.channels) {
        const target = isJson(channel) && isJson(channel.target) ? channel.target : null
        const pointer = target !== null && isJson(target.extensions) && isJson(target.extensions.KHR_animation_pointer) ? target.extensions.KHR_animation_pointer.pointer : null
        if (pointer !== `/cameras/${camera}/perspective/yfov`) continue
        const sampler: unknown = animation.samplers[Number((channel as { sampler?: unknown }).sampler)]
        const accessors = this.#document.getRoot().listAccessors()
        const [input, output] = isJson(sampler) ? [accessors[Number(sampler.input)], accessors[Number(sampler.output)]] : []
        if (input === undefined || output === undefined || input.getCount() === 0 || input.getCount() !== output.getCount()) continue
        if (![input, output].every((each) => each.getArray()?.every(Number.isFinite) === true)) throw new Unreadable('One of its cameras zooms to what is no number.')
        return (seconds) => Math.min(Math.PI - 1e-3, Math.max(1e-4, betweenKeys(input, output, seconds, isJson(sampler) && sampler.interpolation === 'STEP' ? 'STEP' : 'LINEAR', false)[0]!))
      }
    }
    return null
  }
}

const sampled = (sampler: AnimationSampler, seconds: number, turns: boolean): readonly number[] => betweenKeys(sampler.getInput()!, sampler.getOutput()!, seconds, sampler.getInterpolation(), turns)

/** What keys say at a moment; held before the first and after the last (glTF 2.0, appendix C). */
function betweenKeys(input: Accessor, output: Accessor, seconds: number, how: string, turns: boolean): readonly number[] {
  const count = input.getCount()
  let [low, high] = [0, count]
  while (low < high) {
    const middle = (low + high) >> 1
    if (input.getScalar(middle) <= seconds + 1e-7) low = middle + 1
    else high = middle
  }
  const i = Math.max(0, low - 1)
  const cubic = how === 'CUBICSPLINE'
  const element = (at: number): number[] => output.getElement(at, [])
  const value = (at: number) => element(cubic ? at * 3 + 1 : at)
  if (low === 0 || i === count - 1 || how === 'STEP') return value(i)
  const [from, to] = [input.getScalar(i), input.getScalar(i + 1)]
  const span = Math.max(1e-9, to - from)
  const share = Math.min(1, (seconds - from) / span)
  if (!cubic) return turns ? slerp(unit(value(i)), unit(value(i + 1)), share) : straight(value(i), value(i + 1), share)
  const [a, b, leaves, arrives] = [value(i), value(i + 1), element(i * 3 + 2), element((i + 1) * 3)]
  const [s2, s3] = [share ** 2, share ** 3]
  const made = a.map((each, n) => (2 * s3 - 3 * s2 + 1) * each + span * (s3 - 2 * s2 + share) * leaves[n]! + (-2 * s3 + 3 * s2) * b[n]! + span * (s3 - s2) * arrives[n]!)
  return turns ? unit(made) : made
}

function unit(values: readonly number[]): readonly number[] {
  const norm = Math.hypot(...values)
  return norm > 0 ? values.map((value) => value / norm) : [0, 0, 0, 1]
}

/** Column by column. */
function matrixOf({ place, turn, size }: Trs): Matrix {
  const [x, y, z, w] = unit(turn) as [number, number, number, number]
  const [sx, sy, sz] = size as [number, number, number]
  return [
    (1 - 2 * (y * y + z * z)) * sx, 2 * (x * y + z * w) * sx, 2 * (x * z - y * w) * sx, 0,
    2 * (x * y - z * w) * sy, (1 - 2 * (x * x + z * z)) * sy, 2 * (y * z + x * w) * sy, 0,
    2 * (x * z + y * w) * sz, 2 * (y * z - x * w) * sz, (1 - 2 * (x * x + y * y)) * sz, 0,
    place[0]!, place[1]!, place[2]!, 1,
  ]
}
function multiplied(a: Matrix, b: Matrix): Matrix {
  return Array.from({ length: 16 }, (_, n) => {
    const [column, row] = [Math.floor(n / 4), n % 4]
    return a[row]! * b[column * 4]! + a[row + 4]! * b[column * 4 + 1]! + a[row + 8]! * b[column * 4 + 2]! + a[row + 12]! * b[column * 4 + 3]!
  })
}

type Three = readonly [number, number, number]
const threeAt = (matrix: Matrix, at: number): Three => [matrix[at]!, matrix[at + 1]!, matrix[at + 2]!]
const dot3 = (a: Three, b: Three) => a[0] * b[0] + a[1] * b[1] + a[2] * b[2]
const cross3 = (a: Three, b: Three): Three => [a[1] * b[2] - a[2] * b[1], a[2] * b[0] - a[0] * b[2], a[0] * b[1] - a[1] * b[0]]

/** Without shear and mirroring, which nothing here has: x as it lies, y as near to it as can be. */
function standOf(matrix: Matrix): SceneStand {
  const [ax, ay] = [threeAt(matrix, 0), threeAt(matrix, 4)]
  const size = Math.hypot(...ax)
  const x: Three = size > 1e-12 ? [ax[0] / size, ax[1] / size, ax[2] / size] : [1, 0, 0]
  const along = dot3(ay, x)
  const rest: Three = [ay[0] - along * x[0], ay[1] - along * x[1], ay[2] - along * x[2]]
  const high = Math.hypot(...rest)
  const y: Three = high > 1e-12 ? [rest[0] / high, rest[1] / high, rest[2] / high] : Math.abs(x[1]) < 0.9 ? unit3(cross3(cross3(x, [0, 1, 0]), x)) : [0, 0, 1]
  return { place: threeAt(matrix, 12), x, y, z: cross3(x, y), size }
}
const unit3 = (a: Three): Three => ((norm) => [a[0] / norm, a[1] / norm, a[2] / norm])(Math.hypot(...a))

function boundsOf(mesh: Mesh): SceneThing['bounds'] {
  const [least, most]: [[number, number, number], [number, number, number]] = [[Infinity, Infinity, Infinity], [-Infinity, -Infinity, -Infinity]]
  for (const primitive of mesh.listPrimitives()) {
    const positions = primitive.getAttribute('POSITION')
    if (positions === null) continue
    for (const [i, value] of positions.getMin([]).entries()) least[i] = Math.min(least[i]!, value)
    for (const [i, value] of positions.getMax([]).entries()) most[i] = Math.max(most[i]!, value)
  }
  return [...least, ...most].every(Number.isFinite) ? { least, most } : null
}

import { heldLens, type Optics } from '../camera/lens'
import type { CameraPose } from '../camera/pose'
import type { CameraBasis } from '../camera/projection'
import { into, SET, turnedInto, turnNear, turnOf, type Carriage, type Stand } from '../depth/carriage'
import { roomWalls } from '../depth/walls'
import { carriageIn } from '../document/carriers'
import { newLevel } from '../document/newLevel'
import { inOrder } from '../document/order'
import { anchorOfFrame, rackLevels, takeLengthFrames } from '../document/panels'
import { METRES_PER_FW_RANGE, type Level, type LevelKey } from '../document/records'
import { shorten } from '../document/text'
import { takeRef, type Film, type TakeBody } from '../document/units'
import { addCamera } from '../edits/take/cameras'
import { bakeOperated } from '../edits/take/bake'
import { Draft } from '../edits/change/draft'
import { inTurn } from '../edits/change/inTurn'
import { made, refused, type Made } from '../edits/change/refusal'
import { standFlats } from '../edits/take/flats'
import { applyThinned } from '../edits/take/keyMoves'
import type { Point3 } from '../geometry/point'
import { flatArt } from '../ink/standInArt'
import type { LevelTurn } from '../moves/levelValues'
import type { MoveSpec } from '../moves/move'
import { createTakeStage, type TakeStage } from '../stage/takeStage'
import { thinFramings } from '../stage/thin'
import { thinLevel } from '../stage/thinLevel'
import { framesPerSecond, type Rate } from '../time/rate'
import { Unreadable, type OpenedScene, type SceneCamera, type SceneStand, type SceneThing } from './readScene'

export interface SceneWishes {
  /** The camera that is taken, by its place in the scene; null: none. */
  readonly camera: number | null
  /** The shot's camera that it becomes; null: a new one. */
  readonly into: string | null
  /** Planes that were levels of this shot, where they moved. */
  readonly levels: boolean
  /** Everything else: what moves becomes carriers, shapes become boxes that stand in for them. */
  readonly others: boolean
  /** Metres of the file to a frame width. */
  readonly metresPerFw: number
  /** The file has z up, as some write it against the format. */
  readonly zUp: boolean
  /** How a second of the file becomes frames: `time` as long as it lasts, `keys` a key of it a frame. */
  readonly rate: 'time' | 'keys'
  readonly tolerancePx: number
  readonly outputWidthPx: number
}
export interface SceneBrought {
  readonly made: Made
  readonly framings: number
  /** The farthest that the picture is off at any frame, px of the output. */
  readonly mostPx: number
  readonly levels: number
  readonly carriers: number
  readonly boxes: number
  /** Frames of the shot that the animation lasts; it is held after them. */
  readonly frames: number
}

const EVEN: MoveSpec = Object.freeze({ timing: { kind: 'even' }, path: { kind: 'straight' }, evenness: { kind: 'set' } } as const)
/** Nearer than this to what is there a level is as it was. */
const SAME = Object.freeze({ fw: 2e-5, turn: 2e-5, size: 2e-5 })
const THINGS_MOST = 200

/** Sets what a scene is measured by: its axes and its scale as a shot has them. */
function measured(wishes: Pick<SceneWishes, 'metresPerFw' | 'zUp'>) {
  const turned = ([x, y, z]: readonly [number, number, number]): Point3 => (wishes.zUp ? { x, y: z, depth: y } : { x, y, depth: 0 - z })
  const place = (at: readonly [number, number, number]): Point3 => ((point) => ({ x: point.x / wishes.metresPerFw, y: point.y / wishes.metresPerFw, depth: point.depth / wishes.metresPerFw }))(turned(at))
  const minus = ({ x, y, depth }: Point3): Point3 => ({ x: 0 - x, y: 0 - y, depth: 0 - depth })
  return { place, basis: ({ x, y, z }: SceneStand): CameraBasis => ({ right: turned(x), up: turned(y), forward: minus(turned(z)) }) }
}

/** What half of a camera's height says of its lens, mm: what it sees across stays, whatever shape its picture has. */
function lensMm(camera: SceneCamera, seconds: number, { filmBackMm, aspect }: Optics): number {
  const across = camera.halfHeightAt(seconds) * (camera.aspect ?? aspect)
  return heldLens(filmBackMm / (2 * across))
}

/** Of a shot's frames, the moment of the file that each shows. */
function secondsOf(scene: OpenedScene, rate: Rate, how: SceneWishes['rate']): (frame: number) => number {
  const fps = how === 'keys' && scene.keysPerSecond !== null ? scene.keysPerSecond : framesPerSecond(rate)
  return (frame) => frame / fps
}

/** How many frames of a shot a scene lasts. */
export function framesOfScene(scene: OpenedScene, rate: Rate, how: SceneWishes['rate']): number {
  const one = secondsOf(scene, rate, how)(1)
  return Math.max(1, Math.round(scene.seconds / one) + 1)
}

/** The camera's pose at each of so many frames; what it turns goes on, and never jumps by a whole turn. */
function posesOf(scene: OpenedScene, wishes: Pick<SceneWishes, 'metresPerFw' | 'zUp' | 'rate'>, camera: SceneCamera, frames: number, rate: Rate, optics: Optics): readonly CameraPose[] {
  const { place, basis } = measured(wishes)
  const at = secondsOf(scene, rate, wishes.rate)
  let turn: LevelTurn | null = null
  return Array.from({ length: frames }, (_, frame) => {
    const stand = camera.at(at(frame))
    turn = turn === null ? turnOf(basis(stand)) : turnNear(basis(stand), turn)
    return { ...place(stand.place), ...turn, focalLengthMm: lensMm(camera, at(frame), optics) }
  })
}

/**
 * Takes a scene into a shot's circled take: its camera as few framings, planes that were levels as those levels, what else moves as carriers,
 * shapes as boxes that stand in. One change; nothing that did not move is touched.
 */
export function bringScene(film: Film, takeId: string, scene: OpenedScene, wishes: SceneWishes, rate: Rate, optics: Optics, newId: () => string): SceneBrought {
  try {
    return brought(film, takeId, scene, wishes, rate, optics, newId)
  } catch (error) {
    if (error instanceof Unreadable) return none(refused({ code: 'pose-not-finite' }))
    throw error
  }
}

const none = (refusal: Made): SceneBrought => ({ made: refusal, framings: 0, mostPx: 0, levels: 0, carriers: 0, boxes: 0, frames: 0 })

function brought(film: Film, takeId: string, scene: OpenedScene, wishes: SceneWishes, rate: Rate, optics: Optics, newId: () => string): SceneBrought {
  const take = film.takes[takeId]
  const counts = { framings: 0, mostPx: 0, levels: 0, carriers: 0, boxes: 0 }
  if (take === undefined) return none(refused({ code: 'missing', what: 'take', id: takeId }))
  if (!(wishes.metresPerFw >= METRES_PER_FW_RANGE.min && wishes.metresPerFw <= METRES_PER_FW_RANGE.max)) return none(refused({ code: 'pose-not-finite' }))
  const length = takeLengthFrames(take)
  const frames = Math.min(length, framesOfScene(scene, rate, wishes.rate))
  const at = secondsOf(scene, rate, wishes.rate)
  const measure = measured(wishes)
  const standAt = (thing: SceneThing, frame: number): Stand => ((stand) => ({ ...measure.basis(stand), place: measure.place(stand.place), size: stand.size }))(thing.at(at(frame)))
  const steps: ((now: Film) => Made)[] = []
  const camera = wishes.camera === null ? undefined : scene.cameras[wishes.camera]
  if (camera !== undefined) {
    const poses = posesOf(scene, wishes, camera, frames, rate, optics)
    // Held to the end, as whoever made it sees it.
    const whole = [...poses, ...Array.from({ length: length - poses.length }, () => poses.at(-1)!)]
    const cameraId = wishes.into ?? newId()
    if (wishes.into === null) steps.push((now) => addCamera(now.takes[takeId]!, takeId, cameraId, 0, whole[0]!, newId))
    steps.push((now) => {
      const baked = bakeOperated(now.takes[takeId]!, takeId, cameraId, 0, whole, { optics, tolerancePx: wishes.tolerancePx, outputWidthPx: wishes.outputWidthPx }, newId)!
      counts.framings = baked.framings
      counts.mostPx = baked.mostPx
      return baked.made
    })
    // One that stands still needs no second framing to do so.
    if (!camera.moves) {
      steps.push((now) => {
        const thinned = thinFramings(now.takes[takeId]!, cameraId, optics, 0.01, wishes.outputWidthPx)
        counts.framings -= thinned.remove.length
        return applyThinned(now.takes[takeId]!, takeId, thinned)
      })
    }
  }
  const before = createTakeStage(take, optics)
  const movable = (thing: SceneThing): Level | undefined => (thing.levelId === null ? undefined : take.levels[thing.levelId])
  if (wishes.levels) {
    for (const thing of scene.things) {
      const level = movable(thing)
      if (level === undefined) continue
      steps.push((now) => {
        // Against the shot as it was: a camera that is taken along may carry it by a hair.
        if (level.locked || level.id.includes('.') || isAsItWas(level, before, frames, (frame) => standAt(thing, frame))) return made()
        counts.levels++
        return levelBack(now.takes[takeId]!, takeId, level, frames, (frame) => standAt(thing, frame), wishes, optics, newId)
      })
    }
  }
  if (wishes.others) {
    for (const thing of scene.things.filter((each) => each.kind !== 'level' && each.levelId === null).slice(0, THINGS_MOST)) {
      steps.push((now) => {
        const id = newId()
        const isBox = thing.bounds !== null
        if (isBox) counts.boxes++
        else counts.carriers++
        return inTurn(now, [
          (film) => newCarrier(film.takes[takeId]!, takeId, id, thing, standAt(thing, 0)),
          ...(thing.moves ? [(film: Film) => levelBack(film.takes[takeId]!, takeId, film.takes[takeId]!.levels[id]!, frames, (frame) => standAt(thing, frame), wishes, optics, newId)] : []),
          ...(isBox ? [(film: Film) => boxOn(film.takes[takeId]!, takeId, id, thing, wishes, newId)] : []),
        ])
      })
    }
  }
  return { made: inTurn(film, steps), ...counts, frames }
}

function newCarrier(take: TakeBody, takeId: string, id: string, thing: SceneThing, stand: Stand): Made {
  const rack = rackLevels(take)
  const draft = new Draft(take)
  const [order] = draft.room('levels', rack, rack.length, 1)
  return made(draft.put('levels', { ...newLevel({ id, name: shorten(thing.name, 120), kind: 'carrier' }), order: order!, ...stand.place, ...turnOf(stand), scale: inRange(stand.size) } as Level).edit('level-add', takeRef(takeId)))
}
const inRange = (size: number) => Math.min(1e6, Math.max(1e-6, size))

/** Six sides about what a shape reaches, carried by what stands for it. */
function boxOn(take: TakeBody, takeId: string, carrierId: string, { name, bounds }: SceneThing, { metresPerFw, zUp }: SceneWishes, newId: () => string): Made {
  const panel = inOrder(take.panels)[0]
  if (panel === undefined || bounds === null) return made()
  const { least, most } = bounds
  const side = (i: number) => Math.max(1e-3, (most[i]! - least[i]!) / metresPerFw)
  const middle = (i: number) => (most[i]! + least[i]!) / 2 / metresPerFw
  // Upright is y in the file, or z where it says so.
  const [width, height, deep] = zUp ? [side(0), side(2), side(1)] : [side(0), side(1), side(2)]
  const floor: Point3 = zUp ? { x: middle(0), y: least[2] / metresPerFw, depth: middle(1) } : { x: middle(0), y: least[1] / metresPerFw, depth: 0 - middle(2) }
  const walls = roomWalls({ floor, panDegrees: 0, width, height, length: deep })
  const ids = new Map(walls.map((wall) => [wall.name, newId()]))
  return standFlats(take, takeId, panel.id, walls.map((wall) => ({ id: ids.get(wall.name)!, drawingId: newId(), name: `${shorten(name, 100)} ${wall.name}`, art: flatArt(wall.width, wall.height, '#b9b1a0'), visible: true, on: wall.on === null ? carrierId : ids.get(wall.on)!, place: wall.place, turn: wall.turn, width: wall.width, height: wall.height, pivot: wall.pivot, fields: { standIn: true } })), shorten(name, 120), newId)
}

/** Whether a level stands in a file where it stands in the shot; of what turns to the lens its turn is the camera's. */
function isAsItWas(level: Level, stage: TakeStage, frames: number, standAt: (frame: number) => Stand): boolean {
  const apart = (a: Point3, b: Point3) => Math.hypot(a.x - b.x, a.y - b.y, a.depth - b.depth)
  for (let frame = 0; frame < frames; frame++) {
    const [now, stand] = [stage.seen(frame).standOf(level.id), standAt(frame)]
    if (apart(now.place, stand.place) > SAME.fw * Math.max(1, Math.abs(now.place.depth)) || Math.abs(now.size - stand.size) > SAME.size * now.size) return false
    if (level.facing === undefined && (apart(now.right, stand.right) > SAME.turn || apart(now.up, stand.up) > SAME.turn)) return false
  }
  return true
}

/** A level as it stands in a file, frame by frame: its own keys in the place of those it had, as few as show the same. */
function levelBack(take: TakeBody, takeId: string, level: Level, frames: number, standAt: (frame: number) => Stand, wishes: SceneWishes, optics: Optics, newId: () => string): Made {
  const stage = createTakeStage(take, optics)
  const stands = Array.from({ length: frames }, (_, frame) => standAt(frame))
  const facing = level.facing !== undefined
  let turn: LevelTurn | null = null
  const values = stands.map((stand, frame) => {
    const carriage: Carriage = carriageIn(take, level, stage.seen(frame)) ?? SET
    const basis = turnedInto(carriage, stand)
    turn = turn === null ? turnNear(basis, level) : turnNear(basis, turn)
    return { place: into(carriage, stand.place), turn, size: inRange(stand.size / carriage.size) }
  })
  const draft = new Draft(take)
  const aspects = ['place', ...(facing ? [] : ['turn' as const]), 'size'] as const
  for (const key of Object.values(take.levelKeys)) if (key.levelId === level.id && (aspects as readonly string[]).includes(key.of)) draft.drop('levelKeys', key.id)
  const first = values[0]!
  // What sways would sway on top of what the file has.
  const { swing: _, bob: __, drift: ___, ...still } = level
  draft.put('levels', { ...still, ...first.place, ...(facing ? {} : first.turn), scale: first.size } as Level)
  for (const aspect of aspects) {
    const isStill = values.every((value) => JSON.stringify(value[aspect]) === JSON.stringify(first[aspect]))
    if (isStill) continue
    values.forEach((value, frame) => {
      const anchor = anchorOfFrame(take, frame)!
      draft.put('levelKeys', { id: newId(), levelId: level.id, ...anchor, of: aspect, value: value[aspect], move: EVEN, locked: false } as LevelKey)
    })
  }
  const whole = draft.value()
  const thinned = thinLevel(whole, level.id, optics, wishes.tolerancePx, wishes.outputWidthPx)
  const fewer = applyThinned(whole, takeId, thinned)
  return fewer.ok ? made(draft.edit('scene-level', takeRef(takeId)), ...fewer.edits) : fewer
}

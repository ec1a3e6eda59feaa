import { lensOf, project, type CameraPose } from '@rubato/core/camera'
import { cameraKeys, keyTrack, levelOwner, type LevelKey } from '@rubato/core/document'
import { retimeAcross, retimeKeys, setFramingPose, setKeyValue, type KeysInTime } from '@rubato/core/edits'
import { createCameraTrack, findBumps, LEVEL_ASPECTS, POSE_FIELDS, POSES, type Bump, type LevelAspect, type LevelTurn, type LevelValues, type PoseField } from '@rubato/core/moves'
import { changedBy } from '@rubato/core/stage'
import type { Point3 } from '@rubato/core/geometry'
import { computed } from 'vue'
import { useLevelMoves } from '~/composables/levels/useLevelMoves'
import { isCurveField, withValue, type CurveField, type CurveKey } from '~/curves/curveScene'
import { useDeskStore } from '~/stores/desk'
import type { Make } from '~/stores/editing'
import { useFilmStore } from '~/stores/film'
import { together } from '~/stores/levelHand'

type Numbers = CurveKey['numbers']

/** What is keyed and drawn as curves: the camera at work, or the level in hand. */
export interface CurveSource {
  readonly what: 'framing' | 'key'
  /** Whose curves they are. */
  readonly name: string
  readonly fields: readonly CurveField[]
  readonly keys: readonly CurveKey[]
  /** At each frame of the shot; none where nothing is keyed. */
  readonly values: readonly Numbers[]
  /** What its keys alone say at each frame, and where what it goes after would have it; null where it goes after nothing. */
  readonly beside: { readonly keyed: readonly Numbers[]; readonly goals: readonly Numbers[] } | null
  /** The fields that something beside its keys moves. */
  readonly worked: readonly CurveField[]
  readonly speeds: Float32Array
  readonly bumps: () => readonly Bump<CurveField>[]
  /** At a frame that can be read. */
  readonly read: Numbers | null
  readonly selectedIds: readonly string[]
  choose(ids: readonly string[]): void
  retime(ids: readonly string[], how: KeysInTime): Make
  /** Adds to a number of some keys, from what they say now. */
  shift(ids: readonly string[], field: CurveField, by: number): Make
  set(id: string, field: CurveField, value: number): Make
}

const LEVEL_FIELDS: readonly CurveField[] = Object.freeze(['x', 'y', 'depth', 'panDegrees', 'tiltDegrees', 'rollDegrees', 'size', 'opacity'])
const ASPECT_OF: Readonly<Partial<Record<CurveField, LevelAspect>>> = { x: 'place', y: 'place', depth: 'place', panDegrees: 'turn', tiltDegrees: 'turn', rollDegrees: 'turn', size: 'size', opacity: 'opacity' }

const numbersOf = ({ place, turn, size, opacity }: Partial<LevelValues>): Numbers => ({ ...place, ...turn, ...(size === undefined ? {} : { size }), ...(opacity === undefined ? {} : { opacity }) })
const withPose = (pose: CameraPose, field: CurveField, value: number): CameraPose => withValue(pose, field as PoseField, value)
/** The value of a track with its numbers as they are now. */
function valueWith(aspect: LevelAspect, numbers: Numbers): LevelValues[LevelAspect] {
  if (aspect === 'size' || aspect === 'opacity') return numbers[aspect]!
  if (aspect === 'place') return { x: numbers.x!, y: numbers.y!, depth: numbers.depth! } satisfies Point3
  return { panDegrees: numbers.panDegrees!, tiltDegrees: numbers.tiltDegrees!, rollDegrees: numbers.rollDegrees! } satisfies LevelTurn
}

export function useCurveSource() {
  const film = useFilmStore()
  const desk = useDeskStore()
  const moves = useLevelMoves()

  const camera = computed<CurveSource>(() => {
    const { stage, framings, cameraAtWorkId } = desk
    const work = stage?.workOf(cameraAtWorkId) ?? null
    const values = stage === null || (framings.length === 0 && work === null) ? [] : Array.from({ length: stage.lengthFrames }, (_, frame) => stage.poseOf(cameraAtWorkId, frame))
    const takeId = () => desk.takeId!
    const pose = (id: string) => framings.find(({ framing }) => framing.id === id)!.framing.pose
    return {
      what: 'framing',
      name: `Camera ${desk.cameraAtWork?.letter ?? 'A'}`,
      fields: POSE_FIELDS,
      keys: framings.map(({ framing: { id, locked, move, pose: numbers }, frame }) => ({ id, frame, locked, move, numbers })),
      values,
      beside: work === null ? null : { keyed: values.map((_, frame) => stage!.framedPoseOf(cameraAtWorkId, frame)), goals: values.map((_, frame) => Object.assign({}, ...work.toldAt(frame).map(({ goal }) => goal)) as Numbers) },
      worked: [...new Set(work?.spans.flatMap(({ span }) => changedBy(span)) ?? [])],
      speeds: Float32Array.from(values, (_, frame) => (frame + 1 < values.length ? stage!.speedOf(cameraAtWorkId, frame) : 0)),
      bumps: () => (film.optics === null || framings.length < 2 ? [] : findBumps(createCameraTrack(framings, film.optics), POSES)),
      read: desk.read.pose,
      selectedIds: desk.selectedFramingIds,
      choose: (ids) => (desk.selectedFramingIds = ids),
      retime: (ids, how) => (f) => retimeKeys(f.takes[takeId()]!, takeId(), cameraKeys(cameraAtWorkId!), ids, how),
      shift: (ids, field, by) => (f) => together(ids, (id) => setFramingPose(f.takes[takeId()]!, takeId(), id, withPose(pose(id), field, (pose(id) as Numbers)[field]! + by))),
      set: (id, field, value) => (f) => setFramingPose(f.takes[takeId()]!, takeId(), id, withPose(pose(id), field, value)),
    }
  })

  const level = computed<CurveSource | null>(() => {
    const [stage, take, own, tracks] = [desk.stage, desk.take, desk.selectedLevel, moves.tracks.value]
    if (stage === null || take === null || own === null || tracks === null) return null
    const motion = stage.motionOf(own.id)
    const keys = LEVEL_ASPECTS.flatMap((aspect) => tracks[aspect].map(({ record, frame }): CurveKey => ({ id: record.id, frame, locked: record.locked, move: record.move, numbers: numbersOf({ [aspect]: (record as LevelKey).value }) })))
    const states = keys.length === 0 ? [] : Array.from({ length: stage.lengthFrames }, (_, frame) => motion.keyedAt(frame))
    const takeId = () => desk.takeId!
    const changed = (id: string, field: CurveField, value: (now: number) => number) => {
      const numbers = keys.find((key) => key.id === id)!.numbers
      const next = withValue(numbers, field, value(numbers[field]!))
      return valueWith(ASPECT_OF[field]!, next)
    }
    const has = (id: string, field: CurveField) => keys.find((key) => key.id === id)?.numbers[field] !== undefined
    return {
      what: 'key',
      name: own.name,
      fields: LEVEL_FIELDS,
      keys,
      values: states.map(numbersOf),
      beside: null,
      worked: [],
      speeds: speedsOf(states.map(({ place }) => place)),
      bumps: () =>
        LEVEL_ASPECTS.flatMap((aspect) => {
          if (tracks[aspect].length < 2) return []
          const owner = levelOwner(own.id, aspect)
          return findBumps(keyTrack(take, owner, stage.optics), owner.kind.values).flatMap((bump) => (isCurveField(bump.field) ? [{ ...bump, field: bump.field }] : []))
        }),
      read: numbersOf(motion.keyedAt(desk.read.frame)),
      selectedIds: desk.selectedKeyIds,
      choose: (ids) => (desk.selectedKeyIds = ids),
      retime: (ids, how) => (f) => retimeAcross(f.takes[takeId()]!, takeId(), ids, how),
      shift: (ids, field, by) => (f) => together(ids.filter((id) => has(id, field)), (id) => setKeyValue(f.takes[takeId()]!, takeId(), id, changed(id, field, (now) => now + by))),
      set: (id, field, value) => (f) => setKeyValue(f.takes[takeId()]!, takeId(), id, changed(id, field, () => value)),
    }
  })

  /** How fast it goes over the picture, seen from where the camera is at each frame. */
  function speedsOf(places: readonly Point3[]): Float32Array {
    const [stage, optics] = [desk.stage, film.optics]
    if (stage === null || optics === null) return new Float32Array(places.length)
    return Float32Array.from(places, (place, frame) => {
      const next = places[frame + 1]
      if (next === undefined || next === place) return 0
      const lens = lensOf(stage.poseOf(desk.cameraAtWorkId, frame), optics)
      const [a, b] = [project(lens, place), project(lens, next)]
      return a.z > 0 && b.z > 0 ? Math.hypot(b.u - a.u, b.v - a.v) : 0
    })
  }

  return computed<CurveSource>(() => (desk.tool === 'level' && level.value !== null ? level.value : camera.value))
}

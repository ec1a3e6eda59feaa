import { basisOf, NEAREST_Z, project } from '@rubato/core/camera'
import { outOf, planeOf, pointOnPlane } from '@rubato/core/depth'
import { LEVEL_KEYS } from '@rubato/core/document'
import { cornersOf, type Point2, type Point3, type Rectangle } from '@rubato/core/geometry'
import type { LevelValues } from '@rubato/core/moves'
import { placedLevel, seenAt } from '@rubato/core/stage'
import { computed } from 'vue'
import { useLevelFields } from '~/composables/levels/useLevelFields'
import { useLevelMoves } from '~/composables/levels/useLevelMoves'
import type { Px } from '~/plan/elevation'
import { handlesAround, type LevelHandles, type SeenWay } from '~/plan/levelHandles'
import { pathMarks, type PathKey } from '~/plan/pathMarks'
import { useDeskStore } from '~/stores/desk'

const MOST_STEPS = 160
const MOST_DOTS = 400
const NO_WAY: SeenWay = Object.freeze({ line: [], frames: [], keys: [], marks: [] })
const OUT_OF_SIGHT: Px = Object.freeze({ x: -1e4, y: -1e4 })

type PlaceKey = PathKey<Point3> & { readonly frame: number }

/** The way of the level in hand through the set, in a view that says where it shows a point; null where it does not. */
export function useLevelWay(seen: (point: Point3) => Px | null) {
  const desk = useDeskStore()
  const fields = useLevelFields()
  const moves = useLevelMoves()
  const keys = computed<readonly PlaceKey[]>(() => (moves.tracks.value?.place ?? []).map(({ record, frame }) => ({ id: record.id, frame, locked: record.locked, move: record.move, value: LEVEL_KEYS.place.valueOf(record) })))
  const placed = computed(() => placedLevel(desk.stageFrame, desk.selectedLevelId))
  const bounds = computed<Rectangle>(() => fields.boundsOf(desk.selectedLevelId ?? ''))
  const pivotToBe = computed<Point2 | null>(() => (placed.value === null ? null : fields.pivotToBe(placed.value.level)))

  const way = computed<SeenWay>(() => {
    const [stage, level] = [desk.stage, desk.selectedLevel]
    const all = keys.value
    if (stage === null || level === null || desk.tool !== 'level' || desk.playing || all.length < 2) return NO_WAY
    const motion = stage.motionOf(level.id)
    const middle = pivotToBe.value
    // Of what is carried, as its carrier stands at this frame.
    /** The way of what turns and grows stand still about: without a pivot, of the middle of what is drawn. */
    const carriage = desk.carriageOf(level.id)
    const shown = ({ place, turn, size }: LevelValues): Px | null => seen(outOf(carriage, middle === null ? place : pointOnPlane(planeOf({ place, ...basisOf(turn), size }, undefined), middle)))
    const [first, last] = [all[0]!.frame, all.at(-1)!.frame]
    const steps = Math.min(MOST_STEPS, last - first)
    const line: Px[][] = [[]]
    for (let i = 0; i <= steps; i++) {
      const at = shown(motion.keyedAt(first + ((last - first) * i) / Math.max(1, steps)))
      if (at !== null) line.at(-1)!.push(at)
      else if (line.at(-1)!.length > 0) line.push([])
    }
    const stride = Math.max(1, Math.ceil((last - first) / MOST_DOTS))
    const frames: Px[] = []
    for (let frame = first; frame <= last; frame += stride) {
      const at = shown(motion.seenAt(frame))
      if (at !== null) frames.push(at)
    }
    const here = all.findLastIndex(({ frame }) => frame <= desk.shotFrame)
    const isChosen = (index: number) => [all[index], all[index + 1]].some((key) => key !== undefined && desk.selectedKeyIds.includes(key.id))
    return {
      line,
      frames,
      keys: all.flatMap(({ id, frame, value, locked }, i) => {
        const at = shown({ ...motion.keyedAt(frame), place: value })
        return at === null ? [] : [{ id, frame, number: i + 1, at, locked, selected: desk.selectedKeyIds.includes(id), here: frame === desk.shotFrame }]
      }),
      marks: level.locked ? [] : pathMarks(all, (index) => index === here || isChosen(index), (value) => shown({ ...motion.keyedAt(desk.shotFrame), place: value }) ?? OUT_OF_SIGHT),
    }
  })
  return { placed, bounds, keys, pivotToBe, way }
}

/** The level in hand as the lens sees it: its handles too. */
export function useLensLevel(toPane: (u: number, v: number) => Px) {
  const desk = useDeskStore()
  const seen = (point: Point3): Px | null => {
    const lens = desk.stageFrame?.lens
    const at = lens === undefined ? null : project(lens, point)
    return at === null || !(at.z >= NEAREST_Z) ? null : toPane(at.u, at.v)
  }
  const level = useLevelWay(seen)
  const handles = computed<LevelHandles | null>(() => {
    const [at, frame] = [level.placed.value, desk.stageFrame]
    if (at === null || frame === null || desk.playing) return null
    const onArt = (point: Point2): Px | null => {
      const { u, v, z } = seenAt(frame.lens, at, point)
      return z >= NEAREST_Z ? toPane(u, v) : null
    }
    const [a, b, c, d] = cornersOf(level.bounds.value).map(onArt)
    // Until it is given one, it turns about the middle of what is drawn.
    const pivot = level.pivotToBe.value === null ? seen(at.place) : onArt(level.pivotToBe.value)
    return pivot && a && b && c && d ? handlesAround([a, b, c, d], pivot) : null
  })
  return { ...level, handles }
}

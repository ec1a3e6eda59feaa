import { meetPlane, rayThrough } from '@rubato/core/camera'
import { pointOnPlane, roomWalls, type LevelPlane, type WallName } from '@rubato/core/depth'
import { METRES_PER_FW_RANGE, placedPanels, showsNothing } from '@rubato/core/document'
import { drawOver, editProject, showArt, standFlats, type NewFlat } from '@rubato/core/edits'
import { add, cross, dot, heightOf, scale, type Point3 } from '@rubato/core/geometry'
import { flatArt, STAND_IN_TONES, standInArt, type StandInShape } from '@rubato/core/ink'
import { levelsAlong } from '@rubato/core/stage'
import { computed } from 'vue'
import { useReach } from '~/composables/camera/useReach'
import { useArtUnder } from '~/composables/levels/useLevelUnder'
import { useLevelFields } from '~/composables/levels/useLevelFields'
import { useLevels } from '~/composables/levels/useLevels'
import { useDeskStore } from '~/stores/desk'
import { useFilmStore } from '~/stores/film'
import { STAND_IN_SIZES, useStandInsStore, type StandInKind } from '~/stores/standIns'

/** What a frame width is taken for while nobody has said, metres: a grown figure fills most of the frame's height. */
const USUAL_METRES = 4
const NAMES: Record<StandInKind, string> = { figure: 'Figure', box: 'Box', cylinder: 'Cylinder', doorway: 'Doorway', car: 'Car', grid: 'Ground grid' }
const SIDES: Record<WallName, string> = { floor: 'floor', far: 'back', left: 'left', right: 'right', near: 'front', ceiling: 'top' }
const TONES: Record<WallName, string> = { floor: STAND_IN_TONES.dark, far: STAND_IN_TONES.body, left: STAND_IN_TONES.dark, right: STAND_IN_TONES.dark, near: STAND_IN_TONES.body, ceiling: STAND_IN_TONES.light }
/** Where a stand-in's foot is seen where there is no ground, fw under the frame's middle. */
const FOOT_V = -0.2
/** Lies as flat as a floor does. */
function isLevel({ axisX, axisY }: LevelPlane): boolean {
  const across = cross(axisX, axisY)
  return Math.abs(across.y) > STEEPEST * Math.sqrt(dot(across, across))
}
const STEEPEST = 0.9
/** Of what can be put, fw: what is smaller than a pen's line or larger than any set is a slip of the scale. */
const SMALLEST_FW = 1e-3
const LARGEST_FW = 1000
/** Along each side of a ground grid. */
const MOST_SQUARES = 60
const FLAT = { panDegrees: 0, tiltDegrees: 0, rollDegrees: 0 }

/** Figures, boxes and the like that stand in for what is not drawn yet. */
export function useStandIns() {
  const film = useFilmStore()
  const desk = useDeskStore()
  const store = useStandInsStore()
  const levels = useLevels()
  const fields = useLevelFields()
  const { reach } = useReach()
  const artUnder = useArtUnder()

  const metres = computed(() => film.project?.metresPerFw ?? USUAL_METRES)
  const isDeclared = computed(() => film.project?.metresPerFw !== undefined)
  const fw = (length: number) => length / metres.value

  /** What the choice is drawn as, where it is one flat drawing; fw. */
  const shape = computed<StandInShape | null>(() => {
    const { kind, heads, view, pose, sizes } = store.choice
    const { width, height, step } = sizes[kind]
    if (kind === 'figure') return { kind, height: fw(height), heads, view, pose }
    if (kind === 'cylinder' || kind === 'doorway') return { kind, width: fw(width), height: fw(height) }
    if (kind === 'grid') return { kind, side: fw(width), step: fw(Math.max(step, width / MOST_SQUARES)) }
    return null
  })

  /**
   * On a floor that is seen somewhat under the frame's middle; else on the ground, where that is shown; else just there, as far off as
   * what is selected.
   */
  function foot(): Point3 {
    const frame = desk.stageFrame!
    const { lens } = frame
    const floor = levelsAlong(frame, 0, FOOT_V).find(({ placed }) => artUnder(frame, 0, FOOT_V, (other) => other === placed) !== null)
    if (floor !== undefined && isLevel(floor.placed.plane)) return pointOnPlane(floor.placed.plane, floor.art)
    const z = reach(desk.pose!)
    const at = add(lens.position, scale(rayThrough(lens, 0, FOOT_V), z))
    if (!desk.lens.ground) return at
    const met = meetPlane(lens, 0, FOOT_V, { origin: { x: 0, y: desk.lens.groundY, depth: 0 }, axisX: { x: 1, y: 0, depth: 0 }, axisY: { x: 0, y: 0, depth: 1 } })
    return met === null || Math.hypot(met.x, met.y) > 100 ? { ...at, y: desk.lens.groundY } : { x: met.x, y: desk.lens.groundY, depth: met.y }
  }

  function put(): boolean {
    const [takeId, take, frame] = [desk.takeId, desk.take, desk.stageFrame]
    if (takeId === null || take === null || frame === null || desk.pose === null) return false
    const { kind } = store.choice
    const { width, height, length } = store.choice.sizes[kind]
    const sizes = STAND_IN_SIZES[kind].map(([field]) => fw(store.choice.sizes[kind][field]))
    if (sizes.some((size) => !(size >= SMALLEST_FW && size <= LARGEST_FW))) {
      film.refuse(`At ${Number(metres.value.toPrecision(3))} m a frame width that would be ${Number(Math.max(...sizes).toPrecision(2))} fw large. Give it another size, or declare another scale.`)
      return false
    }
    const name = levels.freshName(NAMES[kind])
    const place = foot()
    const own = { drawingId: crypto.randomUUID(), visible: true, on: null, pivot: { x: 0, y: 0 } }
    const made: NewFlat[] = []
    let group: string | null = null
    if (kind === 'box' || kind === 'car') {
      // A car is seen from its side.
      const [across, away] = kind === 'car' ? [length, width] : [width, length]
      const walls = roomWalls({ floor: place, panDegrees: 0, width: fw(across), height: fw(height), length: fw(away) })
      const ids = new Map(walls.map((wall) => [wall.name, crypto.randomUUID()]))
      group = name
      for (const { name: side, on, stand: _, ...wall } of walls) {
        made.push({
          ...wall,
          id: ids.get(side)!,
          drawingId: crypto.randomUUID(),
          name: side === 'floor' ? name : `${name}, ${SIDES[side]}`,
          art: flatArt(wall.width, wall.height, TONES[side], STAND_IN_TONES.edge),
          visible: true,
          on: on === null ? null : ids.get(on)!,
          fields: { standIn: true },
        })
      }
    } else {
      const flat = shape.value!
      const [w, h] = flat.kind === 'grid' ? [flat.side, flat.side] : [flat.kind === 'figure' ? flat.height / 2 : flat.width, flat.height]
      const turn = kind === 'grid' ? { ...FLAT, tiltDegrees: -90 } : FLAT
      made.push({ ...own, id: crypto.randomUUID(), name, art: standInArt(flat), width: w, height: h, place, turn, fields: { standIn: true, ...(kind === 'figure' || kind === 'cylinder' ? { facing: 'upright' as const } : {}) } })
    }
    const panelId = placedPanels(take)[0]!.panel.id
    const done = film.perform(`put ${name}`, (f) => standFlats(f.takes[takeId]!, takeId, panelId, made, group, () => crypto.randomUUID()))
    if (done) desk.chooseLevel(made[0]!.id)
    return done
  }

  const chosen = computed(() => (desk.selectedLevel?.standIn === true ? desk.selectedLevel : null))
  /** The chosen stand-in shows what is chosen from the playhead on. */
  function change(): boolean {
    const [takeId, level, flat, placed] = [desk.takeId, chosen.value, shape.value, desk.placedPanel]
    if (takeId === null || level === null || flat === null || placed === null) return false
    const [drawingId, offset] = [crypto.randomUUID(), desk.shotFrame - placed.startFrame]
    return film.perform(`another pose of ${level.name}`, (f) => showArt(f.takes[takeId]!, takeId, level.id, placed.panel.id, offset, standInArt(flat), drawingId, () => crypto.randomUUID()))
  }

  /** A level over the selected one, to draw on, which goes along with it. */
  function over() {
    const [takeId, level] = [desk.takeId, desk.selectedLevel]
    if (takeId === null || level === null || level.kind === 'reference') return film.refuse('No level is selected that could be drawn over. Choose a stand-in in the depth rack, or another level.')
    const id = crypto.randomUUID()
    if (film.perform(`draw over ${level.name}`, (f) => drawOver(f.takes[takeId]!, takeId, level.id, id, levels.freshName(level.name)))) desk.chooseLevel(id)
  }

  /** How tall the selected level's art stands here, in the set. */
  const tall = computed(() => (desk.selectedLevel === null || showsNothing(desk.selectedLevel) ? null : heightOf(fields.boundsOf(desk.selectedLevel.id)) * desk.standOf(desk.selectedLevel.id).size))
  /** Says how tall the selected level is, and with it how long a frame width of the film's sets is. */
  function declare(height: number) {
    const [project, own] = [film.project, tall.value]
    if (project === null || own === null || !(own > 0) || !(height > 0)) return
    const metresPerFw = Math.min(METRES_PER_FW_RANGE.max, Math.max(METRES_PER_FW_RANGE.min, Number((height / own).toPrecision(6))))
    film.perform(`${desk.selectedLevel!.name} is ${Number(height.toFixed(3))} m tall`, (f) => editProject(f.outline, project.id, { metresPerFw }))
  }

  return { shape, metres, isDeclared, chosen, tall, put, change, over, declare }
}

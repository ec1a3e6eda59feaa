import type { Repeat } from '@rubato/core/depth'
import { meetPlane, project } from '@rubato/core/camera'
import { pointOnPlane } from '@rubato/core/depth'
import type { Level } from '@rubato/core/document'
import { editLevel } from '@rubato/core/edits'
import { widthOf } from '@rubato/core/geometry'
import { simplifyStroke } from '@rubato/core/ink'
import { placedLevel } from '@rubato/core/stage'
import { useLevelFields } from '~/composables/levels/useLevelFields'
import { followDrag } from '~/gestures/drag'
import type { Px } from '~/plan/elevation'
import { useDeskStore } from '~/stores/desk'
import { useFilmStore } from '~/stores/film'
import { useLevelToolStore } from '~/stores/levelTool'
import { useScrub } from '~/composables/view/useScrub'

/** A drawn line is followed as closely as this, fw on the picture. */
const LINE_FW = 0.004
/** No more numbers are kept of it than there is room for. */
const NUMBERS_MOST = 400

const NO_SCATTER: Repeat['scatter'] = Object.freeze({ x: 0, y: 0, depth: 0, rollDegrees: 0, size: 0, mirrored: 0 })
const newSeed = () => crypto.getRandomValues(new Uint32Array(1))[0]!

/** A level shown many times: begun, changed, laid along what is drawn in the lens view. */
export function useRepeats() {
  const film = useFilmStore()
  const desk = useDeskStore()
  const scrub = useScrub()
  const fields = useLevelFields()

  /** Beside itself, as wide as it is drawn; each turns and grows about what the level does, or about the middle of its foot. */
  function begun(level: Level): Repeat {
    const bounds = fields.boundsOf(level.id)
    const about = level.pivot ?? { x: (bounds.left + bounds.right) / 2, y: bounds.bottom }
    return { count: 5, seed: newSeed(), about, lay: { kind: 'step', x: Number(Math.max(0.02, widthOf(bounds)).toFixed(3)), y: 0 }, depth: 0, rollDegrees: 0, size: 1, scatter: NO_SCATTER, stagger: 0 }
  }
  function put(level: Level, repeat: Repeat | undefined, label: string) {
    const takeId = desk.takeId
    if (takeId !== null) film.perform(label, (f) => editLevel(f.takes[takeId]!, takeId, level.id, { repeat }))
  }
  const toggle = (level: Level) => put(level, level.repeat === undefined ? begun(level) : undefined, `repeat ${level.name} ${level.repeat === undefined ? 'on' : 'off'}`)

  /** A number of it. */
  const field = (level: Level, label: string, withValue: (repeat: Repeat, value: number) => Repeat) =>
    scrub.field(
      `${label} of ${level.name}`,
      (value) => {
        const takeId = desk.takeId!
        return (f) => {
          const { repeat } = f.takes[takeId]!.levels[level.id] ?? {}
          return repeat === undefined ? { ok: true, edits: [] } : editLevel(f.takes[takeId]!, takeId, level.id, { repeat: withValue(repeat, value) })
        }
      },
      `repeat:${level.id}:${label}`,
    )

  return { put, toggle, field, newSeed, begun }
}

interface Surface {
  readonly toFrame: (event: { clientX: number; clientY: number }) => { readonly u: number; readonly v: number }
  readonly toPane: (u: number, v: number) => Px
}

/** The hand that draws in the lens view what copies are to stand along, or in. */
export function useRepeatLines({ toFrame, toPane }: Surface, tell: (text: string | null) => void) {
  const film = useFilmStore()
  const desk = useDeskStore()
  const tool = useLevelToolStore()
  const repeats = useRepeats()

  function draw(event: PointerEvent, kind: 'line' | 'region') {
    const [frame, level] = [desk.stageFrame, desk.selectedLevel]
    const placed = placedLevel(frame, level?.id ?? null)
    const over = () => {
      tool.laying = null
      tool.drawn = []
      tell(null)
    }
    if (frame === null || level === null || placed === null) {
      over()
      return film.refuse('There is nothing of that level in the picture here, so nothing can be laid out by it. Go to a frame that shows it.')
    }
    const drawn: number[] = []
    const put = (at: { clientX: number; clientY: number }) => {
      const { u, v } = toFrame(at)
      const met = meetPlane(frame.lens, u, v, placed.plane)
      if (met !== null) drawn.push(met.x, met.y, 0.5)
    }
    put(event)
    followDrag(event, {
      move: ({ event: step }) => {
        for (const each of step.getCoalescedEvents?.() ?? [step]) put(each)
        tool.drawn = Array.from({ length: drawn.length / 3 }, (_, i) => {
          const { u, v } = project(frame.lens, pointOnPlane(placed.plane, { x: drawn[3 * i]!, y: drawn[3 * i + 1]! }))
          return toPane(u, v)
        })
        tell(kind === 'line' ? 'the line that they stand along' : 'the outline that they fill')
      },
      end: () => {
        over()
        const points = numbersOf(drawn, (LINE_FW * placed.z) / frame.lens.k / placed.size)
        if (points.length < (kind === 'line' ? 4 : 6)) return film.refuse(kind === 'line' ? 'That line is too short to stand along.' : 'That outline encloses nothing.')
        repeats.put(level, { ...(level.repeat ?? repeats.begun(level)), lay: { kind, points } }, kind === 'line' ? `${level.name} along a line` : `fill with ${level.name}`)
      },
      cancel: over,
      click: over,
    })
  }
  return { draw }
}

/** x and y in turn, as few as follow what was drawn. */
function numbersOf(drawn: readonly number[], tolerance: number): number[] {
  for (let loose = tolerance; ; loose *= 2) {
    const kept = simplifyStroke(drawn, loose, Infinity)
    const points = kept.filter((_, i) => i % 3 !== 2).map((value) => Number(value.toFixed(5)))
    if (points.length <= NUMBERS_MOST) return points
  }
}

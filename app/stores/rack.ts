import { fieldWidth, overhangOf, seenOutline, tooNear, type Outline, type Overhang, type SeenLevel } from '@rubato/core/depth'
import { cornersOf, rectangleAround } from '@rubato/core/geometry'
import { drawingBounds } from '@rubato/core/ink'
import { wholeOf } from '@rubato/core/document'
import type { StageFrame } from '@rubato/core/stage'
import { useLocalStorage } from '@vueuse/core'
import { defineStore } from 'pinia'
import { computed, shallowRef, watch, type Ref } from 'vue'
import { useDeskStore } from './desk'
import { useFilmStore } from './film'

/** What the camera sees of a level at the frame that is read. */
export interface RackFacts {
  /** How wide what the frame shows is at the level's distance, fw. */
  readonly fieldFw: number
  /** How far its art goes past the frame; null where nothing is drawn. */
  readonly over: Overhang | null
}

/** A depth that is being changed: to what, and how many times as large it is then seen, where that is not kept. */
export interface ToldDepth {
  readonly levelIds: readonly string[]
  readonly depthOf: ReadonlyMap<string, number>
  readonly sizes: ReadonlyMap<string, number> | null
}

/** While something is dragged, numbers that no eye can read are not laid out at every step. */
const READ_EVERY_MS = 200
/** How long a change of size that was made is told, ms. */
const TOLD_MS = 5000

/** What the depth rack tells of levels, at the playhead; while it plays, at a frame that can be read. */
export const useRackStore = defineStore('rack', () => {
  const film = useFilmStore()
  const desk = useDeskStore()
  const told = shallowRef<ToldDepth | null>(null)
  let toldFor: ReturnType<typeof setTimeout> | undefined
  /** Names of groups that are shown as one row. */
  const folded = useLocalStorage<string[]>('rubato.folded', [])

  const frame = computed(() => {
    if (!desk.playing) return desk.stageFrame
    const { frame: at, pose } = desk.read
    return desk.stage === null || pose === null ? null : desk.stage.through(at, desk.cameraAtWorkId, pose)
  })
  /** What is drawn of levels, their copies too, far to near as it is. */
  const seenIn = (stage: StageFrame | null): readonly (SeenLevel & { readonly copy: number })[] =>
    (stage?.levels ?? []).flatMap(({ level, copy, drawingId, plane, z }) => {
      const drawing = drawingId === null ? null : film.drawingOf(drawingId)
      const bounds = drawing === null ? null : drawingBounds(drawing)
      const outline = bounds === null ? null : seenOutline(stage!.lens, plane, bounds)
      return outline === null ? [] : [{ id: level.id, copy, z, outline }]
    })
  function factsIn(stage: StageFrame | null, seen: ReturnType<typeof seenIn>): ReadonlyMap<string, RackFacts> {
    const outlines = new Map<string, Outline>()
    for (const { id, outline } of seen) {
      // Of a level that is shown many times, as far as all of them reach; of a set, as far as its pieces do.
      for (const of of new Set([id, wholeOf(id)])) {
        const others = outlines.get(of)
        outlines.set(of, others === undefined ? outline : cornersOf(rectangleAround([...others, ...outline])!))
      }
    }
    return new Map(
      (stage?.levels ?? []).flatMap(({ level, copy, z }) => {
        if (copy > 0) return []
        const outline = outlines.get(level.id)
        const over = outline === undefined ? null : overhangOf(outline, stage!.lens.halfHeight)
        return [[level.id, { fieldFw: fieldWidth(stage!.lens, z), over }] as const]
      }),
    )
  }
  function nearIn(drawn: readonly SeenLevel[]): ReadonlyMap<string, readonly string[]> {
    // What can't be chosen can't be set apart.
    const isOutside = (id: string) => desk.take?.levels[id]?.kind === 'reference' || desk.choosable(id) !== id
    return new Map(tooNear(drawn.filter(({ id }) => !isOutside(id))).flatMap((group) => group.map((id) => [id, group] as const)))
  }
  function tellOf(stage: Ref<StageFrame | null>) {
    const seen = computed(() => seenIn(stage.value))
    /** Each level once: itself. */
    const drawn = computed((): readonly SeenLevel[] => seen.value.filter(({ copy }) => copy === 0))
    return {
      drawn,
      facts: computed(() => factsIn(stage.value, seen.value)),
      /** Levels that can't be told apart in depth, each with the group that it is in; far to near. */
      near: computed<ReadonlyMap<string, readonly string[]>>((before) => {
        const now = nearIn(drawn.value)
        return before?.size === now.size && [...now].every(([id, group]) => before.get(id)?.join() === group.join()) ? before : now
      }),
    }
  }
  const { drawn, facts, near } = tellOf(frame)

  /** What rows tell: not at every step while something moves, and then along with it; exactly when it rests. */
  const readFrame = shallowRef(frame.value)
  let readAt = -Infinity
  let resting: ReturnType<typeof setTimeout> | undefined
  function read() {
    readAt = performance.now()
    readFrame.value = frame.value
  }
  watch(frame, () => {
    clearTimeout(resting)
    if (performance.now() - readAt >= READ_EVERY_MS) read()
    else resting = setTimeout(read, READ_EVERY_MS)
  })
  const { facts: readFacts, near: readNear } = tellOf(readFrame)

  /** Tells a change while it is made. */
  function tell(now: ToldDepth | null) {
    clearTimeout(toldFor)
    told.value = now
  }
  /** It is made: a size that is not what it was stays told for a while. */
  function made() {
    clearTimeout(toldFor)
    if ((told.value?.sizes ?? null) === null) told.value = null
    else toldFor = setTimeout(() => (told.value = null), TOLD_MS)
  }

  const isFolded = (group: string | undefined) => group !== undefined && group !== '' && folded.value.includes(group)
  const fold = (group: string) => (folded.value = isFolded(group) ? folded.value.filter((name) => name !== group) : [...folded.value, group])

  return { told, tell, made, folded, isFolded, fold, drawn, facts, near, readFacts, readNear }
})

import { levelKeys, placedKeys, type TakeBody } from '@rubato/core/document'
import { keyLevel, shapeLevel, type Made, type SomeLevelValues } from '@rubato/core/edits'
import { LEVEL_ASPECTS, type Keyed, type LevelAspect, type LevelValues } from '@rubato/core/moves'
import type { TakeStage, TriedLevels } from '@rubato/core/stage'
import type { Ref, ShallowRef } from 'vue'
import type { Gesture, Make } from './editing'

/** How a change of a level is kept at this frame; told beside the lens view. */
export type LevelMode = 'whole-shot' | 'changes-key' | 'looking' | 'auto-key' | 'locked'

export interface LevelTrial {
  readonly shotId: string
  readonly frame: number
  readonly values: TriedLevels
}

/** A level's move that was copied: its tracks, each beginning so many frames after the first of them. */
export interface CopiedLevelMove {
  readonly from: string
  readonly tracks: readonly { readonly aspect: LevelAspect; readonly keys: readonly Keyed<unknown>[]; readonly at: number }[]
}

/** What the hand on levels needs of the desk. */
interface Desk {
  readonly film: { beginGesture(label: string, joins?: string | null): Gesture; perform(label: string, how: Make, gesture?: string | null): boolean; refuse(text: string): void }
  readonly takeId: Readonly<Ref<string | null>>
  readonly take: Readonly<Ref<TakeBody | null>>
  readonly stage: Readonly<Ref<TakeStage | null>>
  readonly shotFrame: Readonly<Ref<number>>
  readonly shotId: Readonly<Ref<string | null>>
  readonly levelTrial: ShallowRef<LevelTrial | null>
  readonly triedHere: Readonly<Ref<TriedLevels | null>>
  readonly autoKey: Readonly<Ref<boolean>>
  /** One more each time that something was refused, for what is looked at to shake. */
  readonly nudge: Ref<number>
}

/** A change of levels under way. */
export interface LevelChange {
  /** What each of them is from now on; of what is not told it stays what it was when the change began. */
  update(valuesOf: (levelId: string, start: LevelValues) => SomeLevelValues): void
  end(): void
  abandon(): void
}
const NOTHING: LevelChange = { update() {}, end() {}, abandon() {} }

/** The hand on levels: what it does at the playhead, by the mode that each is in. */
export function createLevelHand({ film, takeId, take, stage, shotFrame, shotId, levelTrial, triedHere, autoKey, nudge }: Desk) {
  /** A level's values at the playhead as the hand has them: by its keys, or as they are tried. */
  function valuesOf(levelId: string): LevelValues | null {
    if (stage.value === null || take.value?.levels[levelId] === undefined) return null
    return { ...stage.value.motionOf(levelId).keyedAt(shotFrame.value), ...triedHere.value?.get(levelId) }
  }

  /** What a change of these values would do here. */
  function modeOf(levelId: string, aspects: readonly LevelAspect[] = ['place']): LevelMode {
    const body = take.value
    const level = body?.levels[levelId]
    // A lock is on where a level is, not on how it is seen.
    if (body === null || level === undefined || (level.locked && aspects.some((aspect) => aspect !== 'opacity'))) return 'locked'
    const keys = aspects.map((aspect) => placedKeys(body, levelKeys(levelId, aspect)))
    const here = (placed: (typeof keys)[number]) => placed.find((key) => key.frame === shotFrame.value) ?? (placed.length === 1 ? placed[0] : undefined)
    if (keys.some((placed) => here(placed)?.record.locked === true)) return 'locked'
    if (autoKey.value) return 'auto-key'
    if (keys.some((placed) => placed.length > 1 && here(placed) === undefined)) return 'looking'
    return keys.some((placed) => placed.length > 0) ? 'changes-key' : 'whole-shot'
  }

  /**
   * Begins a change of some values of levels at this frame. Where it is kept it is a gesture on the film; where it is only
   * looking it is tried, and nothing is written.
   */
  function begin(ids: readonly string[], aspects: readonly LevelAspect[], label: string, joins: string | null = null): LevelChange {
    const [id, frame, shot, body] = [takeId.value, shotFrame.value, shotId.value, take.value]
    if (id === null || shot === null || body === null || ids.length === 0) return NOTHING
    const modes = ids.map((each) => modeOf(each, aspects))
    const locked = ids[modes.indexOf('locked')]
    if (locked !== undefined) {
      nudge.value++
      film.refuse(body.levels[locked]?.locked === true ? `${body.levels[locked].name} is locked. Unlock it in the depth rack to change it.` : 'This key is locked. Unlock it in the inspector to change it.')
      return NOTHING
    }
    const starts = new Map(ids.map((each) => [each, valuesOf(each)!]))
    const before = levelTrial.value
    if (modes.includes('looking')) {
      return {
        update(next) {
          const values = new Map(triedHere.value ?? [])
          for (const [each, start] of starts) values.set(each, { ...values.get(each), ...next(each, start) })
          levelTrial.value = { shotId: shot, frame, values }
        },
        end() {},
        abandon: () => (levelTrial.value = before),
      }
    }
    const gesture = film.beginGesture(autoKey.value ? `key: ${label}` : label, joins)
    const newId = fixedIds()
    return {
      update(next) {
        gesture.update((f) => together(ids, (each, i) => {
          const values = next(each, starts.get(each)!)
          return modes[i] === 'auto-key' ? keyLevel(f.takes[id]!, id, each, frame, values, newId.from(i)) : shapeLevel(f.takes[id]!, id, each, frame, values)
        }))
      },
      end: () => gesture.commit(),
      abandon: () => gesture.abandon(),
    }
  }

  /** Keys levels at the playhead: what is tried, else all that has keys, else their place; or just what is asked for. */
  function key(ids: readonly string[], asked: readonly LevelAspect[] | null = null) {
    const [id, body] = [takeId.value, take.value]
    if (id === null || body === null || ids.length === 0) return
    const frame = shotFrame.value
    const wanted = ids.map((each): SomeLevelValues => {
      const values = valuesOf(each)
      if (values === null) return {}
      const tried = triedHere.value?.get(each)
      const keyed = LEVEL_ASPECTS.filter((aspect) => placedKeys(body, levelKeys(each, aspect)).length > 0)
      const aspects = asked ?? [...new Set<LevelAspect>([...keyed, ...LEVEL_ASPECTS.filter((aspect) => tried?.[aspect] !== undefined)])]
      return Object.fromEntries((aspects.length === 0 ? (['place'] as const) : aspects).map((aspect) => [aspect, values[aspect]]))
    })
    const names = ids.map((each) => body.levels[each]?.name ?? '')
    const done = film.perform(`key ${names.length === 1 ? names[0] : `${names.length} levels`}`, (f) => together(ids, (each, i) => keyLevel(f.takes[id]!, id, each, frame, wanted[i]!, () => crypto.randomUUID())))
    if (done) levelTrial.value = null
    else nudge.value++
  }

  return { valuesOf, modeOf, begin, key }
}

/** What is made of several things, as one. */
export function together<T>(things: readonly T[], makeOf: (thing: T, index: number) => Made): Made {
  const edits = []
  for (const [i, each] of things.entries()) {
    const made = makeOf(each, i)
    if (!made.ok) return made
    edits.push(...made.edits)
  }
  return { ok: true, edits }
}

/** Ids that are the same at each try of one gesture. */
function fixedIds() {
  const pools = new Map<number, string[]>()
  return {
    from(index: number): () => string {
      const pool = pools.get(index) ?? []
      pools.set(index, pool)
      let at = 0
      return () => (pool[at++] ??= crypto.randomUUID())
    },
  }
}

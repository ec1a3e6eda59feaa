import { keysOfLevel, levelOwner, type KeyRecord, type PlacedKey } from '@rubato/core/document'
import { copyMove, editKey, holdUntil, putMove, removeKeys, retimeAcross, settleLevel, type KeysInTime, type Made } from '@rubato/core/edits'
import { LEVEL_ASPECTS, mirroredMove, reversedMove, scaledMove, type Keyed, type LevelAspect, type LevelValues } from '@rubato/core/moves'
import { computed } from 'vue'
import type { PasteChoices } from '~/composables/camera/useCameraMoves'
import { leavesFrame } from '~/composables/levels/leavesFrame'
import { useDeskStore } from '~/stores/desk'
import { useFilmStore } from '~/stores/film'
import { together, type CopiedLevelMove } from '~/stores/levelHand'
import { levelMoveName } from '~/text/moves'

/** The keys of one frame, of whatever values. */
export interface LevelBead {
  readonly frame: number
  readonly ids: readonly string[]
  readonly aspects: readonly LevelAspect[]
  readonly locked: boolean
}

/** What an artist does with the keys and moves of the selected level. */
export function useLevelMoves() {
  const film = useFilmStore()
  const desk = useDeskStore()
  const newId = () => crypto.randomUUID()

  const tracks = computed<Readonly<Record<LevelAspect, readonly PlacedKey[]>> | null>(() => {
    const [take, level] = [desk.take, desk.selectedLevel]
    return take === null || level === null ? null : keysOfLevel(take, level.id)
  })
  const beads = computed<readonly LevelBead[]>(() => (tracks.value === null ? [] : beadsOf(tracks.value)))
  const isKeyed = computed(() => beads.value.length > 0)
  const keyHere = (aspect: LevelAspect): KeyRecord | null => tracks.value?.[aspect].find((key) => key.frame === desk.shotFrame)?.record ?? null

  /** The way of one value that the playhead is in: the key it stands on or left last, and the next. */
  function wayOf(aspect: LevelAspect): { readonly from: PlacedKey; readonly to: PlacedKey; readonly index: number } | null {
    const placed = tracks.value?.[aspect] ?? []
    const index = placed.findLastIndex((key) => key.frame <= desk.shotFrame)
    const [from, to] = [placed[index], placed[index + 1]]
    return from === undefined || to === undefined ? null : { from, to, index }
  }
  /** Which values are on their way here. */
  const moving = computed(() => LEVEL_ASPECTS.filter((aspect) => wayOf(aspect) !== null))

  /** What the level does from one frame to another. */
  function nameOf(levelId: string, fromFrame: number, toFrame: number): string {
    const motion = desk.stage?.motionOf(levelId)
    return motion === undefined ? '' : levelMoveName(motion.keyedAt(fromFrame), motion.keyedAt(toFrame), leavesFrame(desk.stage!, levelId, fromFrame, toFrame, film.drawingOf))
  }

  const at = () => (desk.takeId === null || desk.selectedLevel === null ? null : { takeId: desk.takeId, level: desk.selectedLevel })

  function hold() {
    const here = at()
    if (here === null) return film.refuse('No level is selected. Choose one in the depth rack first.')
    if (moving.value.length === 0) return film.refuse(`${here.level.name} rests here already. Put the playhead inside a move, at the frame until which it should wait.`)
    const aspects = moving.value
    film.perform(`hold ${here.level.name} until here`, (f) => together(aspects, (aspect) => holdUntil(f.takes[here.takeId]!, here.takeId, levelOwner(here.level.id, aspect), desk.shotFrame, newId())))
  }

  /** Copies the chosen keys with their moves; all of the level's where fewer than two are chosen. */
  function copy() {
    const [here, take] = [at(), desk.take]
    if (here === null || take === null || tracks.value === null) return
    const ids = desk.selectedKeyIds.length > 1 ? desk.selectedKeyIds : null
    const placed = LEVEL_ASPECTS.flatMap((aspect) => {
      const chosen = tracks.value![aspect].filter(({ record }) => ids === null || ids.includes(record.id))
      return chosen.length === 0 ? [] : [{ aspect, at: chosen[0]!.frame, keys: copyMove(take, levelOwner(here.level.id, aspect), ids) }]
    })
    if (placed.length === 0) return film.refuse(`${here.level.name} has no key to copy. Key it first (Q).`)
    const first = Math.min(...placed.map((track) => track.at))
    desk.copiedLevelMove = { from: here.level.name, tracks: placed.map((track) => ({ ...track, at: track.at - first })) }
  }

  /** What would be pasted from a frame on: its tracks, each beginning so many frames after it; null where there is too little time for it. */
  function pasted(choices: PasteChoices): { readonly tracks: CopiedLevelMove['tracks']; readonly frames: number; readonly count: number } | null {
    const [copied, shot] = [desk.copiedLevelMove, desk.placedShot]
    if (copied === null || shot === null) return null
    const whole = Math.max(...copied.tracks.map(({ at: begins, keys }) => begins + keys.at(-1)!.frame))
    const factor = choices.toLength && whole > 0 ? (shot.lengthFrames - 1 - desk.shotFrame) / whole : 1
    const tracks: CopiedLevelMove['tracks'][number][] = []
    for (const { aspect, keys, at: begins } of copied.tracks) {
      const lasts = keys.at(-1)!.frame
      let own: readonly Keyed<unknown>[] | null = keys
      if (choices.reversed) own = reversedMove(own)
      if (choices.mirrored) own = mirroredMove(own, levelOwner('', aspect).kind.values)
      if (choices.toLength) own = scaledMove(own, Math.round(lasts * factor))
      if (own === null) return null
      tracks.push({ aspect, keys: own, at: Math.round((choices.reversed ? whole - begins - lasts : begins) * factor) })
    }
    return { tracks, frames: Math.max(...tracks.map(({ at: begins, keys }) => begins + keys.at(-1)!.frame)) + 1, count: new Set(tracks.flatMap(({ at: begins, keys }) => keys.map((key) => begins + key.frame))).size }
  }

  function pasteMake(choices: PasteChoices, atFrame: number): (f: typeof film.film) => Made {
    const [here, found] = [at(), pasted(choices)]
    return (f) => {
      if (here === null || found === null) return { ok: false, refusal: { code: 'nothing-to-paste' } }
      const { takeId, level } = here
      return together(found.tracks.map(({ aspect }) => aspect), (_, i) => {
        const { aspect, keys, at: begins } = found.tracks[i]!
        return putMove(f.takes[takeId]!, takeId, levelOwner(level.id, aspect), keys, atFrame + begins, newId)
      })
    }
  }

  function retime(how: KeysInTime, label: string) {
    const [here, ids] = [at(), desk.selectedKeyIds]
    if (here === null) return
    if (ids.length === 0) return film.refuse('No key is chosen. Click keys in the level’s row of the strip first, with Shift for several.')
    film.perform(label, (f) => retimeAcross(f.takes[here.takeId]!, here.takeId, ids, how), `retime:${ids.join()}`)
  }

  function remove(ids: readonly string[]) {
    const takeId = desk.takeId
    if (takeId === null || ids.length === 0) return
    if (film.perform(ids.length === 1 ? 'delete key' : `delete ${ids.length} keys`, (f) => removeKeys(f.takes[takeId]!, takeId, ids))) desk.selectedKeyIds = []
  }

  /** Locks the keys that stand here, or lets them go. */
  function toggleLock() {
    const here = at()
    const bead = beads.value.find((each) => each.frame === desk.shotFrame)
    if (here === null || bead === undefined) return film.refuse('There is no key here to lock. Stand on a key of the selected level first.')
    film.perform(bead.locked ? 'unlock key' : 'lock key', (f) => together(bead.ids, (id) => editKey(f.takes[here.takeId]!, here.takeId, id, { locked: !bead.locked })))
  }

  /** Stands still for the whole shot, as it is here. */
  function standStill(aspects: readonly LevelAspect[] = LEVEL_ASPECTS) {
    const here = at()
    const values = here === null ? null : desk.levelValues(here.level.id)
    if (here === null || values === null) return
    const some = Object.fromEntries(aspects.map((aspect) => [aspect, values[aspect]])) as Partial<LevelValues>
    if (film.perform(`${here.level.name} stands still`, (f) => settleLevel(f.takes[here.takeId]!, here.takeId, here.level.id, some))) desk.levelTrial = null
  }

  return { tracks, beads, isKeyed, keyHere, wayOf, moving, nameOf, hold, copy, pasted, pasteMake, retime, remove, toggleLock, standStill }
}

/** Keys of one level, those of one frame together. */
export function beadsOf(tracks: Readonly<Record<LevelAspect, readonly PlacedKey[]>>): readonly LevelBead[] {
  const byFrame = new Map<number, { frame: number; ids: string[]; aspects: LevelAspect[]; locked: boolean }>()
  for (const aspect of LEVEL_ASPECTS) {
    for (const { frame, record } of tracks[aspect]) {
      const known = byFrame.get(frame)
      if (known === undefined) byFrame.set(frame, { frame, ids: [record.id], aspects: [aspect], locked: record.locked })
      else {
        known.ids.push(record.id)
        known.aspects.push(aspect)
        known.locked ||= record.locked
      }
    }
  }
  return [...byFrame.values()].sort((a, b) => a.frame - b.frame)
}

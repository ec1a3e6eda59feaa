import { placedPanels, type MarkMeaning, type RulerMark } from '@rubato/core/document'
import type { TimeMode } from '@rubato/core/edits'
import { frameOfMoment, showLength, showMoment, type TimeBase, type TimeDisplay } from '@rubato/core/time'
import type { FilmSpan } from '@rubato/core/stage'
import { useLocalStorage } from '@vueuse/core'
import { defineStore } from 'pinia'
import { computed, ref, shallowRef } from 'vue'
import { useDeskStore } from './desk'
import { withEachFilm } from './eachFilm'
import { useFilmStore } from './film'

/** What playback goes round in: off plays on to the film's end. */
export type Loop = 'off' | 'shot' | 'sequence' | 'range' | 'film'
export const LOOPS: readonly { readonly value: Loop; readonly label: string }[] = [
  { value: 'off', label: 'Play on' },
  { value: 'shot', label: 'Loop the shot' },
  { value: 'sequence', label: 'Loop the sequence' },
  { value: 'range', label: 'Loop in to out' },
  { value: 'film', label: 'Loop the film' },
]
export const SPEEDS = Object.freeze([0.25, 0.5, 0.75, 1, 1.5, 2] as const)
/** At what part of full resolution playback draws; `auto` lowers it where the machine can't keep up. */
export type WantedQuality = 'auto' | 1 | 0.5 | 0.25

/** An end of the range, kept with its shot: `frames` from the shot's first frame, or for the out point before its end. */
interface RangeEnd {
  readonly shotId: string
  readonly frames: number
}
interface Ends {
  readonly in: RangeEnd | null
  readonly out: RangeEnd | null
}
const NO_ENDS: Ends = { in: null, out: null }

/** A mark where it stands in the film. */
export interface PlacedMark {
  readonly mark: RulerMark
  readonly frame: number
}

/** How the artist works on time: the switches of the strip, the range, how moments are written. None of it is part of the film. */
export const useTimingStore = defineStore('timing', () => {
  const film = useFilmStore()
  const desk = useDeskStore()
  const mode = useLocalStorage<TimeMode>('rubato.timeMode', 'push')
  /** The held key turns the mode round for as long as it is down. */
  const reversed = ref(false)
  const snap = useLocalStorage('rubato.snap', true)
  const display = useLocalStorage<TimeDisplay>('rubato.timeDisplay', 'timecode')
  const loop = useLocalStorage<Loop>('rubato.loop', 'shot')
  const speed = ref(1)
  const wantedQuality = useLocalStorage<WantedQuality>('rubato.playQuality', 'auto')
  const meaning = useLocalStorage<MarkMeaning>('rubato.markMeaning', 'note')
  /** `takeId/levelId` of levels left out of playback, this session. */
  const muted = shallowRef<ReadonlySet<string>>(new Set())
  const selectedMarkId = ref<string | null>(null)

  const modeNow = computed<TimeMode>(() => (reversed.value === (mode.value === 'push') ? 'steal' : 'push'))
  const base = computed<TimeBase>(() => ({
    rate: film.project?.rate ?? { numerator: 24, denominator: 1 },
    startFrame: film.project?.startTimecodeFrames ?? 0,
    drop: film.project?.dropFrame ?? false,
  }))
  const moment = (frame: number) => showMoment(frame, display.value, base.value)
  const length = (frames: number) => showLength(frames, display.value, base.value)
  const frameOf = (text: string) => frameOfMoment(text, base.value)

  const allEnds = useLocalStorage<Record<string, Ends>>('rubato.ranges', {})
  const ends = computed<Ends>(() => allEnds.value[film.projectId ?? ''] ?? NO_ENDS)
  function setEnds(next: Ends) {
    const { [film.projectId ?? '']: _, ...others } = allEnds.value
    allEnds.value = next.in === null && next.out === null ? others : { ...others, [film.projectId ?? '']: next }
  }
  /** From in to out; an end that is not set is the film's. Null where neither is set, or their shots are gone. */
  const range = computed<FilmSpan | null>(() => {
    const { in: from, out: to } = ends.value
    const fromShot = from === null ? null : film.filmStage.placeOf(from.shotId)
    const toShot = to === null ? null : film.filmStage.placeOf(to.shotId)
    if (fromShot === null && toShot === null) return null
    const last = desk.lengthFrames
    const start = fromShot === null ? 0 : fromShot.startFrame + Math.min(from!.frames, Math.max(0, fromShot.lengthFrames - 1))
    const end = toShot === null ? last : toShot.startFrame + Math.max(1, toShot.lengthFrames - to!.frames)
    return start < end ? { start, end } : null
  })
  /** Sets the first frame of the range (or, for `out`, the last). The other end gives way where they would cross. */
  function setEnd(which: 'in' | 'out', frame: number) {
    const at = Math.min(Math.max(0, frame), Math.max(0, desk.lengthFrames - 1))
    const placed = film.filmStage.shotAt(at)
    if (placed === null) return
    const frames = which === 'in' ? at - placed.startFrame : placed.startFrame + placed.lengthFrames - 1 - at
    const before = range.value
    const crossed = before !== null && (which === 'in' ? at >= before.end : at < before.start)
    setEnds({ ...(crossed ? NO_ENDS : ends.value), [which]: { shotId: placed.shot.id, frames } })
  }
  const clearRange = () => setEnds(NO_ENDS)

  /** Marks in film order; one whose shot has become shorter stands on its last frame. */
  const marks = computed<readonly PlacedMark[]>(() =>
    Object.values(film.outline.rulerMarks)
      .flatMap((mark) => {
        const placed = film.filmStage.placeOf(mark.shotId)
        return placed === null ? [] : [{ mark, frame: placed.startFrame + Math.min(mark.offsetFrames, Math.max(0, placed.lengthFrames - 1)) }]
      })
      .sort((a, b) => a.frame - b.frame),
  )

  /** What playback that begins at a frame keeps to. */
  function playRange(frame: number): FilmSpan {
    const whole = { start: 0, end: desk.lengthFrames }
    const placed = film.filmStage.shotAt(frame)
    if (loop.value === 'range') return range.value ?? whole
    if (placed === null || loop.value === 'off' || loop.value === 'film') return whole
    if (loop.value === 'shot') return { start: placed.startFrame, end: placed.startFrame + placed.lengthFrames }
    return film.filmStage.spanOf(placed.shot.sequenceId) ?? whole
  }

  const isMuted = (takeId: string | null, levelId: string) => takeId !== null && muted.value.has(`${takeId}/${levelId}`)
  function toggleMuted(takeId: string, levelId: string) {
    const next = new Set(muted.value)
    const key = `${takeId}/${levelId}`
    if (!next.delete(key)) next.add(key)
    muted.value = next
  }

  withEachFilm(() => {
    muted.value = new Set()
    selectedMarkId.value = null
    reversed.value = false
    speed.value = 1
  })

  const panelsOf = (takeId: string) => {
    const take = film.takeOf(takeId)
    return take === null ? [] : placedPanels(take)
  }

  return { mode, reversed, modeNow, snap, display, loop, speed, wantedQuality, meaning, muted, selectedMarkId, base, moment, length, frameOf, range, setEnd, clearRange, marks, playRange, isMuted, toggleMuted, panelsOf }
})

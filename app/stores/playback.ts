import { frameAtSeconds, frameDue, framesMissed, secondsOfFrames, stepToDraw, type PlaySpan } from '@rubato/core/time'
import type { FilmSpan } from '@rubato/core/stage'
import { defineStore } from 'pinia'
import { nextTick, ref } from 'vue'
import { useFinishedFramesStore } from './finishedFrames'
import { useSoundPlayerStore } from './soundPlayer'
import { useDeskStore } from './desk'
import { useFilmStore } from './film'
import { useTimingStore } from './timing'

/** What the picture goes by: the frame shown is always the one that is due on it. */
export interface Clock {
  /** Begins at a frame, at a rate with its direction; `loop` is what it goes round in. False: another clock has to do. */
  begin(frame: number, rate: number, loop: PlaySpan | null): boolean
  /** Since the frame it began at was due; below 0 before it, null where the clock has stopped for good. */
  elapsedSeconds(): number | null
  end(): void
}

/** The machine's own clock, from `fromSeconds` on. */
function wallClock(fromSeconds = 0): Clock {
  const begunMs = performance.now()
  return { begin: () => true, elapsedSeconds: () => fromSeconds + (performance.now() - begunMs) / 1000, end: () => undefined }
}

/** Steps of the shuttle. */
const SHUTTLE = [1, 2, 4, 8] as const
const MOST_LAG_SECONDS = 0.1
const LAG_FOLLOWS = 0.3

/** Playback of the film against the sound's clock, or the machine's where there is no sound. Finished frames come from the cache; else quality gives way before frames do. */
export const usePlaybackStore = defineStore('playback', () => {
  const dropped = ref(0)
  const shown = ref(0)
  /** How many of the shown came finished from the cache. */
  const fromCache = ref(0)
  /** The part of full resolution that playback draws at. */
  const quality = ref<1 | 0.5 | 0.25>(1)
  /** What this playback, or the last, came down to: told after it is over, too. */
  const playedQuality = ref<1 | 0.5 | 0.25>(1)
  /** Frames a frame's time, with its direction: −2 is twice as fast, backwards. */
  const rateNow = ref(1)
  let request = 0
  let drawMs: number[] = []
  let origin = 0
  let clock: Clock | null = null
  let range: FilmSpan = { start: 0, end: 0 }
  let lastSteps = 0
  /** From choosing a frame to having drawn it, as it has been lately. */
  let lagSeconds = 0
  let last = 0
  /** Set while the loop is not the strip's own: taps run on to the film's end. */
  let onFrame: ((elapsedFrames: number) => void) | null = null

  const desk = useDeskStore()
  const film = useFilmStore()
  const timing = useTimingStore()
  const cache = useFinishedFramesStore()
  const sound = useSoundPlayerStore()

  /** Plays from the playhead. With `each`, to the film's end and not round, and told how far it has come. */
  function play(each: ((elapsedFrames: number) => void) | null = null) {
    if (desk.playing || film.project === null || desk.lengthFrames === 0) return
    onFrame = each
    rateNow.value = each === null ? timing.speed : 1
    begin()
  }

  function begin() {
    desk.trial = null
    desk.levelTrial = null
    range = rangeNow(desk.playhead)
    const backwards = rateNow.value < 0
    let from = Math.min(range.end - 1, Math.max(range.start, desk.playhead))
    // From where it would stop at once it begins anew.
    if (onFrame === null && !backwards && from >= range.end - 1) from = range.start
    else if (backwards && from <= range.start) from = range.end - 1
    last = from
    dropped.value = 0
    shown.value = 0
    fromCache.value = 0
    quality.value = startQuality()
    playedQuality.value = quality.value
    drawMs = []
    desk.playing = true
    desk.goTo(from)
    anchor(from)
    cache.playFrom(from, backwards ? -1 : 1)
    request = requestAnimationFrame(tick)
  }

  const startQuality = () => (timing.wantedQuality === 'auto' ? 1 : timing.wantedQuality)
  const loops = () => onFrame === null && timing.loop !== 'off'
  /** What is being timed may change the film meanwhile; a loop may be set. */
  const rangeNow = (frame: number) => (onFrame === null ? timing.playRange(Math.min(Math.max(frame, 0), Math.max(0, desk.lengthFrames - 1))) : { start: 0, end: desk.lengthFrames })

  /** The sound's clock counts, where there is sound. */
  function anchor(frame: number) {
    clock?.end()
    origin = frame
    lastSteps = 0
    clock = sound.begin(frame, rateNow.value, loops() ? range : null) ? sound : wallClock()
  }

  function elapsed(): number {
    const seconds = clock!.elapsedSeconds()
    if (seconds !== null) return seconds
    // The sound's device is gone: the picture goes on from where it is.
    clock!.end()
    clock = wallClock(film.project === null ? 0 : secondsOfFrames(lastSteps, film.project.rate) / Math.abs(rateNow.value))
    return clock.elapsedSeconds()!
  }

  function tick() {
    if (!desk.playing || film.project === null) return
    const elapsedNow = elapsed()
    const steps = Math.max(0, frameAtSeconds(elapsedNow * Math.abs(rateNow.value), film.project.rate))
    onFrame?.(steps)
    if (!desk.playing) return
    const now = rangeNow(last)
    const moved = now.start !== range.start || now.end !== range.end
    range = now
    if (moved && loops()) anchor(Math.min(range.end - 1, Math.max(range.start, last)))
    const due = (after: number) => frameDue(origin, moved && loops() ? 0 : after, rateNow.value < 0 ? -1 : 1, range, loops())
    // What is drawn now is seen when it is drawn. The film's end is not come to sooner.
    const seenSteps = stepToDraw(lastSteps, steps, frameAtSeconds((elapsedNow + lagSeconds) * Math.abs(rateNow.value), film.project.rate))
    const ahead = due(seenSteps)
    const [frame, shownSteps] = ahead === null ? [due(steps), steps] : [ahead, seenSteps]
    if (frame === null) {
      desk.goTo(rateNow.value < 0 ? range.start : range.end - 1)
      stop()
      return
    }
    // Never back: the lag is not the same each time.
    if (shownSteps > lastSteps || (moved && loops())) {
      dropped.value += framesMissed(lastSteps, shownSteps, rateNow.value)
      lastSteps = moved && loops() ? 0 : shownSteps
      show(frame)
    }
    request = requestAnimationFrame(tick)
  }

  function show(frame: number) {
    shown.value++
    last = frame
    const begun = performance.now()
    desk.playhead = frame
    // The views draw in the same turn, after this.
    void nextTick(() => (lagSeconds += (Math.min(MOST_LAG_SECONDS, (performance.now() - begun) / 1000) - lagSeconds) * LAG_FOLLOWS))
  }

  function stop() {
    desk.playing = false
    onFrame = null
    clock?.end()
    clock = null
    cancelAnimationFrame(request)
    quality.value = 1
    cache.playEnded()
  }

  /** How many frames of the film had been heard so many seconds ago; may be negative. */
  const elapsedAgo = (seconds: number) => (film.project === null || clock === null ? 0 : frameAtSeconds((elapsed() - seconds) * Math.abs(rateNow.value), film.project.rate))

  /** The same to fractions of a frame, from the frame it began at. */
  const elapsedExactly = (seconds: number) => (clock === null ? 0 : (elapsed() - seconds) * Math.abs(rateNow.value) * desk.fps)

  /** A step of the shuttle: from rest it plays, again it goes faster, the other way it slows down and turns. */
  function shuttle(direction: 1 | -1) {
    if (!desk.playing) {
      onFrame = null
      rateNow.value = direction * (direction > 0 && timing.speed < 1 ? timing.speed : 1)
      if (film.project === null || desk.lengthFrames === 0) return
      return begin()
    }
    if (onFrame !== null) return
    const along = Math.sign(rateNow.value) === direction
    const at = SHUTTLE.findLastIndex((step) => step <= Math.abs(rateNow.value))
    const next = along ? SHUTTLE[Math.min(SHUTTLE.length - 1, at + 1)]! : at > 0 ? SHUTTLE[at - 1]! : null
    rateNow.value = next === null ? direction : Math.sign(rateNow.value) * next
    anchor(desk.playhead)
    cache.playFrom(desk.playhead, rateNow.value < 0 ? -1 : 1)
  }

  /** Changes the speed of playback, also while it plays. */
  function setSpeed(speed: number) {
    timing.speed = speed
    if (!desk.playing || onFrame !== null) return
    rateNow.value = Math.sign(rateNow.value) * speed
    anchor(desk.playhead)
  }

  /** Told by the lens view how long a frame took; slow ones lower the quality for the rest of the playback. */
  function reportDraw(ms: number) {
    if (!desk.playing || timing.wantedQuality !== 'auto') return
    drawMs.push(ms)
    if (drawMs.length < 6) return
    const median = [...drawMs].sort((a, b) => a - b)[3]!
    drawMs = []
    const budgetMs = 1000 / desk.fps
    if (median > budgetMs * 0.8 && quality.value > 0.25) quality.value = quality.value === 1 ? 0.5 : 0.25
    playedQuality.value = quality.value
  }

  return { play, stop, toggle: () => (desk.playing ? stop() : play()), shuttle, setSpeed, elapsedAgo, elapsedExactly, dropped, shown, fromCache, quality, playedQuality, rateNow, reportDraw }
})

import { frameAtSeconds, secondsOfFrames } from '@rubato/core/time'
import type { FilmSpan } from '@rubato/core/stage'
import { ref } from 'vue'
import { useFrameCache } from '~/composables/useFrameCache'
import { useDeskStore } from '~/stores/desk'
import { useFilmStore } from '~/stores/film'
import { useTimingStore } from '~/stores/timing'

/** Anything that tells time in seconds; the frame shown is always the one that is due on it. */
export interface Clock {
  nowSeconds(): number
}

const wallClock: Clock = { nowSeconds: () => performance.now() / 1000 }

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
/** Steps of the shuttle. */
const SHUTTLE = [1, 2, 4, 8] as const
let request = 0
let drawMs: number[] = []
/** Where the clock stood, and the playhead, when this speed began. */
let begun = { seconds: 0, frame: 0 }
let range: FilmSpan = { start: 0, end: 0 }
let last = 0
/** Set while the loop is not the strip's own: taps run on to the film's end. */
let onFrame: ((elapsedFrames: number) => void) | null = null

/** Playback of the film against a clock. Finished frames come from the cache; else quality gives way before frames do. */
export function usePlayback(clock: Clock = wallClock) {
  const desk = useDeskStore()
  const film = useFilmStore()
  const timing = useTimingStore()
  const cache = useFrameCache()

  /** Plays from the playhead. With `each`, to the film's end and not round, and told how far it has come. */
  function play(each: ((elapsedFrames: number) => void) | null = null) {
    if (desk.playing || film.project === null || desk.lengthFrames === 0) return
    onFrame = each
    rateNow.value = each === null ? timing.speed : 1
    begin()
  }

  function begin() {
    desk.trial = null
    range = onFrame === null ? timing.playRange(desk.playhead) : { start: 0, end: desk.lengthFrames }
    const backwards = rateNow.value < 0
    let origin = Math.min(range.end - 1, Math.max(range.start, desk.playhead))
    // From where it would stop at once it begins anew.
    if (onFrame === null && !backwards && origin >= range.end - 1) origin = range.start
    else if (backwards && origin <= range.start) origin = range.end - 1
    anchor(origin)
    last = origin
    dropped.value = 0
    shown.value = 0
    fromCache.value = 0
    quality.value = startQuality()
    playedQuality.value = quality.value
    drawMs = []
    desk.playing = true
    desk.goTo(origin)
    cache.playFrom(origin, backwards ? -1 : 1)
    request = requestAnimationFrame(tick)
  }

  const startQuality = () => (timing.wantedQuality === 'auto' ? 1 : timing.wantedQuality)
  const anchor = (frame: number) => (begun = { seconds: clock.nowSeconds(), frame })
  const loops = () => onFrame === null && timing.loop !== 'off'

  function tick() {
    if (!desk.playing || film.project === null) return
    const elapsed = clock.nowSeconds() - begun.seconds
    const steps = frameAtSeconds(elapsed * Math.abs(rateNow.value), film.project.rate)
    onFrame?.(steps)
    if (!desk.playing) return
    // What is being timed may have changed the film meanwhile; a loop may have been set.
    range = onFrame === null ? timing.playRange(Math.min(Math.max(last, 0), Math.max(0, desk.lengthFrames - 1))) : { start: 0, end: desk.lengthFrames }
    let frame = begun.frame + Math.sign(rateNow.value) * steps
    const length = Math.max(1, range.end - range.start)
    if (frame >= range.end || frame < range.start) {
      if (!loops()) {
        desk.goTo(frame >= range.end ? range.end - 1 : range.start)
        stop()
        return
      }
      // The loop keeps the clock's time: what was overrun is counted in the next round.
      frame = range.start + ((((frame - range.start) % length) + length) % length)
      const into = rateNow.value > 0 ? frame - range.start : range.end - 1 - frame
      count(rateNow.value > 0 ? range.end - 1 - last : last - range.start, into)
      begun = { seconds: clock.nowSeconds() - remainder(elapsed) - secondsOfFrames(into, film.project.rate) / Math.abs(rateNow.value), frame: rateNow.value > 0 ? range.start : range.end - 1 }
      show(frame)
    } else if (frame !== last) {
      count(Math.abs(frame - last) - 1, 0)
      show(frame)
    }
    request = requestAnimationFrame(tick)
  }

  /** Seconds since the present frame was due. */
  const remainder = (elapsed: number) => {
    const each = secondsOfFrames(1, film.project!.rate) / Math.abs(rateNow.value)
    return elapsed - Math.floor(elapsed / each + 1e-7) * each
  }

  /** Frames that were due and not shown. Faster than the film, as many are left out by design as the speed asks for. */
  function count(skipped: number, more: number) {
    const byDesign = Math.max(0, Math.ceil(Math.abs(rateNow.value)) - 1)
    dropped.value += Math.max(0, skipped + more - byDesign)
  }

  function show(frame: number) {
    shown.value++
    last = frame
    desk.playhead = frame
    prefetch()
  }

  /** The next shots are fetched while this one plays. */
  function prefetch() {
    const index = desk.placedShot?.index ?? -1
    const ahead = rateNow.value < 0 ? [index - 1] : [index + 1, index + 2]
    for (const i of ahead) {
      const next = film.filmStage.shots[i]
      if (next !== undefined && film.takeOf(next.shot.circledTakeId) === null) void film.ensureTakeWithArt(next.shot.circledTakeId).catch(() => undefined)
    }
  }

  function stop() {
    desk.playing = false
    onFrame = null
    cancelAnimationFrame(request)
    quality.value = 1
    cache.playEnded()
  }

  /** How many frames after the start of this playback a moment of the clock is; may be negative. */
  const elapsedAt = (seconds: number) => (film.project === null ? 0 : frameAtSeconds((seconds - begun.seconds) * Math.abs(rateNow.value), film.project.rate))

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
    anchor(desk.playhead)
    rateNow.value = next === null ? direction : Math.sign(rateNow.value) * next
    cache.playFrom(desk.playhead, rateNow.value < 0 ? -1 : 1)
  }

  /** Changes the speed of playback, also while it plays. */
  function setSpeed(speed: number) {
    timing.speed = speed
    if (!desk.playing || onFrame !== null) return
    anchor(desk.playhead)
    rateNow.value = Math.sign(rateNow.value) * speed
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

  return { play, stop, toggle: () => (desk.playing ? stop() : play()), shuttle, setSpeed, elapsedAt, dropped, shown, fromCache, quality, playedQuality, rateNow, reportDraw }
}

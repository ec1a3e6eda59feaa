import { frameAtSeconds } from '@rubato/core/time'
import { ref } from 'vue'
import { useDeskStore } from '~/stores/desk'
import { useFilmStore } from '~/stores/film'

/** Anything that tells time in seconds; the frame shown is always the one that is due on it. */
export interface Clock {
  nowSeconds(): number
}

const wallClock: Clock = { nowSeconds: () => performance.now() / 1000 }

const dropped = ref(0)
const shown = ref(0)
/** The part of full resolution that playback draws at. */
const quality = ref<1 | 0.5 | 0.25>(1)
let request = 0
let drawMs: number[] = []

/** Playback of the film against a clock. Quality gives way before frames do. */
export function usePlayback(clock: Clock = wallClock) {
  const desk = useDeskStore()
  const film = useFilmStore()

  function play() {
    if (desk.playing || film.project === null || desk.lengthFrames === 0) return
    desk.trial = null
    const rate = film.project.rate
    let range = rangeHere()
    let origin = desk.playhead >= range.end - 1 ? range.start : desk.playhead
    let begun = clock.nowSeconds()
    let last = origin
    dropped.value = 0
    shown.value = 0
    quality.value = 1
    drawMs = []
    desk.playing = true
    desk.goTo(origin)
    const tick = () => {
      if (!desk.playing) return
      let frame = origin + frameAtSeconds(clock.nowSeconds() - begun, rate)
      range = desk.loopShot ? range : rangeHere()
      if (frame >= range.end) {
        if (!desk.loopShot) {
          desk.goTo(range.end - 1)
          stop()
          return
        }
        dropped.value += Math.max(0, range.end - 1 - last)
        // The loop keeps the clock's time: what was overrun is counted in the next round.
        const length = range.end - range.start
        begun += ((range.end - origin) * rate.denominator) / rate.numerator
        origin = range.start
        frame = range.start + ((frame - range.end) % length)
        last = range.start - 1
      }
      if (frame !== last) {
        dropped.value += Math.max(0, frame - last - 1)
        shown.value++
        last = frame
        desk.playhead = frame
        prefetch()
      }
      request = requestAnimationFrame(tick)
    }
    request = requestAnimationFrame(tick)
  }

  function rangeHere() {
    const placed = desk.placedShot
    if (desk.loopShot && placed !== null) return { start: placed.startFrame, end: placed.startFrame + placed.lengthFrames }
    return { start: 0, end: desk.lengthFrames }
  }

  /** The next shot is fetched while this one plays. */
  function prefetch() {
    const next = film.filmStage.shots[(desk.placedShot?.index ?? -1) + 1]
    if (next !== undefined && film.takeOf(next.shot.circledTakeId) === null) void film.ensureTakeWithArt(next.shot.circledTakeId).catch(() => undefined)
  }

  function stop() {
    desk.playing = false
    cancelAnimationFrame(request)
    quality.value = 1
  }

  /** Told by the lens view how long a frame took; slow ones lower the quality for the rest of the playback. */
  function reportDraw(ms: number) {
    if (!desk.playing) return
    drawMs.push(ms)
    if (drawMs.length < 6) return
    const median = [...drawMs].sort((a, b) => a - b)[3]!
    drawMs = []
    const budgetMs = 1000 / desk.fps
    if (median > budgetMs * 0.8 && quality.value > 0.25) quality.value = quality.value === 1 ? 0.5 : 0.25
  }

  return { play, stop, toggle: () => (desk.playing ? stop() : play()), dropped, shown, quality, reportDraw }
}

import type { Film } from '@rubato/core/document'
import { holdSound, retime, shotShifts, tapPanels, type Made, type PanelPlace, type TapPanel, type Tapped, type TimeMode } from '@rubato/core/edits'
import { useLocalStorage } from '@vueuse/core'
import { storeToRefs } from 'pinia'
import { computed } from 'vue'
import { usePlayback } from '~/composables/playback/usePlayback'
import { useSoundPlayerStore } from '~/stores/soundPlayer'
import { useTiming } from '~/composables/strip/useTiming'
import { useBoardsStore } from '~/stores/boards'
import { useDeskStore } from '~/stores/desk'
import { useFilmStore } from '~/stores/film'
import { useTapTimingStore, type TapSession } from '~/stores/tapTiming'
import { useTimingStore } from '~/stores/timing'

const MOST_PANELS = 2000
/** Shots ahead whose panels are there before it begins. */
const SHOTS_AHEAD = 40

/** Tap timing: the film plays, each tap ends a panel, and what came of it is kept, done again or thrown away. */
export function useTapTiming() {
  const { phase, session, tapped, beat, calibrating, elapsedFrames, appliedKey } = storeToRefs(useTapTimingStore())
  const film = useFilmStore()
  const desk = useDeskStore()
  const boards = useBoardsStore()
  const timing = useTimingStore()
  const playback = usePlayback()
  const sound = useSoundPlayerStore()
  const { giverAfter, reachAfter } = useTiming()
  /** How late this artist taps, ms; taken off every tap. */
  const offsetMs = useLocalStorage('rubato.tapOffsetMs', 0)
  let starting = false

  /** The panels that taps go through: those chosen, if more than one, else from the playhead to the film's end. */
  async function panelsAhead(): Promise<readonly TapPanel[]> {
    const [takeId, panel, index] = [desk.takeId, desk.placedPanel, desk.placedShot?.index]
    if (takeId === null || panel === null || index === undefined) return []
    const chosen = boards.inFilmOrder(boards.panels)
    const first: PanelPlace = chosen.length > 1 ? chosen[0]! : { takeId, panelId: panel.panel.id }
    await film.ensure('take', film.filmStage.shots.slice(index, index + SHOTS_AHEAD).map((placed) => placed.shot.circledTakeId))
    const last = chosen.length > 1 ? chosen.at(-1)! : null
    const found: TapPanel[] = []
    for (let at: PanelPlace | null = first; at !== null && found.length < MOST_PANELS; at = boards.neighbour(at, 1)) {
      const here: PanelPlace = at
      const { lengthFrames, lengthLocked } = film.takeOf(here.takeId)!.panels[here.panelId]!
      found.push({ ...here, lengthFrames, lengthLocked })
      if (last !== null && here.takeId === last.takeId && here.panelId === last.panelId) break
    }
    return found
  }

  async function start() {
    if (starting || phase.value === 'running') return
    if (phase.value === 'review') discard()
    playback.stop()
    starting = true
    try {
      const panels = await panelsAhead()
      if (panels.length === 0) return film.refuse('There is no panel here to time. Add one first.')
      begin(panels)
    } catch (error) {
      film.refuse(`The panels to time could not be loaded. ${(error as Error).message}`)
    } finally {
      starting = false
    }
  }

  function begin(panels: readonly TapPanel[]) {
    const first = panels[0]!
    const shot = film.filmStage.placeOfTake(first.takeId)
    const startFrame = (shot?.startFrame ?? 0) + (timing.panelsOf(first.takeId).find(({ panel }) => panel.id === first.panelId)?.startFrame ?? 0)
    session.value = { panels, startFrame, taps: [], gesture: film.beginGesture('tap timing'), playhead: desk.playhead }
    tapped.value = { ended: [], current: 0, currentStart: 0 }
    elapsedFrames.value = 0
    appliedKey.value = ''
    phase.value = 'running'
    desk.goTo(startFrame)
    // What is heard must not move under the taps.
    sound.freeze(true)
    playback.play((elapsed) => follow(elapsed))
  }

  /** The panel that is on lasts until it is tapped: it grows before it would end. */
  function follow(elapsed: number) {
    const now = session.value
    if (now === null) return
    elapsedFrames.value = elapsed
    tapped.value = tapPanels(now.panels, now.taps, elapsed)
    const { ended, current, currentStart } = tapped.value
    const on = now.panels[current]
    if (on === undefined) return finish()
    const second = Math.ceil(desk.fps)
    const needed = elapsed - currentStart + 2
    const held = needed <= on.lengthFrames ? on.lengthFrames : Math.ceil(needed / second) * second
    const lengths = on.lengthLocked || held === on.lengthFrames ? ended : [...ended, { takeId: on.takeId, panelId: on.panelId, lengthFrames: held }]
    const key = `${ended.length}:${held}`
    if (key === appliedKey.value) return
    appliedKey.value = key
    if (!now.gesture.update((f) => retime(f, film.project!.id, [{ lengths, giver: null }], 'push'))) finish()
  }

  function tap() {
    const now = session.value
    if (phase.value !== 'running' || now === null) return
    const at = playback.elapsedAgo(offsetMs.value / 1000)
    now.taps.push(Math.max(0, at))
    beat.value++
    follow(Math.max(elapsedFrames.value, at))
  }

  /** Stops, and shows what came of it. */
  function finish() {
    const now = session.value
    if (phase.value !== 'running' || now === null) return
    phase.value = 'review'
    playback.stop()
    const { ended } = tapped.value
    const changed = ended.some((entry) => now.panels.some((panel) => panel.takeId === entry.takeId && panel.panelId === entry.panelId && panel.lengthFrames !== entry.lengthFrames))
    if (!changed) {
      discard()
      film.refuse('No panel was tapped: nothing is changed. Press T, or the button, whenever a panel is to end.')
      return
    }
    void settle(now, ended)
  }

  /** Only what was tapped is changed. Stealing, the panel after the last one gives; where it can't, later time moves. */
  async function settle(now: TapSession, ended: Tapped['ended']) {
    const last = ended.at(-1)!
    if (timing.modeNow === 'steal') await reachAfter(last.takeId)
    if (session.value !== now) return
    const giver = timing.modeNow === 'steal' ? giverAfter(last, new Set(ended.map((entry) => `${entry.takeId}/${entry.panelId}`))) : null
    const shiftOf = shotShifts(now.panels, ended, (takeId) => film.filmStage.placeOfTake(takeId)?.shot.id ?? null)
    const timed = (f: Film, giving: PanelPlace | null, mode: TimeMode): Made => {
      const lengths = retime(f, film.project!.id, [{ lengths: ended, giver: giving }], mode)
      return lengths.ok ? { ok: true, edits: [...lengths.edits, ...holdSound(f.outline, film.project!.id, shiftOf)] } : lengths
    }
    if (!now.gesture.update((f) => timed(f, giver, timing.modeNow))) now.gesture.update((f) => timed(f, null, 'push'))
    desk.goTo(now.startFrame)
  }

  function end() {
    session.value = null
    phase.value = 'idle'
    timing.reversed = false
    sound.freeze(false)
  }
  function keep() {
    const now = session.value
    if (now === null) return
    if (phase.value === 'running') finish()
    if (session.value === null) return
    playback.stop()
    now.gesture.commit()
    end()
  }
  function discard() {
    const now = session.value
    if (now === null) return
    playback.stop()
    now.gesture.abandon()
    desk.goTo(now.playhead)
    end()
  }
  function retake() {
    const now = session.value
    if (now === null) return
    playback.stop()
    now.gesture.abandon()
    begin(now.panels)
  }

  const progress = computed(() => ({ ended: tapped.value.ended.length, of: session.value?.panels.length ?? 0, frames: tapped.value.ended.reduce((sum, entry) => sum + entry.lengthFrames, 0) }))

  return { phase, beat, calibrating, offsetMs, progress, start, tap, finish, keep, discard, retake }
}

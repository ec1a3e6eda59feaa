import type { Command } from '~/commands/command'
import { usePanels } from '~/composables/boards/usePanels'
import { usePlayback } from '~/composables/playback/usePlayback'
import { useTapTiming } from '~/composables/strip/useTapTiming'
import { useTiming } from '~/composables/strip/useTiming'
import { useBoardsStore } from '~/stores/boards'
import { useDeskStore } from '~/stores/desk'
import { LOOPS, SPEEDS, useTimingStore } from '~/stores/timing'

/** Playing, tapping, and giving time to panels, by name and by key. */
export function timeCommands(parts: { readonly strip: () => { editMark(id: string): void } | null }): readonly Command[] {
  const desk = useDeskStore()
  const boards = useBoardsStore()
  const timing = useTimingStore()
  const playback = usePlayback()
  const tap = useTapTiming()
  const timed = useTiming()
  const { go } = usePanels()
  /** With the pen in hand letters are pencils'; while it plays they are the shuttle's. */
  const handFree = () => desk.tool !== 'pen' || desk.playing
  const running = () => tap.phase.value === 'running'
  const reviewing = () => tap.phase.value === 'review'
  const time = (id: string, name: string, keys: readonly string[], run: () => void, more: Partial<Command> = {}): Command => ({ id, name, group: 'Time', keys, run, ...more })
  const toMark = (direction: 1 | -1) => {
    const frame = timed.nextMark(direction)
    if (frame !== null) go(frame)
  }
  const nextLoop = () => {
    const at = LOOPS.findIndex((each) => each.value === timing.loop)
    timing.loop = LOOPS[(at + 1) % LOOPS.length]!.value
  }
  const faster = (by: 1 | -1) => {
    const at = SPEEDS.findIndex((speed) => speed === timing.speed)
    playback.setSpeed(SPEEDS[Math.min(SPEEDS.length - 1, Math.max(0, at + by))]!)
  }

  return [
    time('play', 'Play or pause', ['Space'], () => (running() ? tap.finish() : playback.toggle()), { once: true }),
    time('shuttle-back', 'Shuttle backwards; again is faster', ['J'], () => playback.shuttle(-1), { enabled: handFree, once: true }),
    time('shuttle-stop', 'Stop the shuttle', ['K'], playback.stop, { enabled: handFree, once: true }),
    time('shuttle-on', 'Shuttle forwards; again is faster', ['L'], () => playback.shuttle(1), { enabled: handFree, once: true }),
    time('faster', 'Play faster', ['Alt+]'], () => faster(1)),
    time('slower', 'Play slower', ['Alt+['], () => faster(-1)),
    time('loop', 'What playback goes round in: the next choice', ['Shift+Space'], nextLoop),
    time('tap', 'Tap timing; while it runs, end the panel', ['T'], () => (running() ? tap.tap() : reviewing() ? tap.retake() : void tap.start()), { enabled: () => handFree() || running() || reviewing(), once: true }),
    time('tap-keep', 'Keep what was tapped', ['Enter'], tap.keep, { enabled: reviewing, once: true }),
    time('tap-discard', 'Throw away what was tapped', ['Escape'], tap.discard, { enabled: () => running() || reviewing() }),
    time('tap-calibrate', 'Measure how late you tap…', [], () => (tap.calibrating.value = true)),
    time('time-mode', 'Push or Steal', ['Shift+V'], () => (timing.mode = timing.mode === 'push' ? 'steal' : 'push')),
    time('snap', 'Snap on or off', ['Alt+S'], () => (timing.snap = !timing.snap)),
    time('longer', 'Panel a frame longer', ['Alt+ArrowRight'], () => void timed.step(1)),
    time('shorter', 'Panel a frame shorter', ['Alt+ArrowLeft'], () => void timed.step(-1)),
    time('longer-ten', 'Panel ten frames longer', ['Alt+Shift+ArrowRight'], () => void timed.step(10)),
    time('shorter-ten', 'Panel ten frames shorter', ['Alt+Shift+ArrowLeft'], () => void timed.step(-10)),
    ...timed.quickFrames.value.map((_, i) => time(`quick-length-${i + 1}`, `Quick length ${i + 1} for what is chosen`, [`Alt+${i + 4}`], () => void timed.quick(i))),
    time('fermata', 'Fermata on or off: the panel keeps its length', ['Shift+F'], timed.toggleFermata),
    time('split-panel', 'Split the panel at the playhead', ['Y'], timed.splitHere, { enabled: handFree }),
    time('join-panels', 'Join the chosen panels or shots', ['Shift+Y'], timed.joinTargets, { enabled: handFree }),
    time('cut-shot', 'Cut the shot where this panel begins', ['Shift+K'], timed.cutHere, { enabled: handFree }),
    time('choose-panels', 'Choose all panels of the shot; again, of the film', ['Ctrl+A'], () => void timed.chooseAll(), { enabled: handFree }),
    time('choose-nothing', 'Choose nothing', ['Escape'], timed.chooseNone, { enabled: () => desk.trial === null && desk.levelTrial === null && (boards.panels.length > 0 || boards.shots.length > 0 || timing.selectedMarkId !== null) && !running() && !reviewing() && desk.tool !== 'pen' }),
    time('delete-chosen', 'Delete the chosen panels or shots', ['Delete', 'Backspace'], () => void timed.removeTargets(), { enabled: () => desk.selectedFramingIds.length === 0 && timing.selectedMarkId === null && (boards.panels.length > 1 || boards.shots.length > 0) && desk.tool !== 'pen' }),
    time('delete-mark', 'Delete the selected mark', ['Delete', 'Backspace'], () => timing.selectedMarkId !== null && timed.removeMark(timing.selectedMarkId), { enabled: () => timing.selectedMarkId !== null && desk.selectedFramingIds.length === 0 && desk.tool !== 'pen' }),
    time('mark', 'A mark at the playhead', ['Alt+M'], () => {
      // While it plays, marks are dropped on the fly and named later.
      const id = timed.markAt(desk.playhead)
      if (id !== null && !desk.playing) parts.strip()?.editMark(id)
    }, { once: true }),
    time('next-mark', 'To the next mark', ['Alt+PageDown'], () => toMark(1)),
    time('previous-mark', 'To the mark before', ['Alt+PageUp'], () => toMark(-1)),
    time('range-in', 'The range begins here', ['Alt+I'], () => timing.setEnd('in', desk.playhead)),
    time('range-out', 'The range ends here', ['Alt+O'], () => timing.setEnd('out', desk.playhead)),
    time('range-clear', 'Clear the range', ['Alt+U'], timing.clearRange),
  ]
}

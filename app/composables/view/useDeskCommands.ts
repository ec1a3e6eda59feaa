import { keyFraming, removeKeys } from '@rubato/core/edits'
import type { Command } from '~/commands/command'
import { cameraCommands } from '~/composables/camera/useCameraCommands'
import { checkCommands } from '~/composables/checks/useCheckCommands'
import { penCommands } from '~/composables/draw/useDrawCommands'
import { soundCommands } from '~/composables/sound/useSoundCommands'
import { timeCommands } from '~/composables/strip/useTimeCommands'
import { useSoundPlayerStore } from '~/stores/soundPlayer'
import { useCameras } from '~/composables/camera/useCameras'
import { useSpans } from '~/composables/camera/useSpans'
import { useFastening } from '~/composables/levels/useFastening'
import { useLevelMoves } from '~/composables/levels/useLevelMoves'
import { useLevels } from '~/composables/levels/useLevels'
import { usePanels } from '~/composables/boards/usePanels'
import { useShots } from '~/composables/boards/useShots'
import { useBoardsStore } from '~/stores/boards'
import { useDeskStore, type Tool } from '~/stores/desk'
import { useFilmStore } from '~/stores/film'
import { useTimingStore } from '~/stores/timing'

interface Parts {
  readonly strip: () => { zoom(factor: number): void; zoomToShot(): void; zoomToChosen(): void; zoomToAll(): void; editMark(id: string): void } | null
  readonly openSpread: () => void
}

/** Every command of the Desk, for its keys, its palette and its buttons. */
export function useDeskCommands(parts: Parts) {
  const film = useFilmStore()
  const desk = useDeskStore()
  const { newShot, deleteShot } = useShots()
  const { go, newPanel, deletePanel } = usePanels()
  const levels = useLevels()
  const levelMoves = useLevelMoves()
  const fastening = useFastening()
  const spans = useSpans()
  const cameras = useCameras()
  const player = useSoundPlayerStore()
  const boards = useBoardsStore()
  const timing = useTimingStore()

  function copyFraming() {
    const id = desk.selectedFramingIds[0] ?? desk.framingHere?.framing.id ?? (desk.framings.length === 1 ? desk.framings[0]!.framing.id : undefined)
    const framing = id === undefined ? undefined : desk.take?.framings[id]
    if (framing === undefined) return film.refuse('There is no framing here to copy. Select a bead in the strip, or stand on one.')
    desk.copiedFraming = framing
  }

  function pasteFraming() {
    const [takeId, cameraId, copied] = [desk.takeId, desk.cameraAtWorkId, desk.copiedFraming]
    if (takeId === null || cameraId === null) return
    if (copied === null) return film.refuse('No framing has been copied yet. Select a bead and copy it first.')
    const newId = crypto.randomUUID()
    if (film.perform('paste framing', (f) => keyFraming(f.takes[takeId]!, takeId, cameraId, desk.shotFrame, copied.pose, newId))) {
      desk.trial = null
      desk.selectedFramingIds = desk.framingHere === null ? [] : [desk.framingHere.framing.id]
    }
  }

  function deleteSelected() {
    if (desk.selectedCutFrame !== null) return cameras.removeCut(desk.selectedCutFrame)
    if (desk.selectedSpanId !== null) return spans.remove(desk.selectedSpanId)
    if (desk.selectedKeyIds.length > 0) return levelMoves.remove(desk.selectedKeyIds)
    const takeId = desk.takeId
    const ids = desk.selectedFramingIds
    if (takeId === null || ids.length === 0) return film.refuse('Nothing is selected to be deleted. Click a bead, a follow or a level’s key in the strip first; levels are deleted from their menu in the rack.')
    if (film.perform(ids.length === 1 ? 'delete framing' : `delete ${ids.length} framings`, (f) => removeKeys(f.takes[takeId]!, takeId, ids))) desk.selectedFramingIds = []
  }

  const tool = (id: Tool, name: string, key: string): Command => ({ id: `tool-${id}`, name, group: id === 'camera' ? 'Camera' : 'Levels', keys: [key], run: () => (desk.tool = id) })
  /** The level is in hand, not the camera. */
  const atLevel = () => desk.tool === 'level' && desk.selectedLevel !== null
  const nextBead = (step: 1 | -1) => {
    const frames = atLevel() ? levelMoves.beads.value.map((bead) => bead.frame) : desk.framings.map((entry) => entry.frame)
    const to = step > 0 ? frames.find((frame) => frame > desk.shotFrame) : frames.findLast((frame) => frame < desk.shotFrame)
    if (to !== undefined) go((desk.placedShot?.startFrame ?? 0) + to)
  }

  /** A frame on or back is heard as well. */
  const step = (by: 1 | -1) => {
    go(desk.playhead + by)
    player.scrubTo(desk.playhead)
  }

  const commands: readonly Command[] = [
    ...penCommands(() => (desk.tool = 'pen')),
    { id: 'frame-back', name: 'One frame back', group: 'Time', keys: [','], run: () => step(-1) },
    { id: 'frame-on', name: 'One frame on', group: 'Time', keys: ['.'], run: () => step(1) },
    { id: 'shot-start', name: 'To the shot’s first frame', group: 'Time', keys: ['Home'], run: () => go(desk.placedShot?.startFrame ?? 0) },
    { id: 'shot-end', name: 'To the shot’s last frame', group: 'Time', keys: ['End'], run: () => go((desk.placedShot?.startFrame ?? 0) + (desk.placedShot?.lengthFrames ?? 1) - 1) },
    { id: 'film-start', name: 'To the film’s first frame', group: 'Time', keys: ['Ctrl+Home'], run: () => go(0) },
    { id: 'film-end', name: 'To the film’s last frame', group: 'Time', keys: ['Ctrl+End'], run: () => go(desk.lengthFrames - 1) },
    { id: 'next-panel', name: 'Next panel', group: 'Time', keys: ['PageDown'], run: () => desk.placedPanel && go((desk.placedShot?.startFrame ?? 0) + desk.placedPanel.startFrame + desk.placedPanel.panel.lengthFrames) },
    { id: 'previous-panel', name: 'Panel before', group: 'Time', keys: ['PageUp'], run: () => desk.placedPanel && go((desk.placedShot?.startFrame ?? 0) + desk.placedPanel.startFrame - 1) },
    { id: 'next-shot', name: 'Next shot', group: 'Time', keys: ['Shift+PageDown'], run: () => desk.placedShot && go(desk.placedShot.startFrame + desk.placedShot.lengthFrames) },
    { id: 'previous-shot', name: 'Shot before', group: 'Time', keys: ['Shift+PageUp'], run: () => go(film.filmStage.shots[(desk.placedShot?.index ?? 0) - 1]?.startFrame ?? 0) },
    ...timeCommands(parts),
    { id: 'new-panel', name: 'New panel after this one', group: 'Time', keys: ['N'], run: () => newPanel(false) },
    { id: 'duplicate-panel', name: 'Duplicate this panel', group: 'Time', keys: ['Shift+N'], run: () => newPanel(true) },
    { id: 'delete-panel', name: 'Delete this panel', group: 'Time', keys: ['Ctrl+Shift+Delete'], run: deletePanel },
    { id: 'key', name: 'Key: keep this framing, or the levels in hand', group: 'Camera', keys: ['Q'], run: desk.key },
    { id: 'auto-key', name: 'Auto-key on or off', group: 'Camera', keys: ['Shift+Q'], run: () => (desk.autoKey = !desk.autoKey) },
    { id: 'next-framing', name: 'Next framing', group: 'Camera', keys: ['Alt+.'], run: () => nextBead(1) },
    { id: 'previous-framing', name: 'Framing before', group: 'Camera', keys: ['Alt+,'], run: () => nextBead(-1) },
    { id: 'copy-framing', name: 'Copy framing', group: 'Camera', keys: ['Ctrl+C'], run: copyFraming },
    { id: 'paste-framing', name: 'Paste framing at the playhead', group: 'Camera', keys: ['Ctrl+V'], run: pasteFraming },
    { id: 'delete-framing', name: 'Delete the selected framings, keys or follow', group: 'Camera', keys: ['Delete', 'Backspace'], run: deleteSelected, enabled: () => desk.selectedSpanId !== null || desk.selectedCutFrame !== null || desk.selectedFramingIds.length > 0 || desk.selectedKeyIds.length > 0 || (timing.selectedMarkId === null && boards.panels.length < 2 && boards.shots.length === 0) },
    tool('camera', 'Camera tool', 'C'),
    tool('level', 'Move-level tool', 'M'),
    tool('walls', 'Wall tool: rooms, walls, floors and ceilings, drawn in the lens view', 'Alt+F'),
    { id: 'keep-picture', name: 'Keep the picture on or off', group: 'Levels', keys: ['Shift+P'], run: () => (desk.keepPicture = !desk.keepPicture) },
    { id: 'spread', name: 'Spread levels in depth…', group: 'Levels', keys: ['Shift+D'], run: parts.openSpread },
    { id: 'new-level', name: 'New level', group: 'Levels', keys: ['Shift+L'], run: () => void levels.add() },
    { id: 'duplicate-level', name: 'Duplicate the selected level', group: 'Levels', keys: ['Ctrl+D'], run: () => desk.selectedLevel && levels.duplicate(desk.selectedLevel) },
    { id: 'carry-together', name: 'Carry the chosen levels together: an empty carrier to move them by', group: 'Levels', keys: ['Shift+J'], run: () => fastening.together() },
    { id: 'let-go', name: 'Let the chosen levels go into the set', group: 'Levels', keys: [], run: () => void fastening.fasten(desk.chosenLevelIds, null), enabled: () => desk.chosenLevelIds.length > 0 },
    { id: 'with-camera', name: 'Let the chosen levels travel with the camera', group: 'Levels', keys: [], run: () => void fastening.fasten(desk.chosenLevelIds, { kind: 'camera' }), enabled: () => desk.chosenLevelIds.length > 0 },
    { id: 'matte', name: 'Matte on or off', group: 'View', keys: ['Shift+M'], run: () => (desk.lens.matte = !desk.lens.matte) },
    { id: 'thirds', name: 'Thirds on or off', group: 'View', keys: ['Shift+T'], run: () => (desk.lens.thirds = !desk.lens.thirds) },
    { id: 'ground', name: 'Ground, horizon and vanishing points on or off', group: 'View', keys: ['Shift+U'], run: () => (desk.lens.ground = !desk.lens.ground) },
    { id: 'safe', name: 'Safe areas on or off', group: 'View', keys: ['Shift+A'], run: () => (desk.lens.safeAreas = !desk.lens.safeAreas) },
    ...checkCommands(),
    { id: 'zoom-in', name: 'Zoom the strip in', group: 'View', keys: ['+', '='], run: () => parts.strip()?.zoom(1.5) },
    { id: 'zoom-out', name: 'Zoom the strip out', group: 'View', keys: ['-'], run: () => parts.strip()?.zoom(1 / 1.5) },
    { id: 'zoom-here', name: 'What is chosen, or the shot, across the strip', group: 'View', keys: ['Z'], run: () => parts.strip()?.zoomToChosen() },
    { id: 'zoom-film', name: 'The whole film across the strip', group: 'View', keys: ['Shift+Z'], run: () => parts.strip()?.zoomToAll() },
    { id: 'new-shot', name: 'New shot after this one', group: 'Film', keys: ['Alt+N'], run: () => void newShot() },
    { id: 'delete-shot', name: 'Delete this shot', group: 'Film', keys: [], run: deleteShot },
    ...cameraCommands(),
    ...soundCommands(),
  ]
  return { commands, newShot, deleteShot, newPanel, deletePanel }
}

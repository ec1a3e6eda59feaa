import { ref } from 'vue'
import type { Command } from '~/commands/command'
import { useCameraMoves } from '~/composables/camera/useCameraMoves'
import { useLevelMoves } from '~/composables/levels/useLevelMoves'
import type { KeysInTime } from '@rubato/core/edits'
import { liveCutting, useCameras } from '~/composables/camera/useCameras'
import { useSpans } from '~/composables/camera/useSpans'
import { useFrameThis } from '~/composables/camera/useFrameThis'
import { useViews } from '~/composables/view/useViews'
import { useDeskStore } from '~/stores/desk'
import { useFilmStore } from '~/stores/film'
import { useOperateStore } from '~/stores/operate'
import { useTakesStore } from '~/stores/takes'

/** Which of the camera's dialogs is open. */
export const cameraDialog = ref<'paste' | 'ready-made' | 'speakers' | null>(null)
export const PRESET_KEYS = ['1', '2', '3', '4', '5', '6', '7', '8', '9'] as const

/** Framings, moves and composing, by name and by key. */
export function cameraCommands(): readonly Command[] {
  const desk = useDeskStore()
  const moves = useCameraMoves()
  const levels = useLevelMoves()
  /** With a level in hand what is done to moves is done to its own. */
  const atLevel = () => desk.tool === 'level' && desk.selectedLevel !== null
  const retime = (how: KeysInTime, label: string) => (desk.selectedKeyIds.length > 0 ? levels.retime(how, `keys ${label}`) : moves.retime(how, `framings ${label}`))
  const frame = useFrameThis()
  const spans = useSpans()
  const cameras = useCameras()
  const views = useViews()
  const takes = useTakesStore()
  const operate = useOperateStore()
  const many = () => takes.other !== null
  const oneTake = () => useFilmStore().refuse('This shot has one take. Make another first: New take from this (Alt Shift C).')
  /** With the pen in hand digits and letters are pencils'. */
  const handFree = () => desk.tool !== 'pen' && !desk.playing
  const camera = (id: string, name: string, keys: readonly string[], run: () => void, more: Partial<Command> = {}): Command => ({ id, name, group: 'Camera', keys, run, ...more })
  return [
    camera('key-panel-first', 'Key at the panel’s first frame', ['Alt+Shift+PageUp'], () => moves.keyAtEnd('panel-first')),
    camera('key-panel-last', 'Key at the panel’s last frame', ['Alt+Shift+PageDown'], () => moves.keyAtEnd('panel-last')),
    camera('key-shot-first', 'Key at the shot’s first frame', ['Alt+Home'], () => moves.keyAtEnd('shot-first')),
    camera('key-shot-last', 'Key at the shot’s last frame', ['Alt+End'], () => moves.keyAtEnd('shot-last')),
    camera('drift', 'Drift: copy this framing to the shot’s end, to be altered there', ['Shift+E'], moves.drift),
    camera('hold-until', 'Hold until here: it waits, then makes its move', ['Alt+W'], () => (atLevel() ? levels.hold() : moves.hold())),
    camera('copy-move', 'Copy the move: the chosen framings or keys, or all of the shot’s', ['Alt+C'], () => (atLevel() ? levels.copy() : moves.copy())),
    camera('paste-move', 'Paste the move here: reversed, mirrored, to length…', ['Alt+P'], () => (cameraDialog.value = 'paste')),
    camera('ready-made', 'Ready-made move…', ['Alt+R'], () => (cameraDialog.value = 'ready-made')),
    camera('frame-speaker', 'Frame the speaker: framings, or camera cuts, by who speaks…', ['Alt+Shift+S'], () => (cameraDialog.value = 'speakers')),
    camera('frame-this', 'Frame this: what is selected into view', ['O'], frame.frameChosen, { enabled: handFree }),
    camera('frame-this-key', 'Frame this and key it here', ['Alt+Shift+O'], frame.keyChosen),
    camera('travel-to-this', 'Travel to this: from what is framed here to what is selected, by the panel’s end', ['Alt+T'], frame.travelToChosen),
    camera('frame-region', 'Frame a region: draw it in the lens view', ['Shift+O'], () => (desk.tool = 'region'), { enabled: handFree }),
    camera('counter-zoom', 'Counter-zoom on or off: the plane keeps its size while the distance changes', ['Alt+Z'], () => (desk.counterZooms = !desk.counterZooms)),
    camera('follow', 'Follow: from here on the camera goes along with the selected level, or with what is pointed at', ['Alt+G'], () => spans.start('follow')),
    camera('aim', 'Aim: from here on the camera turns to the selected level, or to what is pointed at', ['Alt+Shift+G'], () => spans.start('aim')),
    camera('by-hand', 'Held by hand: from here on the camera drifts a little', ['Alt+Shift+H'], spans.hold),
    camera('to-framings', 'Follow, aim and hand-held to framings…', ['Alt+Shift+F'], spans.bake),
    camera('next-camera', 'Look through the next camera of the shot', ['Alt+D'], cameras.next),
    camera('live-camera', 'Look through the live camera again', ['Alt+Shift+D'], () => desk.lookThrough(null), { enabled: () => desk.isLookingAside }),
    camera('new-camera', 'New camera from here', ['Alt+Shift+N'], cameras.addHere),
    camera('cut-here', 'Cut to the camera that is looked through, here', ['Alt+X'], () => desk.cameraAtWorkId !== null && cameras.cutHere(desk.cameraAtWorkId), { enabled: () => desk.isLookingAside }),
    camera('live-cut', 'Live cut: plays, and number keys cut to the shot’s cameras', ['Alt+Shift+X'], cameras.beginLive),
    ...PRESET_KEYS.map((id) => camera(`live-cut-${id}`, `In a live cut: cut to the shot’s camera ${id}`, [id], () => cameras.press(Number(id)), { enabled: () => liveCutting.value !== null })),
    { id: 'live-cut-give-up', name: 'Give up a live cut', group: 'Camera', keys: ['Escape'], run: cameras.giveUpLive, enabled: () => liveCutting.value !== null },
    camera('takes', 'The shot’s takes: circle, compare, name, delete', ['Alt+Shift+T'], () => (takes.cardsOpen = !takes.cardsOpen), { group: 'Film' }),
    camera('new-take', 'New take from this one: a copy to be changed', ['Alt+Shift+C'], () => takes.circled !== null && void takes.newFrom(takes.circled), { group: 'Film' }),
    camera('flip-take', 'Held: the other take through the lens', ['Alt+Y'], () => (many() ? (takes.flipped = true) : oneTake()), { group: 'View', once: true }),
    camera('wipe-take', 'A wipe between this take and the other, on or off', ['Alt+Shift+Y'], () => (many() ? (takes.wipeAt = takes.wipeAt === null ? 0.5 : null) : oneTake()), { group: 'View' }),
    camera('operate', 'Operate: work the camera by hand while the film plays; again while it does: done', ['Alt+Shift+A'], () => operate.open(), { once: true }),
    camera('lock-camera', 'Lock or unlock the camera', ['Alt+L'], () => moves.lock(desk.cameraAtWork?.locked !== true)),
    camera('lock-framing', 'Lock or unlock this framing or key', ['Alt+K'], () => (atLevel() ? levels.toggleLock() : moves.toggleFramingLock())),
    camera('framings-later', 'Chosen framings or keys a frame later', ['Ctrl+.'], () => retime({ kind: 'shift', byFrames: 1 }, 'later')),
    camera('framings-earlier', 'Chosen framings or keys a frame earlier', ['Ctrl+,'], () => retime({ kind: 'shift', byFrames: -1 }, 'earlier')),
    camera('framings-slower', 'Chosen framings or keys a tenth farther from the playhead', ['Ctrl+]'], () => retime({ kind: 'scale', aboutFrame: desk.shotFrame, factor: 1.1 }, 'apart')),
    camera('framings-quicker', 'Chosen framings or keys a tenth nearer the playhead', ['Ctrl+['], () => retime({ kind: 'scale', aboutFrame: desk.shotFrame, factor: 1 / 1.1 }, 'together')),
    ...PRESET_KEYS.flatMap((id) => [
      camera(`preset-${id}`, `Go to the framing kept on ${id}`, [id], () => moves.recall(id), { enabled: handFree }),
      camera(`preset-keep-${id}`, `Keep this framing on ${id}`, [`Ctrl+Alt+${id}`], () => moves.store(id)),
    ]),
    ...views.KINDS.map((kind): Command => ({ id: `beside-${kind.id}`, name: `${kind.name} in the view beside`, group: 'View', keys: [], run: () => views.show(kind.id) })),
    { id: 'view-next', name: 'The next kind of view beside', group: 'View', keys: ['Alt+B'], run: views.next },
    { id: 'view-alone', name: 'The lens view alone, or with the others', group: 'View', keys: ['Shift+W'], run: () => views.toggleAlone('lens') },
    { id: 'view-third', name: 'A third view, or two', group: 'View', keys: ['Alt+V'], run: views.toggleThird },
    { id: 'second-window', name: 'Open a second window for another screen', group: 'View', keys: ['Alt+Shift+W'], run: () => views.openSecond() },
  ]
}

import { cameraKeys, shorten } from '@rubato/core/document'
import type { CameraPose } from '@rubato/core/camera'
import { applyThinned, copyKeyTo, copyMove, editKey, holdUntil, lockCamera, putMove, removePreset, retimeKeys, setPreset, smoothKey, type KeysInTime } from '@rubato/core/edits'
import { mirroredMove, POSES, readyMadeMove, reversedMove, scaledMove, type Keyed, type ReadyMadeKind } from '@rubato/core/moves'
import type { Thinned } from '@rubato/core/stage'
import { useFrameThis } from '~/composables/camera/useFrameThis'
import { usePanels } from '~/composables/boards/usePanels'
import { useDeskStore } from '~/stores/desk'
import { useFilmStore } from '~/stores/film'

export interface PasteChoices {
  readonly reversed: boolean
  readonly mirrored: boolean
  /** Scaled from this frame to the shot's end. */
  readonly toLength: boolean
}

/** What an artist does with the framings and moves of the live camera. */
export function useCameraMoves() {
  const film = useFilmStore()
  const desk = useDeskStore()
  const { go } = usePanels()
  const { keyAt, look, subjectPoint } = useFrameThis()
  const here = () => (desk.takeId === null || desk.cameraAtWorkId === null || desk.placedShot === null ? null : { takeId: desk.takeId, cameraId: desk.cameraAtWorkId, shot: desk.placedShot })
  const newId = () => crypto.randomUUID()

  /** Keys what the lens shows at another frame: where a panel or the shot begins or ends. */
  function keyAtEnd(which: 'panel-first' | 'panel-last' | 'shot-first' | 'shot-last') {
    const [pose, panel, at] = [desk.pose, desk.placedPanel, here()]
    if (pose === null || panel === null || at === null) return
    const frame = { 'panel-first': panel.startFrame, 'panel-last': panel.startFrame + panel.panel.lengthFrames - 1, 'shot-first': 0, 'shot-last': at.shot.lengthFrames - 1 }[which]
    const name = which.replace('-', '’s ')
    if (keyAt(frame, pose, `key the ${name} frame`)) go(at.shot.startFrame + frame)
  }

  /** Copies the framing to the shot's end and goes there: what is changed next is one step with it. */
  function drift() {
    const [pose, at] = [desk.framingHere?.framing.pose ?? (desk.pose === null ? null : desk.framedAs(desk.pose)), here()]
    if (pose === null || at === null) return
    const joins = `drift:${newId()}`
    const last = at.shot.lengthFrames - 1
    if (!film.perform('drift', (f) => copyKeyTo(f.takes[at.takeId]!, at.takeId, cameraKeys(at.cameraId), desk.shotFrame, pose, last, newId), joins)) return void desk.nudge++
    go(at.shot.startFrame + last)
    const there = desk.framingHere?.framing.id
    if (there === undefined) return
    desk.drifting = { framingId: there, joins }
    desk.selectedFramingIds = [there]
  }

  function hold() {
    const at = here()
    if (at !== null && !film.perform('hold until here', (f) => holdUntil(f.takes[at.takeId]!, at.takeId, cameraKeys(at.cameraId), desk.shotFrame, newId()))) desk.nudge++
  }

  /** Copies the chosen framings with their moves; all of the shot's where fewer than two are chosen. */
  function copy() {
    const at = here()
    if (at === null || desk.take === null) return
    const ids = desk.selectedFramingIds.length > 1 ? desk.selectedFramingIds : null
    const framings = copyMove(desk.take, cameraKeys(at.cameraId), ids)
    if (framings.length === 0) return film.refuse('This shot has no framing to copy. Key one first.')
    desk.copiedMove = { framings, from: at.shot.shot.label, shotFrames: at.shot.lengthFrames }
  }

  function pasted(choices: PasteChoices): readonly Keyed<CameraPose>[] | null {
    const [copied, at] = [desk.copiedMove, here()]
    if (copied === null || at === null) return null
    let framings = copied.framings
    if (choices.reversed) framings = reversedMove(framings)
    if (choices.mirrored) framings = mirroredMove(framings, POSES)
    return choices.toLength ? scaledMove(framings, at.shot.lengthFrames - 1 - desk.shotFrame) : framings
  }

  function pasteMake(choices: PasteChoices, atFrame: number) {
    const at = here()!
    const framings = pasted(choices)
    return (f: typeof film.film) =>
      framings === null
        ? ({ ok: false, refusal: { code: 'move-too-long', asked: desk.copiedMove?.framings.length ?? 0, most: Math.max(0, at.shot.lengthFrames - atFrame) } } as const)
        : putMove(f.takes[at.takeId]!, at.takeId, cameraKeys(at.cameraId), framings, atFrame, newId)
  }

  function paste(choices: PasteChoices): boolean {
    if (here() === null) return false
    if (desk.copiedMove === null) {
      film.refuse('No move has been copied yet. Copy one in the shot that has it first.')
      return false
    }
    return film.perform('paste move', pasteMake(choices, desk.shotFrame))
  }

  /** A ready-made move from the playhead on, as its edit. */
  function readyMade(kind: ReadyMadeKind, amount: number, lengthFrames: number) {
    const [at, pose] = [here(), desk.pose]
    if (at === null || pose === null) return null
    const [frame, framings] = [desk.shotFrame, readyMadeMove(pose, { kind, amount, lengthFrames, subject: subjectPoint() })]
    return (f: typeof film.film) => putMove(f.takes[at.takeId]!, at.takeId, cameraKeys(at.cameraId), framings, frame, newId)
  }

  function lock(locked: boolean) {
    const at = here()
    if (at !== null) film.perform(locked ? 'lock camera' : 'unlock camera', (f) => lockCamera(f.takes[at.takeId]!, at.takeId, at.cameraId, locked))
  }

  function toggleFramingLock() {
    const entry = desk.framingHere ?? (desk.framings.length === 1 ? desk.framings[0]! : null)
    const at = here()
    if (entry === null || at === null) return film.refuse('There is no framing here to lock. Stand on a bead first.')
    const locked = !entry.framing.locked
    film.perform(locked ? 'lock framing' : 'unlock framing', (f) => editKey(f.takes[at.takeId]!, at.takeId, entry.framing.id, { locked }))
  }

  function smooth(framingId: string, on: boolean) {
    const at = here()
    if (at !== null) film.perform(on ? 'smooth path' : 'corner in the path', (f) => smoothKey(f.takes[at.takeId]!, at.takeId, framingId, on))
  }

  /** Moves or scales the chosen framings in time by a step of keys. */
  function retime(how: KeysInTime, label: string) {
    const at = here()
    const ids = desk.selectedFramingIds
    if (at === null) return
    if (ids.length === 0) return film.refuse('No framing is chosen. Click beads in the strip first, with Shift for several.')
    film.perform(label, (f) => retimeKeys(f.takes[at.takeId]!, at.takeId, cameraKeys(at.cameraId), ids, how), `retime:${ids.join()}`)
  }

  function thin(found: Thinned) {
    const at = here()
    if (at !== null && film.perform(`thin: ${found.remove.length} ${desk.tool === 'level' ? 'keys' : 'framings'}`, (f) => applyThinned(f.takes[at.takeId]!, at.takeId, found))) desk.chooseNoKeys()
  }

  /** The camera goes where a number key keeps it. */
  function recall(id: string) {
    const preset = desk.take?.presets[id]
    if (preset === undefined) return film.refuse(`Nothing is kept on ${id}. Frame the shot, then Ctrl Alt ${id} keeps it there.`)
    look(preset.pose, `framing ${preset.name}`)
  }
  function store(id: string, name?: string) {
    const [at, pose, kept] = [here(), desk.pose, desk.take?.presets[id]]
    if (at === null || pose === null) return
    film.perform(`keep framing ${id}`, (f) => setPreset(f.takes[at.takeId]!, at.takeId, { id, name: name ?? kept?.name ?? `Framing ${id}`, pose: { ...pose } }))
  }
  function rename(id: string, name: string) {
    const [at, kept] = [here(), desk.take?.presets[id]]
    if (at === null || kept === undefined || name.trim() === '' || name.trim() === kept.name) return
    film.perform('name of a kept framing', (f) => setPreset(f.takes[at.takeId]!, at.takeId, { ...kept, name: shorten(name.trim(), 80) }))
  }
  function forget(id: string) {
    const at = here()
    if (at !== null) film.perform(`let framing ${id} go`, (f) => removePreset(f.takes[at.takeId]!, at.takeId, id))
  }

  return { keyAtEnd, drift, hold, copy, paste, pasted, pasteMake, readyMade, lock, toggleFramingLock, smooth, retime, thin, recall, store, rename, forget }
}

import { inOrder, type Camera } from '@rubato/core/document'
import { addCamera, cutLive, cutTo, dissolveCut, keyFraming, removeCamera, removeCuts } from '@rubato/core/edits'
import { computed, shallowRef } from 'vue'
import { usePlayback } from '~/composables/playback/usePlayback'
import { useDeskStore } from '~/stores/desk'
import { useFilmStore } from '~/stores/film'

/** A live cut that is being made: what was pressed so far, film frames. Null: number keys are what they always are. */
export const liveCutting = shallowRef<{ readonly takeId: string; readonly shotStart: number; readonly presses: readonly { readonly frame: number; readonly cameraId: string }[]; readonly from: number | null; readonly to: number } | null>(null)

const count = (n: number, one: string) => `${n} ${one}${n === 1 ? '' : 's'}`

/** The cameras of a shot, which of them is live when, and which is worked on. */
export function useCameras() {
  const film = useFilmStore()
  const desk = useDeskStore()
  const { play, stop } = usePlayback()
  const newId = () => crypto.randomUUID()
  const cameras = computed<readonly Camera[]>(() => (desk.take === null ? [] : inOrder(desk.take.cameras)))
  const many = computed(() => cameras.value.length > 1)
  const letterOf = (id: string | null) => cameras.value.find((camera) => camera.id === id)?.letter ?? ''
  const here = () => (desk.takeId === null || desk.placedShot === null ? null : { takeId: desk.takeId, shot: desk.placedShot, frame: desk.shotFrame })

  /** A new camera that stands where the one at work stands now; it is looked through at once. */
  function addHere() {
    const at = here()
    if (at === null || desk.pose === null) return
    const [id, pose] = [newId(), desk.pose]
    if (film.perform('new camera', (f) => addCamera(f.takes[at.takeId]!, at.takeId, id, at.frame, pose, newId))) desk.lookThrough(id)
    else desk.nudge++
  }

  /** What goes along with it is told in the step's name. */
  function remove(camera: Camera) {
    const [at, take] = [here(), desk.take]
    if (at === null || take === null) return
    const framings = Object.values(take.framings).filter((framing) => framing.cameraId === camera.id).length
    const cuts = desk.stage!.live.spans.filter(({ cameraId, from }) => cameraId === camera.id && from > 0).length
    const along = [framings > 0 ? count(framings, 'framing') : '', cuts > 0 ? count(cuts, 'camera cut') : ''].filter(Boolean).join(' and ')
    desk.lookThrough(null)
    film.perform(`delete camera ${camera.letter}${along === '' ? '' : ` with ${along}`}`, (f) => removeCamera(f.takes[at.takeId]!, at.takeId, camera.id, newId))
  }

  /** The film sees this camera from the playhead on, up to the next cut. */
  function cutHere(cameraId: string) {
    const at = here()
    if (at !== null && film.perform(`cut to camera ${letterOf(cameraId)}`, (f) => cutTo(f.takes[at.takeId]!, at.takeId, at.frame, cameraId, newId))) desk.lookThrough(null)
  }
  function setCut(frame: number, cameraId: string) {
    const at = here()
    if (at !== null) film.perform(`camera ${letterOf(cameraId)} at this cut`, (f) => cutTo(f.takes[at.takeId]!, at.takeId, frame, cameraId, newId))
  }
  const dissolve = (frame: number, frames: number) => {
    const at = here()
    if (at !== null) film.perform(frames === 0 ? 'cut' : 'camera dissolve', (f) => dissolveCut(f.takes[at.takeId]!, at.takeId, frame, frames, newId), `dissolve:${at.takeId}:${frame}`)
  }
  function removeCut(frame: number) {
    const at = here()
    if (at !== null && film.perform('take out the camera cut', (f) => removeCuts(f.takes[at.takeId]!, at.takeId, [frame], newId))) desk.selectedCutFrame = null
  }

  /** Keys what is seen here on another camera. */
  function copyFramingTo(camera: Camera) {
    const [at, pose, stage] = [here(), desk.pose, desk.stage]
    if (at === null || pose === null || stage === null) return
    const framed = stage.framedAs(camera.id, at.frame, pose)
    film.perform(`copy the framing to camera ${camera.letter}`, (f) => keyFraming(f.takes[at.takeId]!, at.takeId, camera.id, at.frame, framed, newId()))
  }

  /** Looks through the next camera of the shot; past the last the live one again. */
  function next() {
    if (!many.value) return film.refuse('This shot has one camera. Put in another first: New camera from here, at the letter over the lens view.')
    const at = cameras.value.findIndex(({ id }) => id === desk.cameraAtWorkId)
    const id = cameras.value[(at + 1) % cameras.value.length]!.id
    desk.lookThrough(id === desk.liveCameraId ? null : id)
  }

  /** Plays, and number keys cut to the camera of that number, until it is stopped: one step. */
  function beginLive() {
    const at = here()
    if (at === null) return
    if (!many.value) return film.refuse('A live cut chooses between cameras, and this shot has one. Put in another first.')
    liveCutting.value = { takeId: at.takeId, shotStart: at.shot.startFrame, presses: [], from: null, to: at.frame }
    desk.lookThrough(null)
    void play()
  }
  function press(number: number) {
    const now = liveCutting.value
    const camera = cameras.value[number - 1]
    if (now === null || camera === undefined || desk.takeId !== now.takeId) return
    const frame = desk.shotFrame
    desk.pressedCameraId = camera.id
    liveCutting.value = { ...now, presses: [...now.presses.filter((each) => each.frame !== frame), { frame, cameraId: camera.id }], from: now.from ?? frame, to: Math.max(now.to, frame) }
  }
  /** As far as it has played since the first press, what was there before is given up. */
  function reach(frame: number) {
    const now = liveCutting.value
    if (now !== null && now.from !== null && frame > now.to) liveCutting.value = { ...now, to: frame }
  }
  function endLive() {
    const now = liveCutting.value
    liveCutting.value = null
    desk.pressedCameraId = null
    if (now === null || now.from === null) return
    const { from, to } = now
    film.perform('live cut', (f) => cutLive(f.takes[now.takeId]!, now.takeId, { from, to }, [...now.presses].sort((a, b) => a.frame - b.frame), newId))
  }
  function giveUpLive() {
    liveCutting.value = null
    desk.pressedCameraId = null
    stop()
  }

  return { cameras, many, letterOf, addHere, remove, cutHere, setCut, dissolve, removeCut, copyFramingTo, next, beginLive, press, reach, endLive, giveUpLive }
}

import { untouchedPose, type CameraPose } from '@rubato/core/camera'
import { EMPTY_OUTLINE, EMPTY_TAKE, orderOfNumber, placedFramings, type Film, type TakeBody } from '@rubato/core/document'
import { applyChange, keyFraming, type Change } from '@rubato/core/edits'
import { describe, expect, it } from 'vitest'
import { computed, ref, shallowRef } from 'vue'
import { createCameraHand, type CameraMode } from './cameraHand'
import { createEditing } from './editing'

const REST = untouchedPose({ filmBackMm: 36, baseLensMm: 50, aspect: 16 / 9 })
const at = (x: number): CameraPose => ({ ...REST, x })
const panel = { id: 'p', order: orderOfNumber(0), lengthFrames: 48, lengthLocked: false, action: '', dialogue: '', notes: '' }
const bare: TakeBody = { ...EMPTY_TAKE, panels: { p: panel }, cameras: { a: { id: 'a', order: 'a0', letter: 'A', locked: false } } }
function keyed(...frames: readonly number[]): TakeBody {
  let film: Film = { outline: EMPTY_OUTLINE, takes: { t: bare }, drawings: {} }
  for (const frame of frames) {
    const made = keyFraming(film.takes.t!, 't', 'a', frame, at(frame / 10), `f${frame}`)
    const applied = made.ok ? applyChange(film, made) : null
    if (!applied?.ok) throw new Error('key')
    film = applied.value
  }
  return film.takes.t!
}

/** A desk that stands on a frame of a take, in a mode. */
function stand(take: TakeBody, frame: number, mode: CameraMode, keeps: number | null = null) {
  const film = shallowRef<Film>({ outline: EMPTY_OUTLINE, takes: { t: take }, drawings: {} })
  const sent: Change[] = []
  const refusals: string[] = []
  const editing = createEditing({ film, projectId: () => null, lookingAt: () => null, openedSet: () => null, revisions: new Map(), whereabouts: () => ({ shotId: 's', frame, selection: [] }), giveBack: () => undefined, refuse: (text) => void refusals.push(text), send: (change) => void sent.push(change), released: () => undefined, ensure: async () => undefined })
  const trial = shallowRef<{ shotId: string; frame: number; pose: CameraPose } | null>(null)
  const here = computed(() => placedFramings(film.value.takes.t!, 'a').find((entry) => entry.frame === frame) ?? null)
  const pose = computed(() => trial.value?.pose ?? here.value?.framing.pose ?? at(frame / 10))
  const nudge = ref(0)
  const hand = createCameraHand({
    film: { ...editing, refuse: (text) => void refusals.push(text) },
    framedAs: (asked) => asked,
    takeId: ref('t'),
    take: computed(() => film.value.takes.t!),
    cameraAtWorkId: ref('a'),
    shotFrame: ref(frame),
    shotId: ref('s'),
    trial,
    trialHere: trial,
    pose,
    framingHere: here,
    cameraMode: ref(mode),
    drifting: ref(null),
    keeps: () => keeps,
    nudge,
  })
  return { hand, trial, sent, refusals, nudge, framings: () => placedFramings(film.value.takes.t!, 'a').map((entry) => [entry.frame, Number(entry.framing.pose.x.toFixed(6))]) }
}

describe('the hand on the camera', () => {
  it('only looks between framings: nothing is written, and giving up puts back what was seen', () => {
    const { hand, trial, sent, framings } = stand(keyed(0, 40), 20, 'looking')
    const camera = hand.beginCamera()
    camera.update(at(9))
    expect([trial.value?.pose.x, sent, framings()]).toEqual([9, [], [[0, 0], [40, 4]]])
    camera.abandon()
    expect(trial.value).toBeNull()
    hand.beginCamera().update(at(9))
    hand.key()
    expect([framings(), sent.map(({ label }) => label), trial.value]).toEqual([[[0, 0], [20, 9], [40, 4]], ['key framing'], null])
  })

  it('keys where Auto-key is lit, changes the framing it stands on, and reframes a shot with one', () => {
    const auto = stand(keyed(0, 40), 20, 'auto-key')
    const camera = auto.hand.beginCamera()
    for (const x of [5, 6, 7]) camera.update(at(x))
    camera.end()
    expect([auto.framings(), auto.sent.length]).toEqual([[[0, 0], [20, 7], [40, 4]], 1])
    const on = stand(keyed(0, 40), 40, 'changes-framing')
    const other = on.hand.beginCamera()
    other.update(at(8))
    other.end()
    expect(on.framings()).toEqual([[0, 0], [40, 8]])
    const one = stand(keyed(0), 30, 'reframes')
    const whole = one.hand.beginCamera()
    whole.update(at(2))
    whole.end()
    expect([one.framings(), one.sent.map(({ label }) => label)]).toEqual([[[0, 2]], ['reframe']])
  })

  it('is refused by a lock, once, in words', () => {
    const { hand, refusals, nudge, sent } = stand(keyed(0), 0, 'locked')
    const camera = hand.beginCamera()
    camera.update(at(3))
    camera.end()
    expect([refusals.length, nudge.value, sent]).toEqual([1, 1, []])
    expect(refusals[0]).toMatch(/locked\. Unlock it/)
  })

  it('keeps a plane’s size by the lens where it counter-zooms, and says where it can’t', () => {
    const { hand, trial, refusals } = stand(keyed(0, 40), 20, 'looking', 0)
    const camera = hand.beginCamera()
    const nearer = { ...at(2), depth: REST.depth / 2 }
    camera.update(nearer)
    expect(trial.value!.pose.focalLengthMm).toBeCloseTo(25, 6)
    camera.update({ ...nearer, depth: 1 })
    expect(refusals[0]).toContain('before the lens')
    // Told not to, it does not.
    const plain = stand(keyed(0, 40), 20, 'looking', 0)
    plain.hand.beginCamera('move', false).update(nearer)
    expect(plain.trial.value!.pose.focalLengthMm).toBe(50)
  })

  it('writes nothing where the framing is there already as it is seen', () => {
    const { hand, sent } = stand(keyed(0, 40), 40, 'changes-framing')
    hand.key()
    expect(sent).toEqual([])
  })
})

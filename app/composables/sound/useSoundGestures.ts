import { editClip, moveClips, putTransition, slipClip, tieClips, trimClip, trimRange, type Made } from '@rubato/core/edits'
import { framesPerSecond, secondsOfFrames } from '@rubato/core/time'
import type { ComputedRef, ShallowRef } from 'vue'
import { useSound } from '~/composables/sound/useSound'
import { useTransitions } from '~/composables/strip/useTransitions'
import type { DragStep } from '~/gestures/drag'
import { useDeskStore } from '~/stores/desk'
import type { Gesture } from '~/stores/editing'
import { useFilmStore } from '~/stores/film'
import { useSoundStore } from '~/stores/sound'
import type { StripHit } from '~/timeline/hitStrip'
import { snapPlaces } from '~/timeline/snap'
import { laneAt } from '~/timeline/stripLanes'
import type { StripScale } from '~/timeline/stripScale'
import type { StripScene } from '~/timeline/stripScene'

export interface Trial {
  readonly begin?: () => void
  readonly move: (gesture: Gesture, step: DragStep) => void
  /** Whichever way it ends. */
  readonly over?: () => void
  readonly cancelled?: () => void
  readonly click: () => void
}

interface Wiring {
  readonly scale: ComputedRef<StripScale>
  readonly scene: ComputedRef<StripScene>
  readonly live: ShallowRef<StripScene['live']>
  readonly snapFrame: ShallowRef<number | null>
  readonly local: (event: { clientX: number; clientY: number }) => { readonly x: number; readonly y: number }
  readonly dragTrial: (event: PointerEvent, label: string, trial: Trial) => void
  readonly snapTo: (frame: number, places: readonly number[], event: PointerEvent, whole?: boolean) => number
}

type SoundHit = Extract<StripHit, { kind: 'clip' | 'clip-end' | 'fade' | 'lane' | 'proposal' | 'transition' | 'transition-end' }>

const round2 = (value: number) => Math.round(value * 100) / 100
const signed = (frames: number) => `${frames < 0 ? '−' : '+'}${Math.abs(round2(frames))}`

/** What the pointer does with clips and transitions on the strip. */
export function useSoundGestures({ scale, scene, live, snapFrame, local, dragTrial, snapTo }: Wiring) {
  const film = useFilmStore()
  const desk = useDeskStore()
  const sound = useSoundStore()
  const transitions = useTransitions()
  const { tieAt } = useSound()
  const projectId = () => film.project!.id
  const rate = () => film.project!.rate
  const fps = () => framesPerSecond(rate())

  function onDown(event: PointerEvent, hit: SoundHit) {
    if (hit.kind === 'transition') return sound.chooseTransition(hit.id)
    if (hit.kind === 'transition-end') return dragTransition(event, hit.id, hit.end)
    if (hit.kind === 'proposal') return
    if (hit.kind === 'lane') {
      sound.chooseNothing()
      sound.laneId = hit.laneId
      return
    }
    if (hit.kind === 'fade') return dragFade(event, hit.clipId, hit.end)
    if (hit.kind === 'clip-end') return dragClipEnd(event, hit.clipId, hit.end)
    if (event.altKey) return dragSlip(event, hit.clipId)
    dragClips(event, hit.clipId)
  }

  const toggles = (event: MouseEvent) => event.shiftKey || event.ctrlKey || event.metaKey

  /** Clips go along the film and from lane to lane, each end snapping; they are tied to the shot that they come to lie in. */
  function dragClips(event: PointerEvent, clipId: string) {
    let ids: readonly string[] = []
    let base = 0
    let laneIndex = 0
    let places: number[] = []
    const laneOf = (y: number) => scene.value.lanes.findIndex((lane) => lane === laneAt(scene.value, y))
    const click = () => sound.choose(clipId, toggles(event) ? 'toggle' : 'only')
    let lengthFrames = 0
    dragTrial(event, 'move clip', {
      begin: () => {
        if (!sound.chosen.includes(clipId)) sound.choose(clipId)
        ids = [...sound.chosen].filter((id) => sound.placed.placeOf(id) !== null)
        const placed = sound.placed.placeOf(clipId)!
        base = placed.startSeconds * fps()
        lengthFrames = placed.clip.lengthSeconds * fps()
        laneIndex = laneOf(local(event).y)
        places = snapPlaces(scene.value, { playhead: desk.playhead, not: NaN, without: new Set(ids) })
      },
      move: (gesture, { dx, event: step }) => {
        const wanted = base + dx / scale.value.pxPerFrame
        // The nearer of its ends snaps; else it comes to stand on a whole frame.
        const atStart = snapTo(wanted, places, step, false)
        const startSnap = snapFrame.value
        const atEnd = snapTo(wanted + lengthFrames, places, step, false)
        const endSnap = snapFrame.value
        const byEnd = startSnap === null && endSnap !== null
        const to = byEnd ? atEnd - lengthFrames : atStart
        snapFrame.value = byEnd ? endSnap : startSnap
        const over = laneOf(local(step).y)
        const byLanes = over < 0 ? 0 : over - laneIndex
        const tie = tieAt(to)
        const done = gesture.update((f): Made => {
          const moved = moveClips(f.outline, projectId(), ids, to - base, byLanes)
          if (!moved.ok || f.outline.clips[clipId]?.shotId === null || tie.shotId === null) return moved
          const clips = { ...f.outline.clips, ...Object.fromEntries(Object.entries(moved.edits[0]!.changes.clips ?? {}).map(([id, { after }]) => [id, after])) } as typeof f.outline.clips
          // A clip tied to a shot goes over to the one that it is put in; one tied to the film stays so.
          const tied = tieClips({ ...f.outline, clips }, projectId(), ids.filter((id) => clips[id]!.shotId !== null), tie.shotId, sound.startOf)
          return tied.ok ? { ok: true, edits: [...moved.edits, ...tied.edits] } : tied
        })
        const lane = scene.value.lanes[Math.max(0, over)]
        if (done && lane !== undefined) live.value = { frame: to, row: { lane: lane.id }, text: ids.length === 1 ? `${signed(to - base)} f` : `${ids.length} clips  ${signed(to - base)} f` }
      },
      click,
    })
  }

  function dragClipEnd(event: PointerEvent, clipId: string, end: 'start' | 'end') {
    const placed = sound.placed.placeOf(clipId)
    if (placed === null) return
    const { clip } = placed
    const edge = (end === 'start' ? placed.startSeconds : placed.endSeconds) * fps()
    const range = trimRange(clip, end, rate())
    const places = snapPlaces(scene.value, { playhead: desk.playhead, not: edge, without: new Set([clipId]) })
    dragTrial(event, `trim ${clip.name}`, {
      begin: () => sound.choose(clipId),
      move: (gesture, { dx, event: step }) => {
        const by = Math.min(range.most, Math.max(range.least, snapTo(edge + dx / scale.value.pxPerFrame, places, step, false) - edge))
        if (!gesture.update((f) => trimClip(f.outline, projectId(), clipId, end, by, rate()))) return
        const length = clip.lengthSeconds + ((end === 'start' ? -1 : 1) * by) / fps()
        const all = by === (end === 'start' ? range.least : range.most) ? '  all of it' : ''
        live.value = { frame: edge + by, row: { lane: clip.laneId }, text: `${length.toFixed(2)} s${all}` }
      },
      click: () => sound.choose(clipId, toggles(event) ? 'toggle' : 'only'),
    })
  }

  /** The recording goes along under the clip. */
  function dragSlip(event: PointerEvent, clipId: string) {
    const clip = film.outline.clips[clipId]
    if (clip === undefined) return
    dragTrial(event, `slip ${clip.name}`, {
      begin: () => sound.choose(clipId),
      move: (gesture, { dx }) => {
        const by = secondsOfFrames(dx / scale.value.pxPerFrame, rate())
        if (!gesture.update((f) => slipClip(f.outline, projectId(), clipId, by))) return
        const from = film.outline.clips[clipId]!.fromSeconds
        live.value = { frame: sound.placed.placeOf(clipId)!.startSeconds * fps(), row: { lane: clip.laneId }, text: `from ${from.toFixed(2)} s of ${clip.sourceSeconds.toFixed(2)}` }
      },
      click: () => sound.choose(clipId),
    })
  }

  function dragFade(event: PointerEvent, clipId: string, end: 'in' | 'out') {
    const placed = sound.placed.placeOf(clipId)
    if (placed === null) return
    const { clip } = placed
    const before = end === 'in' ? placed.fadeInSeconds : placed.fadeOutSeconds
    dragTrial(event, `fade ${end} of ${clip.name}`, {
      move: (gesture, { dx }) => {
        const other = end === 'in' ? clip.fadeOutSeconds : clip.fadeInSeconds
        const seconds = Math.min(clip.lengthSeconds - other, Math.max(0, before + ((end === 'in' ? 1 : -1) * dx) / scale.value.pxPerFrame / fps()))
        if (!gesture.update((f) => editClip(f.outline, projectId(), clipId, end === 'in' ? { fadeInSeconds: seconds } : { fadeOutSeconds: seconds }))) return
        live.value = { frame: (end === 'in' ? placed.startSeconds + seconds : placed.endSeconds - seconds) * fps(), row: { lane: clip.laneId }, text: `fade ${end}  ${seconds.toFixed(2)} s` }
      },
      click: () => sound.choose(clipId),
    })
  }

  function dragTransition(event: PointerEvent, id: string, end: 'from' | 'to') {
    const transition = film.outline.transitions[id]
    const placed = film.filmStage.transitions.find((each) => each.transition.id === id)
    if (transition === undefined || placed === undefined) return
    const edge = placed[end]
    const most = transitions.most(transition)
    const places = snapPlaces(scene.value, { playhead: desk.playhead, not: edge })
    dragTrial(event, `length of ${transitions.nameOf(transition)}`, {
      begin: () => sound.chooseTransition(id),
      move: (gesture, { dx, event: step }) => {
        const wanted = transitions.lengthAt(transition, placed.cutFrame, end, snapTo(edge + dx / scale.value.pxPerFrame, places, step))
        const lengthFrames = Math.min(Math.max(1, most), wanted)
        if (!gesture.update((f) => putTransition(f.outline, projectId(), { ...transition, lengthFrames }, Math.max(1, most)))) return
        live.value = { frame: edge, row: 'shots', text: `${transitions.nameOf(transition)}  ${lengthFrames} f${wanted > lengthFrames ? '  no more room' : ''}` }
      },
      click: () => sound.chooseTransition(id),
    })
  }

  return { onDown }
}

export function isSoundHit(hit: StripHit): hit is SoundHit {
  return ['clip', 'clip-end', 'fade', 'lane', 'proposal', 'transition', 'transition-end'].includes(hit.kind)
}

import { meetPlane, project, slidePoint, type Lens } from '@rubato/core/camera'
import { into, outOf, SET, turnedInSet, type Carriage } from '@rubato/core/depth'
import { levelKeys } from '@rubato/core/document'
import { putMove, travelLevel, type LevelTravel } from '@rubato/core/edits'
import { subtract, type Point3 } from '@rubato/core/geometry'
import { CUSHIONED_MOVE, fitPath, spacedFrames, type Keyed, type LevelAspect, type LevelValues } from '@rubato/core/moves'
import { useRepeatLines } from '~/composables/levels/useRepeats'
import { useLevelUnder } from '~/composables/levels/useLevelUnder'
import { useLevelFields } from '~/composables/levels/useLevelFields'
import type { useLensLevel } from '~/composables/levels/useLevelWay'
import { useWayGestures } from '~/composables/levels/useWayGestures'
import { usePlayback } from '~/composables/playback/usePlayback'
import { followDrag, type DragStep } from '~/gestures/drag'
import type { Px } from '~/plan/elevation'
import { growthFrom, hitLevel, strays, turnedFrom } from '~/plan/levelHandles'
import { useDeskStore } from '~/stores/desk'
import type { Gesture } from '~/stores/editing'
import { useFilmStore } from '~/stores/film'
import { useLevelToolStore } from '~/stores/levelTool'

/** A drag that strays less than this part of its way was meant to be straight. */
const STRAIGHT_SHARE = 0.07
/** A drawn way is followed as closely as this, fw on the picture. */
const DRAWN_FW = 0.004

const CUSHION_FRAMES = 6
/** A px of a drag turns a level out of the picture by so much. */
const TURN_DEGREES_PX = 0.4

export interface LensSurface {
  readonly toFrame: (event: { clientX: number; clientY: number }) => { readonly u: number; readonly v: number }
  readonly toPane: (u: number, v: number) => Px
  readonly frameWidth: () => number
  readonly local: (event: { clientX: number; clientY: number }) => Px
}

/** What the hand does to levels in the lens view: moving, sizing, turning, pulling a travel, drawing a way. */
export function useLevelGestures({ toFrame, toPane, frameWidth, local }: LensSurface, level: ReturnType<typeof useLensLevel>, tell: (text: string | null) => void, pulls: () => boolean) {
  const film = useFilmStore()
  const desk = useDeskStore()
  const tool = useLevelToolStore()
  const fields = useLevelFields()
  const { play, stop } = usePlayback()
  const { placed, handles, way, keys } = level
  const ways = useWayGestures(level, tell)
  const lens = (): Lens => desk.stageFrame!.lens

  const { levelUnder } = useLevelUnder(toPane)
  const laid = useRepeatLines({ toFrame, toPane }, tell)

  function onDown(event: PointerEvent) {
    if (tool.laying !== null) return laid.draw(event, tool.laying)
    const at = local(event)
    const hit = hitLevel(handles.value, way.value, at, event.altKey)
    // On the frame of a key the figure stands there itself.
    const isHere = hit?.kind === 'key' && keys.value.find((key) => key.id === hit.id)?.frame === desk.shotFrame
    if (hit === null || hit.kind === 'art' || isHere) {
      const under = levelUnder(at)
      // Without a figure in hand the one under the pointer is taken; with one it is dragged from anywhere, as it always was.
      if (desk.selectedLevel === null && under !== null) desk.chooseLevel(under, event)
      return moveOrChoose(event, under)
    }
    if (hit.kind === 'key' || hit.kind === 'mark') {
      const from = lens()
      const placeAt = (step: DragStep, start: Point3) => slid(from, SET, start, step)
      return hit.kind === 'key' ? ways.dragKey(event, hit.id, placeAt) : ways.dragMark(event, hit.mark, placeAt)
    }
    const { pivot } = handles.value!
    if (hit.kind === 'pivot') return dragPivot(event)
    const turns = hit.kind === 'knob'
    const aspect = turns ? 'turn' : 'size'
    const valueOf = ({ event: step, axis, dx, dy }: DragStep, start: LevelValues, id: string): { readonly value: LevelValues[LevelAspect]; readonly told: string } => {
      if (!turns) {
        const size = start.size * growthFrom(pivot, at, local(step))
        return { value: size, told: `size ${size.toFixed(3)} ×` }
      }
      // With X held it tilts, with Y it pans: about the set's own axes, as its carrier stands.
      if (axis === 'x' || axis === 'y') {
        const raw = axis === 'y' ? dx * TURN_DEGREES_PX : -dy * TURN_DEGREES_PX
        const degrees = step.shiftKey ? Math.round(raw / 15) * 15 : Math.round(raw * 2) / 2
        return { value: turnedInSet(desk.carriageOf(id), start.turn, axis, degrees), told: `${axis === 'y' ? 'pan' : 'tilt'} by ${degrees.toFixed(1)}°` }
      }
      const raw = start.turn.rollDegrees + turnedFrom(pivot, at, local(step))
      const rollDegrees = step.shiftKey ? Math.round(raw / 15) * 15 : Math.round(raw * 10) / 10
      return { value: { ...start.turn, rollDegrees }, told: `roll ${rollDegrees.toFixed(1)}°` }
    }
    const ids = desk.chosenLevelIds
    const label = `${turns ? 'turn' : 'size of'} ${nameOf(ids)}`
    if (pulls()) return pull(event, aspect, valueOf)
    follow(event, () => fields.aboutMiddle(label, (joins) => desk.beginLevels(ids, [aspect], label, joins)), (change, step) => {
      change.update((id, start) => {
        const { value, told } = valueOf(step, start, id)
        if (id === desk.selectedLevelId) tell(told)
        return { [aspect]: value }
      })
    })
  }

  const nameOf = (ids: readonly string[]) => (ids.length === 1 ? (desk.take?.levels[ids[0]!]?.name ?? '') : `${ids.length} levels`)

  /** A drag of something that ends or is given up. */
  function follow<C extends { end(): void; abandon(): void }>(event: PointerEvent, begin: () => C, move: (change: C, step: DragStep) => void, click?: () => void) {
    let change: C | null = null
    followDrag(event, {
      begin: () => (change = begin()),
      move: (step) => move(change!, step),
      end: () => (change?.end(), tell(null)),
      cancel: () => (change?.abandon(), tell(null)),
      click,
    })
  }

  /** A place in a level's own axes moved with the pointer over the picture, alone along x or y of the set where that is held. */
  function slid(from: Lens, carriage: Carriage, own: Point3, { dx, dy, event, axis }: DragStep): Point3 | null {
    let [du, dv] = [dx / frameWidth(), -dy / frameWidth()]
    if (event.shiftKey) [du, dv] = Math.abs(du) > Math.abs(dv) ? [du, 0] : [0, dv]
    const start = outOf(carriage, own)
    const place = slidePoint(from, start, du, dv)
    if (place === null) return null
    return into(carriage, axis === null || axis === 'depth' ? place : { ...start, [axis]: place[axis] })
  }

  function moveOrChoose(event: PointerEvent, under: string | null) {
    const ids = desk.chosenLevelIds
    const choose = () => (under === null ? undefined : desk.chooseLevel(under, event))
    if (ids.length === 0) return film.refuse('No level is selected. Click a figure in the lens view, or choose a level in the depth rack.')
    if (tool.drag === 'draw') return drawWay(event, choose)
    if (pulls()) return pull(event, 'place', null, choose)
    const from = lens()
    follow(
      event,
      () => desk.beginLevels(ids, ['place'], `move ${nameOf(ids)}`),
      (change, step) =>
        change.update((id, start) => {
          const place = slid(from, desk.carriageOf(id), start.place, step)
          if (place === null) return {}
          if (id === desk.selectedLevelId) tell(`x ${place.x.toFixed(3)}  y ${place.y.toFixed(3)}`)
          return { place }
        }),
      choose,
    )
  }

  /** The panel that the playhead is in: a travel lasts from its first frame to its last. */
  function panelSpan(): { readonly from: number; readonly to: number } | null {
    const panel = desk.placedPanel
    if (panel === null) return null
    if (panel.panel.lengthFrames < 2) {
      film.refuse('This panel has one frame: nothing can travel in it. Make it longer first.')
      return null
    }
    return { from: panel.startFrame, to: panel.startFrame + panel.panel.lengthFrames - 1 }
  }

  /** Where it stands is its value at the panel's first frame, where it is let go at its last; then it goes the way at once. */
  function pull(event: PointerEvent, aspect: LevelAspect, valueOf: ((step: DragStep, start: LevelValues, id: string) => { readonly value: LevelValues[LevelAspect]; readonly told: string }) | null, click?: () => void) {
    const [takeId, span, ids, before] = [desk.takeId, panelSpan(), desk.chosenLevelIds, desk.playhead]
    if (takeId === null || span === null || ids.length === 0) return
    const shotStart = desk.placedShot!.startFrame
    const starts = new Map(ids.map((id) => [id, desk.levelValues(id)!]))
    const drawn = new Map<string, Point3[]>(ids.map((id) => [id, [starts.get(id)!.place]]))
    const newIds = new Map<string, string>()
    const newId = (name: string) => newIds.get(name) ?? (newIds.set(name, crypto.randomUUID()), newIds.get(name)!)
    let gesture: { readonly update: Gesture['update']; end(): void; abandon(): void } | null = null
    /** What was pulled last could be made. */
    let taken = false
    const back = (then: 'abandon' | 'end') => {
      gesture?.[then]()
      tell(null)
    }
    followDrag(event, {
      begin: () => {
        const label = `travel of ${nameOf(ids)}`
        const begun = (joins: string | null) => {
          const made = film.beginGesture(label, joins)
          return { update: made.update, end: made.commit, abandon: made.abandon }
        }
        gesture = valueOf === null ? begun(null) : fields.aboutMiddle(label, begun)
        // The end is what the hand is about: it is seen while it is pulled.
        desk.goTo(shotStart + span.to)
      },
      move: (step) => {
        const seenFrom = lens()
        const travels = new Map<string, LevelTravel>()
        for (const id of ids) {
          const start = starts.get(id)!
          if (valueOf !== null) {
            const { value, told } = valueOf(step, start, id)
            if (id === desk.selectedLevelId) tell(`to ${told}`)
            travels.set(id, { aspect, from: start[aspect], to: value })
            continue
          }
          const to = slid(seenFrom, desk.carriageOf(id), start.place, step)
          if (to === null) continue
          const line = drawn.get(id)!
          line.push(to)
          const fitted = strays(line) > STRAIGHT_SHARE ? fitPath(line, Infinity) : null
          travels.set(id, { aspect: 'place', from: start.place, to, ...(fitted === null ? {} : { path: fitted.paths[0]! }) })
          if (id === desk.selectedLevelId) tell(`to x ${to.x.toFixed(3)}  y ${to.y.toFixed(3)}, ${span.to - span.from + 1} f`)
        }
        taken = gesture!.update((f) => {
          const edits = []
          for (const [id, travel] of travels) {
            let n = 0
            const made = travelLevel(f.takes[takeId]!, takeId, id, span.from, span.to, [travel], () => newId(`${id} ${n++}`))
            if (!made.ok) return made
            edits.push(...made.edits)
          }
          return { ok: true, edits }
        })
      },
      end: () => {
        back('end')
        if (taken) showOnce(shotStart + span.from, span.to - span.from)
        else desk.goTo(before)
      },
      cancel: () => {
        back('abandon')
        desk.goTo(before)
      },
      click,
    })
  }

  /** Plays so many frames once, and stays at the last. */
  function showOnce(from: number, frames: number) {
    desk.goTo(from)
    play((elapsed) => {
      if (elapsed < frames || !desk.playing) return
      stop()
      desk.goTo(from + frames)
    })
  }

  /** The stroke becomes few keys that go through smoothly: evenly over the panel, or as fast as the hand went. */
  function drawWay(event: PointerEvent, click?: () => void) {
    const [takeId, id, span] = [desk.takeId, desk.selectedLevelId, panelSpan()]
    const start = id === null ? null : desk.levelValues(id)
    if (takeId === null || id === null || start === null || span === null) return
    const [from, carriage] = [lens(), desk.carriageOf(id)]
    const begun = performance.now()
    const line = [{ place: start.place, atMs: 0 }]
    const asDrawn = tool.drawnTiming === 'drawn'
    const first = asDrawn ? desk.shotFrame : span.from
    const over = () => {
      tool.drawn = []
      tell(null)
    }
    followDrag(event, {
      move: (step) => {
        const place = slid(from, carriage, start.place, step)
        if (place !== null) line.push({ place, atMs: performance.now() - begun })
        tool.drawn = line.flatMap((each) => {
          const { u, v, z } = project(from, outOf(carriage, each.place))
          return z > 0 ? [toPane(u, v)] : []
        })
        tell(`${asDrawn ? framesOf(line.at(-1)!.atMs) : span.to - span.from + 1} f`)
      },
      end: () => {
        over()
        const most = desk.placedShot!.lengthFrames - 1 - first
        const keyed = keysOfLine(line, asDrawn ? Math.min(most, framesOf(line.at(-1)!.atMs)) : span.to - span.from, asDrawn, project(from, outOf(carriage, start.place)).z / from.k / carriage.size)
        if (keyed === null) return
        const done = film.perform(`way of ${nameOf([id])}`, (f) => putMove(f.takes[takeId]!, takeId, levelKeys(id, 'place'), keyed, first, () => crypto.randomUUID()))
        if (done) showOnce(desk.placedShot!.startFrame + first, keyed.at(-1)!.frame)
      },
      cancel: over,
      click,
    })
  }
  const framesOf = (ms: number) => Math.max(1, Math.round((ms / 1000) * desk.fps))

  /** `scale`: fw of the set for one of the picture, as far off as the level is. */
  function keysOfLine(line: readonly { readonly place: Point3; readonly atMs: number }[], frames: number, asDrawn: boolean, scale: number): readonly Keyed<Point3>[] | null {
    const places = line.map(({ place }) => place)
    const fitted = fitPath(places, DRAWN_FW * scale)
    if (fitted === null) {
      film.refuse('Nothing was drawn. Press on the figure and draw the way it is to go.')
      return null
    }
    const lengths = [0]
    for (let i = 1; i < places.length; i++) lengths.push(lengths[i - 1]! + Math.hypot(...Object.values(subtract(places[i]!, places[i - 1]!))))
    const share = (index: number) => (asDrawn ? line[index]!.atMs / Math.max(1, line.at(-1)!.atMs) : lengths[index]! / Math.max(1e-9, lengths.at(-1)!))
    const wanted = fitted.knots.map((index) => share(index) * frames)
    if (frames < fitted.knots.length - 1) {
      film.refuse(`The way has ${fitted.knots.length} keys, and only ${frames + 1} frames. Draw it more simply, or give it more time.`)
      return null
    }
    const at = spacedFrames(wanted, 0, frames)
    return fitted.knots.map((index, i) => {
      const path = fitted.paths[i]
      const ends = { leaveFrames: i === 0 ? CUSHION_FRAMES : 0, arriveFrames: i === fitted.paths.length - 1 ? CUSHION_FRAMES : 0 }
      const timing = !asDrawn && (ends.leaveFrames > 0 || ends.arriveFrames > 0) ? ({ kind: 'cushioned', ...ends } as const) : ({ kind: 'even' } as const)
      return { frame: at[i]!, value: places[index]!, move: { ...CUSHIONED_MOVE, timing, ...(path === undefined ? {} : { path }) }, ...(i > 0 && i < fitted.knots.length - 1 ? { smooth: true } : {}) }
    })
  }

  /** The pivot goes where the pointer is on the art; the picture stays. */
  function dragPivot(event: PointerEvent) {
    const [at, own] = [placed.value, desk.selectedLevel]
    if (at === null || own === null) return
    const [from, plane] = [lens(), at.plane]
    const begin = () => {
      const gesture = film.beginGesture(`pivot of ${own.name}`)
      return { update: gesture.update, end: gesture.commit, abandon: gesture.abandon }
    }
    follow(event, begin, (gesture, { event: step }) => {
      const { u, v } = toFrame(step)
      const met = meetPlane(from, u, v, plane)
      if (met === null) return
      const pivot = step.shiftKey ? { x: 0, y: 0 } : met
      if (gesture.update(fields.movePivot(own, pivot))) tell(`pivot ${pivot.x.toFixed(3)}  ${pivot.y.toFixed(3)}`)
    })
  }

  /** Arrows move it a step over the picture. */
  function nudge(dx: number, dy: number, far: boolean) {
    const [ids, step] = [desk.chosenLevelIds, far ? 0.1 : 0.01]
    if (ids.length === 0 || desk.stageFrame === null) return
    const from = lens()
    const change = desk.beginLevels(ids, ['place'], `nudge ${nameOf(ids)}`, `nudge:${ids.join()}`)
    change.update((id, start) => {
      const carriage = desk.carriageOf(id)
      const place = slidePoint(from, outOf(carriage, start.place), dx * step, dy * step)
      return place === null ? {} : { place: into(carriage, place) }
    })
    change.end()
  }

  return { onDown, nudge, hit: (event: PointerEvent) => hitLevel(handles.value, way.value, local(event), event.altKey) }
}

import { meetPlane, project, snappedToSet, type Lens } from '@rubato/core/camera'
import { planeOf, pointOnPlane, SET, type LevelPlane } from '@rubato/core/depth'
import { newLevel, shownAt, type Level, type Stroke } from '@rubato/core/document'
import { addLevel, addMark, drawMark, setCell, type DrawingPlace, type Made } from '@rubato/core/edits'
import { createSmoother, shapeStroke, simplifyStroke, USUAL_THINNING } from '@rubato/core/ink'
import type { Point2 } from '@rubato/core/geometry'
import { computed } from 'vue'
import type { Surface } from '~/composables/draw/surface'
import { useDeskStore } from '~/stores/desk'
import { useFilmStore } from '~/stores/film'
import { useFaceOnStore } from '~/stores/faceOn'
import { usePenStore } from '~/stores/pen'
import { createCanvasCompositor } from '~/viewport/canvasCompositor'
import type { Compositor } from '~/viewport/compositor'
import { onlyLevels } from '~/viewport/sheet'

/** Less than this between two points is the hand trembling, CSS px. */
const LEAST_STEP_PX = 0.6
/** A tenth of a px of a picture 1,280 wide. */
const TOLERANCE_FW = 0.00008
const GAP_FW = 0.006
const MOST_VALUES = 119_000
const round = (value: number) => Math.round(value * 1e5) / 1e5

/** What is drawn on: the level, its plane, and how large a fw of its art shows at the pivot, in fw on screen. */
export interface Ground {
  readonly level: Level
  readonly lens: Lens
  readonly plane: LevelPlane
  readonly grows: number
  readonly panelId: string
  /** Of the playhead in the panel. */
  readonly offsetFrames: number
  readonly takeId: string
}

/** The pen in a view: the pointer's way is carried back onto the selected level's plane, whatever the camera. */
export function usePen(surface: Surface) {
  const film = useFilmStore()
  const desk = useDeskStore()
  const pen = usePenStore()
  const faceOn = useFaceOnStore()
  let over: Compositor | null = null

  const where = computed(() => {
    const level = desk.selectedLevel
    if (level === null) return desk.levels.length === 0 ? 'the first stroke makes a level' : 'choose a level'
    if (level.locked) return `${level.name} is locked`
    if (!level.visible) return `${level.name} is hidden`
    const cell = desk.take === null ? null : shownAt(desk.take, level.id, desk.read.frame)
    if (cell === null) return `${level.name}, first drawing`
    if (cell.panelId === desk.placedPanel?.panel.id) return `${level.name}, drawn here`
    return pen.editHeld ? `${level.name}, the held drawing` : `${level.name}, a new drawing here`
  })

  /** The selected level, ready to be drawn on; null where it can't be, which is then told unless it is asked `quietly`. */
  function ground(quietly = false): Ground | null {
    const [take, takeId, panel, stage] = [desk.take, desk.takeId, desk.placedPanel, faceOn.frame]
    if (take === null || takeId === null || panel === null || stage === null) return null
    const level = desk.selectedLevel
    const refused = (text: string) => {
      if (!quietly) film.refuse(text)
      return null
    }
    if (level === null) return refused('No level is selected. Choose one in the list of levels, then draw.')
    if (level.locked) return refused(`${level.name} is locked. Unlock it to draw on it.`)
    if (!level.visible) return refused(`${level.name} is hidden. Show it to draw on it.`)
    if (pen.solo.length > 0 && !pen.solo.includes(level.id)) return refused(`${level.name} is not among the levels shown alone. Show all, or choose one of those.`)
    if (level.kind === 'reference' && (level.sequence ?? null) !== null) return refused(`${level.name} is a sequence of pictures, which can’t be drawn on. Choose another level.`)
    if (level.kind === 'carrier') return refused(`${level.name} is a carrier: it shows nothing and is there to be moved. Choose a level to draw on.`)
    if (level.kind === 'set') return refused(`${level.name} is a set. Open it in the depth rack to draw on its pieces, or choose another level.`)
    const cell = shownAt(take, level.id, desk.shotFrame)
    if (cell !== null && film.drawingOf(cell.drawingId) === null) return refused('The drawing is still being loaded. Try again in a moment.')
    const plane = planeOf(faceOn.standOf(level.id), level.pivot)
    const { z } = project(stage.lens, plane.origin)
    if (z < 0.01) return refused(`${level.name} is behind the lens, so it can’t be drawn on from here.`)
    const grows = (stage.lens.k * Math.hypot(plane.axisX.x, plane.axisX.y, plane.axisX.depth)) / z
    return { level, lens: stage.lens, plane, grows, panelId: panel.panel.id, offsetFrames: desk.shotFrame - panel.startFrame, takeId }
  }

  const artAt = ({ lens, plane }: Ground, event: { clientX: number; clientY: number }): Point2 | null => {
    const { u, v } = surface.toFrame(event)
    const art = meetPlane(lens, u, v, plane)
    return art === null || Math.abs(art.x) > 1e4 || Math.abs(art.y) > 1e4 ? null : art
  }
  /** Over the ground a line goes along one of the set's directions, where it is near to that. */
  const snapped = (found: Ground, down: PointerEvent, last: PointerEvent): Point2 | null => {
    if (!desk.lens.ground) return null
    const [from, to] = [surface.toFrame(down), surface.toFrame(last)]
    const end = snappedToSet(found.lens, { x: from.u, y: from.v }, { x: to.u, y: to.v })?.to
    return end === undefined ? null : meetPlane(found.lens, end.x, end.y, found.plane)
  }
  const paneOf = ({ lens, plane }: Ground, x: number, y: number): Point2 => {
    const { u, v } = project(lens, pointOnPlane(plane, { x, y }))
    return surface.toPane(u, v)
  }
  const placeOf = ({ takeId, level, panelId, offsetFrames }: Ground): ((f: typeof film.film) => DrawingPlace) => {
    const newDrawingId = crypto.randomUUID()
    return (f) => ({ take: f.takes[takeId]!, takeId, drawings: f.drawings, levelId: level.id, panelId, offsetFrames, newDrawingId, editHeld: pen.editHeld })
  }

  /** A shot without levels gets one with its first stroke. */
  function drawOnNew(mark: Stroke | Omit<Stroke, 'order'>): boolean {
    const [take, takeId, panel] = [desk.take, desk.takeId, desk.placedPanel]
    if (take === null || takeId === null || panel === null) return false
    const level = newLevel({ id: crypto.randomUUID(), name: 'Level 1', figure: true })
    const drawingId = crypto.randomUUID()
    const done = film.perform('stroke on a new level', (f): Made => {
      const added = addLevel(f.takes[takeId]!, takeId, level, null)
      if (!added.ok) return added
      const grown = { ...f.takes[takeId]!, levels: { ...f.takes[takeId]!.levels, [level.id]: { ...level, order: 'a1' } } }
      const cell = setCell(grown, takeId, level.id, panel.panel.id, drawingId)
      return cell.ok ? { ok: true, edits: [...added.edits, ...cell.edits, addMark({ marks: [] }, drawingId, mark)] } : cell
    })
    if (done) desk.selectedLevelId = level.id
    return done
  }

  const isErasing = (event: PointerEvent) => pen.tool === 'eraser' || event.button === 5 || (event.buttons & 32) !== 0

  /**
   * What lies over the new ink while it is drawn: the levels before it, and for a stroke behind the level itself; for an
   * eraser, the whole picture without the level. Null where the ink is on top.
   */
  function picturesOver(levelId: string, erasing: boolean, behind: boolean): HTMLCanvasElement | OffscreenCanvas | null {
    const shown = surface.shown()
    if (shown === null || shown.turned) return null
    const at = shown.levels.findIndex((level) => level.levelId === levelId)
    const parts = erasing
      ? onlyLevels(shown, (level) => level.levelId !== levelId)
      : onlyLevels(shown, (level, i) => (level.levelId === levelId ? behind : at >= 0 && i > at))
    if (!erasing && parts.levels.length === 0) return null
    over ??= createCanvasCompositor(document.createElement('canvas'), true)
    over.draw(parts, { frame: erasing ? '#ffffff' : null, surround: null }, 'fast')
    return over.canvas
  }

  function begin(event: PointerEvent) {
    if (event.pointerType === 'pen') pen.penSeen = true
    const isNew = desk.levels.length === 0 && desk.take !== null
    const found = isNew ? newGround() : ground()
    if (found === null) return
    const shape = pen.tool === 'line' || pen.tool === 'box' || pen.tool === 'ellipse' ? pen.tool : null
    const erasing = shape === null && isErasing(event)
    const behind = !erasing && pen.behind
    const { brush } = pen
    const onScreenFw = erasing ? pen.eraserFw : brush.widthFw
    const thinning = erasing ? 0 : brush.thinning
    const live = surface.live()
    live?.begin({
      colour: erasing ? '#ffffff' : brush.colour,
      opacity: erasing ? 1 : brush.opacity,
      widthPx: onScreenFw * surface.frameWidth(),
      thinning,
      atop: isNew ? null : picturesOver(found.level.id, erasing, behind),
    })
    const widthFw = Math.min(10, Math.max(1e-6, onScreenFw / found.grows))
    const done = (points: number[]) => {
      const mode = erasing ? 'erase' : behind ? 'behind' : 'ink'
      const mark = { id: crypto.randomUUID(), kind: 'stroke' as const, mode: mode as 'ink', points: points.map(round), widthFw, colour: erasing ? '#000000' : brush.colour, opacity: erasing ? 1 : brush.opacity, ...(thinning === USUAL_THINNING ? {} : { thinning }) }
      if (isNew) return void drawOnNew(mark)
      const { level, takeId, panelId, offsetFrames } = found
      const drawingId = crypto.randomUUID()
      film.perform(erasing ? `erasing on ${level.name}` : `stroke on ${level.name}`, (f) => drawMark(f.takes[takeId]!, takeId, f.drawings, level.id, panelId, mark, drawingId, pen.editHeld, offsetFrames))
    }
    if (shape === null) followStroke(event, found, erasing ? 0 : brush.smoothing, done)
    else followShape(event, found, shape, done)
  }

  /** The plane of the level that the first stroke will make. */
  function newGround(): Ground | null {
    const [takeId, panel, stage] = [desk.takeId, desk.placedPanel, faceOn.frame]
    if (takeId === null || panel === null || stage === null) return null
    const level: Level = newLevel({ id: 'new', order: 'a1', name: 'Level 1' })
    const plane = planeOf(SET, undefined)
    const { z } = project(stage.lens, plane.origin)
    return z < 0.01 ? null : { level, lens: stage.lens, plane, grows: stage.lens.k / z, panelId: panel.panel.id, offsetFrames: 0, takeId }
  }

  function followStroke(down: PointerEvent, found: Ground, smoothing: number, done: (points: number[]) => void) {
    const live = surface.live()
    const smoother = createSmoother(smoothing)
    const points: number[] = []
    let lastX = Infinity
    let lastY = Infinity
    const put = ([x, y, pressure]: readonly [number, number, number]) => {
      if (points.length >= MOST_VALUES) return
      points.push(x, y, pressure)
      const at = paneOf(found, x, y)
      live?.add(at.x, at.y, pressure)
    }
    const take = (event: PointerEvent) => {
      if (Math.hypot(event.clientX - lastX, event.clientY - lastY) < LEAST_STEP_PX) return
      const art = artAt(found, event)
      if (art === null) return
      lastX = event.clientX
      lastY = event.clientY
      // A mouse presses evenly.
      put(smoother.next(art.x, art.y, event.pointerType === 'pen' ? Math.round(event.pressure * 1000) / 1000 : 0.5))
    }
    follow(down, {
      move: (event) => {
        const steps = event.getCoalescedEvents?.() ?? []
        for (const step of steps.length > 0 ? steps : [event]) take(step)
        live?.paint()
      },
      end: () => {
        for (const point of smoother.rest()) put(point)
        if (points.length > 0) done(simplifyStroke(points, TOLERANCE_FW / found.grows, GAP_FW / found.grows))
      },
    })
    take(down)
    live?.paint()
  }

  function followShape(down: PointerEvent, found: Ground, kind: 'line' | 'box' | 'ellipse', done: (points: number[]) => void) {
    const live = surface.live()
    const from = artAt(found, down)
    if (from === null) return
    let points: number[] = []
    let last: PointerEvent = down
    const show = (event: PointerEvent | KeyboardEvent) => {
      if ('pointerId' in event) last = event
      const to = (kind === 'line' && !event.shiftKey && !event.altKey ? snapped(found, down, last) : null) ?? artAt(found, last)
      if (to === null) return
      points = shapeStroke(kind, from, to, { even: event.shiftKey, centred: event.altKey })
      const shown: number[] = []
      for (let i = 0; i + 2 < points.length; i += 3) {
        const at = paneOf(found, points[i]!, points[i + 1]!)
        shown.push(at.x, at.y, points[i + 2]!)
      }
      live?.replace(shown)
    }
    follow(down, { move: show, keys: show, end: () => points.length > 3 && Math.hypot(last.clientX - down.clientX, last.clientY - down.clientY) >= 2 && done(points) })
  }

  interface Following {
    readonly move: (event: PointerEvent) => void
    readonly keys?: (event: KeyboardEvent) => void
    readonly end: () => void
  }

  /** Follows the pen until it is lifted; Escape, a second finger, or the system taking it away drops what was drawn. */
  function follow(down: PointerEvent, { move, keys, end }: Following) {
    const target = down.currentTarget as HTMLElement
    target.setPointerCapture(down.pointerId)
    const onMove = (event: PointerEvent) => event.pointerId === down.pointerId && move(event)
    const onUp = (event: PointerEvent) => {
      if (event.pointerId !== down.pointerId) return
      end()
      release()
    }
    const onDown = (event: PointerEvent) => event.pointerType === 'touch' && event.pointerId !== down.pointerId && release()
    const onKey = (event: KeyboardEvent) => {
      if (event.key === 'Escape' && event.type === 'keydown') {
        event.stopPropagation()
        return release()
      }
      if (event.key === 'Shift' || event.key === 'Alt') {
        event.preventDefault()
        keys?.(event)
      }
    }
    function release() {
      surface.live()?.clear()
      target.removeEventListener('pointermove', onMove)
      target.removeEventListener('pointerup', onUp)
      target.removeEventListener('pointerdown', onDown)
      target.removeEventListener('pointercancel', release)
      window.removeEventListener('keydown', onKey, true)
      window.removeEventListener('keyup', onKey, true)
      if (target.hasPointerCapture(down.pointerId)) target.releasePointerCapture(down.pointerId)
    }
    target.addEventListener('pointermove', onMove)
    target.addEventListener('pointerup', onUp)
    target.addEventListener('pointerdown', onDown)
    target.addEventListener('pointercancel', release)
    window.addEventListener('keydown', onKey, true)
    window.addEventListener('keyup', onKey, true)
  }

  /** What the level shows here; null where it shows nothing or it is not loaded. */
  function drawingHere() {
    const [take, level] = [desk.take, desk.selectedLevel]
    const cell = take === null || level === null ? null : shownAt(take, level.id, desk.shotFrame)
    return cell === null ? null : film.drawingOf(cell.drawingId)
  }

  return { begin, where, ground, artAt, paneOf, placeOf, drawingHere }
}

import { meetPlane, project, type Lens } from '@rubato/core/camera'
import { levelPlane, type LevelPlane } from '@rubato/core/depth'
import { shownCell } from '@rubato/core/document'
import { drawMark } from '@rubato/core/edits'
import { computed, type Ref } from 'vue'
import { useDeskStore } from '~/stores/desk'
import { useFilmStore } from '~/stores/film'
import { strokePath } from '~/viewport/paint'

interface Places {
  readonly canvas: Ref<HTMLCanvasElement | null>
  readonly toFrame: (event: { clientX: number; clientY: number }) => { u: number; v: number }
  readonly toPane: (u: number, v: number) => { x: number; y: number }
  /** The frame's width in the view, CSS px. */
  readonly frameWidth: () => number
}

/** Less than this between two points is the hand trembling. */
const LEAST_STEP_PX = 0.7

/** The pen in the lens view: the pointer's way is carried back onto the selected level's plane, whatever the camera. */
export function useInk({ canvas, toFrame, toPane, frameWidth }: Places) {
  const film = useFilmStore()
  const desk = useDeskStore()

  const where = computed(() => {
    const level = desk.selectedLevel
    if (level === null) return 'choose a level in the rack'
    if (level.locked) return `${level.name} is locked`
    const cell = desk.take === null ? null : shownCell(desk.take, level, desk.placedPanel?.index ?? 0)
    if (cell === null) return `${level.name}, first drawing`
    if (cell.panelId === desk.placedPanel?.panel.id) return `${level.name}, drawn here`
    return desk.editHeld ? `${level.name}, the held drawing` : `${level.name}, a new drawing here`
  })

  function begin(event: PointerEvent) {
    const [take, takeId, level, panel, stage] = [desk.take, desk.takeId, desk.selectedLevel, desk.placedPanel, desk.stageFrame]
    if (take === null || takeId === null || panel === null || stage === null) return
    if (level === null) return film.refuse('No level is selected. Choose one in the depth rack, then draw.')
    if (level.locked) return film.refuse(`${level.name} is locked. Unlock it in the depth rack to draw on it.`)
    if (!level.visible) return film.refuse(`${level.name} is hidden. Show it to draw on it.`)
    const cell = shownCell(take, level, panel.index)
    if (cell !== null && film.drawingOf(cell.drawingId) === null) return film.refuse('The drawing is still being loaded. Try again in a moment.')
    const plane = levelPlane(level)
    const erasing = desk.tool === 'eraser' || event.button === 5 || (event.buttons & 32) !== 0
    const onScreenFw = erasing ? desk.ink.eraserFw : desk.ink.widthFw
    const grows = magnification(stage.lens, plane)
    if (grows === null) return film.refuse(`${level.name} is behind the lens or edge-on, so it can’t be drawn on from here.`)
    const stroke = { points: [] as number[], widthFw: Math.min(10, onScreenFw / grows) }
    follow(event, stage.lens, plane, stroke, erasing, () => {
      const mark = {
        id: crypto.randomUUID(),
        kind: 'stroke' as const,
        mode: erasing ? ('erase' as const) : ('ink' as const),
        points: stroke.points,
        widthFw: stroke.widthFw,
        colour: erasing ? '#000000' : desk.ink.colour,
        opacity: erasing ? 1 : desk.ink.opacity,
      }
      const drawingId = crypto.randomUUID()
      film.perform(erasing ? `erasing on ${level.name}` : `stroke on ${level.name}`, (f) =>
        drawMark(f.takes[takeId]!, takeId, f.drawings, level.id, panel.panel.id, mark, drawingId, desk.editHeld),
      )
    })
  }

  function follow(down: PointerEvent, lens: Lens, plane: LevelPlane, stroke: { points: number[]; widthFw: number }, erasing: boolean, done: () => void) {
    const target = down.currentTarget as HTMLElement
    target.setPointerCapture(down.pointerId)
    const shown: number[] = []
    let lastX = Infinity
    let lastY = Infinity
    const widthPx = (erasing ? desk.ink.eraserFw : desk.ink.widthFw) * frameWidth()

    const take = (event: PointerEvent) => {
      if (Math.hypot(event.clientX - lastX, event.clientY - lastY) < LEAST_STEP_PX) return
      const { u, v } = toFrame(event)
      const art = meetPlane(lens, u, v, plane)
      if (art === null || Math.abs(art.x) > 1e4 || Math.abs(art.y) > 1e4 || stroke.points.length >= 119_000) return
      lastX = event.clientX
      lastY = event.clientY
      const pressure = event.pointerType === 'pen' ? Math.round(event.pressure * 1000) / 1000 : 0.5
      stroke.points.push(Math.round(art.x * 1e5) / 1e5, Math.round(art.y * 1e5) / 1e5, pressure)
      const { x, y } = toPane(u, v)
      shown.push(x / 1000, y / 1000, pressure)
    }
    const paint = () => {
      const context = canvas.value?.getContext('2d')
      if (!context) return
      context.clearRect(0, 0, context.canvas.width, context.canvas.height)
      if (shown.length === 0) return
      context.fillStyle = erasing ? 'rgb(255 255 255 / 0.75)' : desk.ink.colour
      context.fill(strokePath(shown, widthPx / 1000))
    }
    const clear = () => {
      const context = canvas.value?.getContext('2d')
      context?.clearRect(0, 0, context.canvas.width, context.canvas.height)
    }
    const onMove = (event: PointerEvent) => {
      if (event.pointerId !== down.pointerId) return
      const steps = event.getCoalescedEvents?.() ?? []
      for (const step of steps.length > 0 ? steps : [event]) take(step)
      paint()
    }
    const onUp = (event: PointerEvent) => {
      if (event.pointerId !== down.pointerId) return
      release()
      if (stroke.points.length > 0) done()
    }
    const onKey = (event: KeyboardEvent) => {
      if (event.key !== 'Escape') return
      event.stopPropagation()
      release()
    }
    function release() {
      clear()
      target.removeEventListener('pointermove', onMove)
      target.removeEventListener('pointerup', onUp)
      target.removeEventListener('pointercancel', release)
      window.removeEventListener('keydown', onKey, true)
      if (target.hasPointerCapture(down.pointerId)) target.releasePointerCapture(down.pointerId)
    }
    target.addEventListener('pointermove', onMove)
    target.addEventListener('pointerup', onUp)
    target.addEventListener('pointercancel', release)
    window.addEventListener('keydown', onKey, true)
    take(down)
    paint()
  }

  return { begin, where }
}

/** How large a fw of the level's art shows at its pivot, in fw on screen; null where it can't be seen. */
function magnification(lens: Lens, plane: LevelPlane): number | null {
  const { z } = project(lens, plane.origin)
  if (z < 0.01) return null
  const size = Math.hypot(plane.axisX.x, plane.axisX.y, plane.axisX.depth)
  return (lens.k * size) / z
}

import { applyAffine } from '@rubato/core/ink'
import type { Point2 } from '@rubato/core/geometry'
import { computed, type Ref } from 'vue'
import { useFilmStore } from '~/stores/film'
import { FLAT_PAPER, usePenStore } from '~/stores/pen'
import { inverseOf, turnOf, type ViewBox } from '~/viewport/viewBox'

const MARGIN_PX = 34
/** Of the output's own size. */
const ZOOM_RANGE = { min: 0.04, max: 40 }

/** How the paper lies in a view of a given size (CSS px), and how it is moved, turned, flipped and zoomed. */
export function usePaper(width: Ref<number>, height: Ref<number>, quality: Ref<number>) {
  const film = useFilmStore()
  const pen = usePenStore()

  const ratio = () => Math.min(2, window.devicePixelRatio || 1)
  const aspect = computed(() => film.optics?.aspect ?? 16 / 9)
  /** The frame's width where it fits, CSS px. */
  const fitWidth = computed(() => Math.max(60, Math.min(width.value - MARGIN_PX * 2, (height.value - MARGIN_PX * 2) * aspect.value)))
  const frameWidth = computed(() => fitWidth.value * pen.paper.zoom)
  /** 1: one px of the output on one px of the screen. */
  const scale = computed(() => (frameWidth.value * ratio()) / (film.project?.widthPx ?? 1280))

  const middle = () => ({ x: width.value / 2 + pen.paper.x, y: height.value / 2 + pen.paper.y })
  const paneBox = (): ViewBox => ({ widthPx: width.value, heightPx: height.value, frameLeftPx: 0, frameTopPx: 0, frameWidthPx: 1, turnDegrees: pen.paper.turnDegrees, flipped: pen.paper.flipped })
  const turned = (flat: Point2): Point2 => {
    const turn = turnOf(paneBox())
    return turn === null ? flat : applyAffine(turn, flat)
  }
  const flattened = (seen: Point2): Point2 => {
    const turn = turnOf(paneBox())
    return turn === null ? seen : applyAffine(inverseOf(turn)!, seen)
  }

  function viewBox(): ViewBox {
    const r = ratio() * quality.value
    const { x, y } = middle()
    const W = frameWidth.value
    return {
      widthPx: Math.max(1, Math.round(width.value * r)),
      heightPx: Math.max(1, Math.round(height.value * r)),
      frameLeftPx: snapped((x - W / 2) * r),
      frameTopPx: snapped((y - W / aspect.value / 2) * r),
      frameWidthPx: W * r,
      turnDegrees: pen.paper.turnDegrees,
      flipped: pen.paper.flipped,
    }
  }

  const toPane = (u: number, v: number): Point2 => {
    const { x, y } = middle()
    return turned({ x: x + u * frameWidth.value, y: y - v * frameWidth.value })
  }
  const toFrame = (at: Point2) => {
    const flat = flattened(at)
    const { x, y } = middle()
    return { u: (flat.x - x) / frameWidth.value, v: -(flat.y - y) / frameWidth.value }
  }

  /** Grows the paper about a place that stays where it is. */
  function zoomAt(at: Point2, factor: number) {
    const wanted = Math.min(ZOOM_RANGE.max, Math.max(ZOOM_RANGE.min, scale.value * factor)) / scale.value
    const flat = flattened(at)
    const { x, y } = middle()
    pen.paper = { ...pen.paper, zoom: pen.paper.zoom * wanted, x: flat.x - (flat.x - x) * wanted - width.value / 2, y: flat.y - (flat.y - y) * wanted - height.value / 2 }
  }
  const centre = () => ({ x: width.value / 2, y: height.value / 2 })
  const zoom = (factor: number) => zoomAt(centre(), factor)

  /** Moves the paper as far as the hand went over the view. */
  function slide(dx: number, dy: number) {
    const from = flattened({ x: 0, y: 0 })
    const to = flattened({ x: dx, y: dy })
    pen.paper = { ...pen.paper, x: pen.paper.x + to.x - from.x, y: pen.paper.y + to.y - from.y }
  }

  function turn(degrees: number) {
    const sum = pen.paper.turnDegrees + degrees
    pen.paper = { ...pen.paper, turnDegrees: ((((sum + 180) % 360) + 360) % 360) - 180 }
  }

  const fit = () => (pen.paper = { ...FLAT_PAPER, flipped: pen.paper.flipped, turnDegrees: pen.paper.turnDegrees })
  const straighten = () => (pen.paper = { ...pen.paper, turnDegrees: 0 })
  const flip = () => (pen.paper = { ...pen.paper, flipped: !pen.paper.flipped })
  const oneToOne = () => zoom(1 / scale.value)

  return { viewBox, toPane, toFrame, frameWidth, scale, aspect, zoomAt, zoom, slide, turn, fit, straighten, flip, oneToOne }
}

/** Whole px, so that art at 1:1 is drawn px for px. */
const snapped = (px: number) => Math.round(px)

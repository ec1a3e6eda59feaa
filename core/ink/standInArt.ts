import { capsuleOutline, mannequin, type FigurePose, type FigureView } from './mannequin'

/** An area of one tone; outlines are x, y in turn, and holes are where an even number of them lies over one another. */
export interface ToneArea {
  readonly outlines: readonly (readonly number[])[]
  readonly colour: string
}

/** What stands in for something that is not drawn yet; fw of the level's own art. */
export type StandInShape =
  | { readonly kind: 'figure'; readonly height: number; readonly heads: number; readonly view: FigureView; readonly pose: FigurePose }
  | { readonly kind: 'cylinder'; readonly width: number; readonly height: number }
  | { readonly kind: 'doorway'; readonly width: number; readonly height: number }
  | { readonly kind: 'grid'; readonly side: number; readonly step: number }

/** A cool tone that no drawing of the film is in, lighter and darker. */
const TONE = { light: '#cbd7de', body: '#b9c7cf', dark: '#98abb6', edge: '#5c7280' } as const
const SIDES = 28

const box = (left: number, bottom: number, right: number, top: number): number[] => [left, bottom, right, bottom, right, top, left, top]
function ellipse(x: number, y: number, rx: number, ry: number): number[] {
  return Array.from({ length: SIDES }, (_, i) => (i * Math.PI * 2) / SIDES).flatMap((angle) => [x + Math.cos(angle) * rx, y + Math.sin(angle) * ry])
}

/** The art of a stand-in: its foot at y 0 and its middle at x 0, but for a grid, whose middle is in the middle. */
export function standInArt(shape: StandInShape): readonly ToneArea[] {
  if (shape.kind === 'figure') {
    const { height, heads, view, pose } = shape
    const edge = height * 0.008
    return mannequin(height, heads, view, pose).flatMap((capsule) => [
      { outlines: [capsuleOutline(capsule, edge)], colour: TONE.edge },
      { outlines: [capsuleOutline(capsule)], colour: TONE.body },
    ])
  }
  if (shape.kind === 'cylinder') {
    const [w, h, e] = [shape.width / 2, shape.height, Math.min(shape.width, shape.height) * 0.012]
    const lid = Math.min(w * 0.28, h * 0.25)
    const around = (by: number): number[] => {
      const rim = Array.from({ length: SIDES + 1 }, (_, i) => Math.PI + (i * Math.PI) / SIDES).flatMap((angle) => [Math.cos(angle) * (w + by), lid + Math.sin(angle) * (lid + by)])
      return [...rim, w + by, h - lid, -w - by, h - lid]
    }
    return [
      { outlines: [around(0)], colour: TONE.edge },
      { outlines: [ellipse(0, h - lid, w, lid)], colour: TONE.edge },
      { outlines: [around(-e)], colour: TONE.body },
      { outlines: [box(-w * 0.55, lid, -w * 0.1, h - lid)], colour: TONE.light },
      { outlines: [ellipse(0, h - lid, w - e, lid - e)], colour: TONE.dark },
    ]
  }
  if (shape.kind === 'doorway') {
    const [w, h] = [shape.width / 2, shape.height]
    const jamb = w * 0.16
    const e = jamb * 0.12
    return [
      { outlines: [box(-w, 0, w, h), box(jamb - w, 0, w - jamb, h - jamb)], colour: TONE.edge },
      { outlines: [box(e - w, 0, w - e, h - e), box(jamb - w - e, 0, w - jamb + e, h - jamb + e)], colour: TONE.body },
    ]
  }
  const half = shape.side / 2
  const thin = shape.step * 0.012
  const lines = Math.max(1, Math.round(shape.side / shape.step))
  return Array.from({ length: lines + 1 }, (_, i) => (i * shape.side) / lines - half).flatMap((at) => [
    { outlines: [box(at - thin, -half, at + thin, half)], colour: TONE.edge },
    { outlines: [box(-half, at - thin, half, at + thin)], colour: TONE.edge },
  ])
}

/** How wide a wall's drawn edge is, fw, where it has room. */
const EDGE_FW = 0.0025

/** A flat side of one tone with an edge, its middle in the middle. */
export function flatArt(width: number, height: number, colour: string, edgeColour = '#4a453c'): readonly ToneArea[] {
  const [x, y] = [width / 2, height / 2]
  const edge = Math.min(EDGE_FW, x / 4, y / 4)
  return [
    { outlines: [box(-x, -y, x, y)], colour },
    { outlines: [box(-x, -y, x, y), box(edge - x, edge - y, x - edge, y - edge)], colour: edgeColour },
  ]
}

/** The sides of a box that stands in for something, each lighter or darker. */
export const STAND_IN_TONES = TONE

import { EMPTY_TAKE, type Drawing, type Level, type Mark, type TakeBody, orderOfNumber, unfolded } from '@rubato/core/document'
import { opticsOf } from '@rubato/core/stage'
import type { Compositor } from '../app/viewport/compositor'
import { buildSaltLantern } from '../demo/saltLantern'

/** What measures that run in a page share. */

export const WHITE = { frame: '#ffffff', surround: null }
const built = buildSaltLantern()
/** With its sets unfolded, as it is seen. */
export const demo = { ...built, takes: Object.fromEntries(Object.entries(built.takes).map(([id, take]) => [id, unfolded(take, (setId) => built.sets?.[setId] ?? null)])) }
export const project = Object.values(demo.outline.project)[0]!
export const optics = opticsOf(project)

export function median(values: readonly number[]): number {
  return [...values].sort((a, b) => a - b)[Math.floor(values.length / 2)]!
}

export function pixelsOf(compositor: Compositor): Uint8ClampedArray {
  const { width, height } = compositor.canvas
  const copy = new OffscreenCanvas(width, height).getContext('2d', { willReadFrequently: true })!
  copy.drawImage(compositor.canvas, 0, 0)
  return copy.getImageData(0, 0, width, height).data
}

export function largestDifference(a: Uint8ClampedArray, b: Uint8ClampedArray): number {
  let largest = a.length === b.length ? 0 : 255
  for (let i = 0; i < a.length; i++) largest = Math.max(largest, Math.abs(a[i]! - b[i]!))
  return largest
}

/** Levels that stand anyhow and go through one another. */
export function turnedTake(chance: () => number, count: number): { readonly take: TakeBody; readonly drawings: Record<string, Drawing> } {
  const by = (most: number) => (chance() * 2 - 1) * most
  const levels = Array.from({ length: count }, (_, i): Level => {
    // A few stand square.
    const isTurned = chance() < 0.8
    const turn = isTurned ? { panDegrees: by(180), tiltDegrees: by(90), rollDegrees: by(180) } : {}
    return { ...takeOfOneLevel().levels.l!, id: `l${i}`, order: orderOfNumber(i), x: by(0.4), y: by(0.25), depth: by(0.5), scale: 0.5 + chance(), opacity: chance() < 0.5 ? 1 : 0.3 + 0.7 * chance(), ...turn }
  })
  const hex = () => Math.floor(chance() * 256).toString(16).padStart(2, '0')
  const fill = (k: number): Mark => ({ id: `f${k}`, order: orderOfNumber(k), kind: 'fill', mode: 'ink', outlines: [Array.from({ length: 10 }, (_, i) => (i % 2 === 0 ? 0.5 : 0.3) * by(1))], colour: `#${hex()}${hex()}${hex()}`, opacity: chance() < 0.5 ? 1 : 0.5 })
  const line = (k: number): Mark => ({ id: `s${k}`, order: orderOfNumber(k), kind: 'stroke', mode: 'ink', points: Array.from({ length: 18 }, (_, i) => (i % 3 === 2 ? 1 : by(i % 3 === 0 ? 0.5 : 0.3))), widthFw: 0.004, colour: '#27241e', opacity: 1 })
  return {
    take: { ...takeOfOneLevel(), levels: Object.fromEntries(levels.map((level) => [level.id, level])), cells: Object.fromEntries(levels.map(({ id }) => [`${id}.p`, { id: `${id}.p`, levelId: id, panelId: 'p', drawingId: `d-${id}` }])) },
    drawings: Object.fromEntries(levels.map(({ id }) => [`d-${id}`, { marks: [fill(0), fill(1), line(2), line(3)] }])),
  }
}

export function takeOfOneLevel(depth = 0, scale = 1): TakeBody {
  const level = { id: 'l', order: 'a1', name: 'l', kind: 'placed' as const, x: 0, y: 0, depth, scale, panDegrees: 0, tiltDegrees: 0, rollDegrees: 0, opacity: 1, visible: true, locked: false }
  return {
    ...EMPTY_TAKE,
    panels: { p: { id: 'p', order: 'a1', lengthFrames: 24, lengthLocked: false, action: '', dialogue: '', notes: '' } },
    levels: { l: level },
    cells: { 'l.p': { id: 'l.p', levelId: 'l', panelId: 'p', drawingId: 'd' } },
    cameras: { a: { id: 'a', order: 'a1', letter: 'A', locked: false } },
  }
}

export const random = (seed: number) => () => (seed = (Math.imul(seed, 1664525) + 1013904223) >>> 0) / 2 ** 32

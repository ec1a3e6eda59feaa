import { lensOf, meetPlane, NEAREST_Z, project, rayThrough, type CameraPose, type Lens, type Optics } from '@rubato/core/camera'
import { add, scale, type Point3 } from '@rubato/core/geometry'
import type { ViewBox } from '~/viewport/composition'

/** The art as the untouched camera sees it, larger than its frame: where that frame lies in the view, CSS px. */
export interface TableScale {
  readonly frameLeft: number
  readonly frameTop: number
  readonly frameWidth: number
  readonly widthPx: number
  readonly heightPx: number
}

export interface Px {
  readonly x: number
  readonly y: number
}

/** What the frame of a pose comes to on the table, at a plane of the set. */
export interface TableFrame {
  /** From bottom left, counter-clockwise as the camera sees it. */
  readonly corners: readonly Px[]
  readonly centre: Px
  /** Where the frame's upper edge has its middle. */
  readonly top: Px
}

export function tablePx(table: TableScale, aspect: number, u: number, v: number): Px {
  return { x: table.frameLeft + (u + 0.5) * table.frameWidth, y: table.frameTop + (0.5 / aspect - v) * table.frameWidth }
}

/** A point of the set on the table; null behind its lens. */
export function onTable(table: TableScale, lens: Lens, point: Point3): Px | null {
  const seen = project(lens, point)
  return seen.z < NEAREST_Z ? null : tablePx(table, 0.5 / lens.halfHeight, seen.u, seen.v)
}

/** Table px that a fw takes at a plane of the set. */
export function pxPerFwAt(table: TableScale, lens: Lens, depth: number): number {
  return (table.frameWidth * lens.k) / Math.max(NEAREST_Z, depth - lens.position.depth)
}

const upright = (depth: number) => ({ origin: { x: 0, y: 0, depth }, axisX: { x: 1, y: 0, depth: 0 }, axisY: { x: 0, y: 1, depth: 0 } })

/** Where a pose's frame cuts a plane of equal depth, on the table; null where part of it does not. */
export function frameOnTable(table: TableScale, lens: Lens, pose: CameraPose, optics: Optics, depth: number): TableFrame | null {
  const other = lensOf(pose, optics)
  const at = (u: number, v: number): Px | null => {
    const met = meetPlane(other, u, v, upright(depth))
    return met === null ? null : onTable(table, lens, { x: met.x, y: met.y, depth })
  }
  const corners = [at(-0.5, -other.halfHeight), at(0.5, -other.halfHeight), at(0.5, other.halfHeight), at(-0.5, other.halfHeight)]
  const [centre, top] = [at(0, 0), at(0, other.halfHeight)]
  if (centre === null || top === null || corners.some((corner) => corner === null)) return null
  return { corners: corners as Px[], centre, top }
}

/** Where the axis of a pose meets a plane, in the set; its own place where it never does. */
export function axisAt(pose: CameraPose, optics: Optics, depth: number): Point3 {
  const { forward } = lensOf(pose, optics)
  const way = (depth - pose.depth) / forward.depth
  return Number.isFinite(way) && way > 0 ? add(pose, scale(forward, way)) : pose
}

/** The pose that stands `factor` times as far from where its axis meets a plane: its frame there grows by that factor. */
export function truckedFrame(pose: CameraPose, optics: Optics, depth: number, factor: number): CameraPose {
  const target = axisAt(pose, optics, depth)
  const from = rayThrough(lensOf(pose, optics), 0, 0)
  const distance = Math.hypot(target.x - pose.x, target.y - pose.y, target.depth - pose.depth)
  const { x, y, depth: to } = add(target, scale(from, -Math.max(0.02, distance * factor)))
  return { ...pose, x, y, depth: to }
}

/** A scale that shows points given in (u, v) of the untouched frame, with room around them. */
export function fitTable(points: readonly { readonly u: number; readonly v: number }[], aspect: number, widthPx: number, heightPx: number): TableScale {
  const us = [-0.5, 0.5, ...points.map((point) => point.u)]
  const vs = [-0.5 / aspect, 0.5 / aspect, ...points.map((point) => point.v)]
  const [left, right, low, high] = [Math.min(...us), Math.max(...us), Math.min(...vs), Math.max(...vs)]
  const frameWidth = Math.max(10, Math.min((widthPx - 36) / (right - left), (heightPx - 44) / (high - low)))
  return { frameWidth, frameLeft: widthPx / 2 - ((left + right) / 2 + 0.5) * frameWidth, frameTop: heightPx / 2 + ((low + high) / 2 - 0.5 / aspect) * frameWidth, widthPx, heightPx }
}

export function zoomedTable(table: TableScale, x: number, y: number, factor: number): TableScale {
  const frameWidth = Math.min(60_000, Math.max(10, table.frameWidth * factor))
  const by = frameWidth / table.frameWidth
  return { ...table, frameWidth, frameLeft: x - (x - table.frameLeft) * by, frameTop: y - (y - table.frameTop) * by }
}

export function viewBoxOf(table: TableScale, ratio: number): ViewBox {
  return { widthPx: Math.max(1, Math.round(table.widthPx * ratio)), heightPx: Math.max(1, Math.round(table.heightPx * ratio)), frameLeftPx: table.frameLeft * ratio, frameTopPx: table.frameTop * ratio, frameWidthPx: table.frameWidth * ratio }
}

import type { Point2 } from '../geometry/point'
import type { Picture } from '../document/records'
import type { LevelOwner } from '../document/units'

/** How a layer that is painted elsewhere finds back to the drawing that it was laid out for. */
export interface WayBack {
  readonly owner: LevelOwner
  /** Of a set the piece. */
  readonly levelId: string
  readonly drawingId: string
  /** Where the canvas's left upper corner lies and how wide it is, fw of the level's art. */
  readonly left: number
  readonly top: number
  readonly width: number
  /** The canvas as it went out. */
  readonly widthPx: number
  readonly heightPx: number
  /** The level’s own, which its layer shows and its art has not. Absent: 1. */
  readonly opacity?: number
}
/** `seen`: a picture of a level that is turned there, which has no place to go back to. */
export type LayerRole = { readonly kind: 'art'; readonly back: WayBack } | { readonly kind: 'guide' } | { readonly kind: 'rough' } | { readonly kind: 'seen' }

/** Px from a canvas's upper left corner. */
export interface PxRectangle {
  readonly x: number
  readonly y: number
  readonly width: number
  readonly height: number
}

const SIGN = 'rubato'
const TAG = new RegExp(`\\s*\\{${SIGN} (?:(guide|rough|seen)|([ts])\\.([\\w-]+)\\.([\\w-]+)\\.([\\w-]+) (-?[\\d.]+),(-?[\\d.]+),([\\d.]+) (\\d+)x(\\d+)(?: ([\\d.]+))?)\\}`)
/** A billionth of a fw. */
const DIGITS = 9
/** Never as a power of ten, which is not read. */
const told = (value: number) => value.toFixed(DIGITS).replace(/\.?0+$/, '')

/** A layer's name that carries its way back: `Sky {rubato t.TAKE.LEVEL.DRAWING left,top,width WxH opacity}`. What stands before it is for people. */
export function roleName(name: string, role: LayerRole): string {
  if (role.kind !== 'art') return `${name} {${SIGN} ${role.kind}}`
  const { owner, levelId, drawingId, left, top, width, widthPx, heightPx, opacity = 1 } = role.back
  return `${name} {${SIGN} ${owner.kind === 'take' ? 't' : 's'}.${owner.id}.${levelId}.${drawingId} ${told(left)},${told(top)},${told(width)} ${widthPx}x${heightPx}${opacity === 1 ? '' : ` ${told(opacity)}`}}`
}

/** What a layer's name says of its way back, wherever in it that stands, and the name without it. */
export function readRole(named: string): { readonly name: string; readonly role: LayerRole | null } {
  const found = TAG.exec(named)
  if (found === null) return { name: named, role: null }
  const name = (named.slice(0, found.index) + named.slice(found.index + found[0].length)).trim()
  const [, other, owner, ownerId, levelId, drawingId, left, top, width, widthPx, heightPx, opacity] = found
  if (other !== undefined) return { name, role: { kind: other as 'guide' | 'rough' | 'seen' } }
  const back: WayBack = { owner: { kind: owner === 't' ? 'take' : 'set', id: ownerId! }, levelId: levelId!, drawingId: drawingId!, left: Number(left), top: Number(top), width: Number(width), widthPx: Number(widthPx), heightPx: Number(heightPx), ...(opacity === undefined ? {} : { opacity: Number(opacity) }) }
  const holds = [back.left, back.top, back.width].every(Number.isFinite) && back.width > 0 && back.widthPx > 0 && back.heightPx > 0 && (back.opacity === undefined || (back.opacity > 0 && back.opacity <= 1))
  return { name, role: holds ? { kind: 'art', back } : null }
}

/** A px of rounding where a file comes back smaller, and what its own size is off by then. */
const isOfShape = (size: { readonly width: number; readonly height: number }, { widthPx, heightPx }: WayBack) => Math.abs((size.width / widthPx) * heightPx - size.height) <= 1 + size.width / widthPx

/**
 * Where in a file that came back the canvas lies that went out, whatever the resolution: where its guide is, as long as that has kept its
 * shape, else all of it. Null where neither has: it was cut or extended, and what lies where can't be told.
 */
export function sheetIn(back: WayBack, canvas: { readonly widthPx: number; readonly heightPx: number }, guide: PxRectangle | null): PxRectangle | null {
  if (guide !== null && isOfShape(guide, back)) return guide
  const whole = { x: 0, y: 0, width: canvas.widthPx, height: canvas.heightPx }
  return isOfShape(whole, back) ? whole : null
}

/** A picture's place and size in the art of the level that it finds back to. */
export function placedBack({ left, top, width }: WayBack, sheet: PxRectangle, layer: PxRectangle): Point2 & Pick<Picture, 'widthFw'> {
  const fwPerPx = width / sheet.width
  return { x: left + (layer.x - sheet.x + layer.width / 2) * fwPerPx, y: top - (layer.y - sheet.y + layer.height / 2) * fwPerPx, widthFw: layer.width * fwPerPx }
}

import { exposuresOf, placedPanels, shorten } from '@rubato/core/document'
import { drawingBounds } from '@rubato/core/ink'
import { laidInFrame, ownerOfLevel, roleName, STACK_MIMETYPE, writeStack, type PxRectangle, type StackPart } from '@rubato/core/interchange'
import type { PlacedLevel, StageFrame } from '@rubato/core/stage'
import { strToU8, zipSync, type Zippable } from 'fflate'
import { frameOfWidth } from '../viewport/viewBox'
import type { StageFile, StageShot } from './stageShot'

const THUMB_PX = 256
/** What stands before the way back in a layer's name. */
const NAME_LETTERS = 60

/** A layer of a file that is being made: pixels where they lie. */
interface Layer {
  readonly name: string
  readonly png: Uint8Array
  readonly at: PxRectangle
  readonly opacity: number
  readonly visible: boolean
}
type Part = Layer | { readonly group: string; readonly layers: readonly Layer[] }

/** Repeats show the same art; a reference is none. */
const isArt = ({ copy, level, opacity }: PlacedLevel) => copy === 0 && level.kind !== 'reference' && opacity > 0

/** Each panel of a shot, or the one that is asked for, as a layered file: its levels as they are drawn, where the panel’s first frame shows them. */
export async function panelStacks(shot: StageShot): Promise<readonly StageFile[]> {
  const files: StageFile[] = []
  for (const { index, startFrame, panel } of placedPanels(shot.stage.take)) {
    if (shot.panelId !== null && panel.id !== shot.panelId) continue
    const frame = shot.stage.at(startFrame)
    const parts: Part[] = []
    // Nearest first, as the file has them.
    for (const placed of frame.levels.toReversed()) {
      const layer = placed.drawingId === null || !isArt(placed) ? null : await layerOf(shot, frame, placed, placed.drawingId, placed.level.name, true)
      if (layer !== null) parts.push(layer)
    }
    files.push({ name: `${shot.label}-${index + 1}.ora`, part: await stackOf(shot, startFrame, parts) })
  }
  return files
}

/** A shot's levels in one layered file: of each a group with all of its drawings, where the frame that first shows them does. */
export async function levelStack(shot: StageShot): Promise<Blob> {
  const firsts = new Map<string, { readonly placed: PlacedLevel; readonly frame: StageFrame; readonly isFirst: boolean }>()
  const order: string[] = []
  const { take } = shot.stage
  const exposed = Object.keys(take.levels).flatMap((id) => exposuresOf(take, id).map(({ frame }) => frame))
  const starts = [...new Set([...placedPanels(take).map(({ startFrame }) => startFrame), ...exposed])].sort((a, b) => a - b)
  for (const start of starts) {
    const frame = shot.stage.at(start)
    for (const placed of frame.levels.toReversed()) {
      if (placed.drawingId === null || !isArt(placed)) continue
      const { id } = placed.level
      if (!order.includes(id)) order.push(id)
      const key = `${id}\n${placed.drawingId}`
      if (!firsts.has(key)) firsts.set(key, { placed, frame, isFirst: start === 0 })
    }
  }
  const parts: Part[] = []
  for (const id of order) {
    const own = [...firsts.values()].filter(({ placed }) => placed.level.id === id)
    const layers: Layer[] = []
    for (const [n, { placed, frame, isFirst }] of own.entries()) {
      const name = own.length === 1 ? placed.level.name : `${placed.level.name} ${n + 1}`
      const layer = await layerOf(shot, frame, placed, placed.drawingId!, name, isFirst)
      if (layer !== null) layers.push(layer)
    }
    if (layers.length === 1) parts.push(layers[0]!)
    else if (layers.length > 1) parts.push({ group: own[0]!.placed.level.name, layers })
  }
  return stackOf(shot, 0, parts)
}

/** As many digits as a file has of it. */
const rounded = (opacity: number) => Math.max(1e-4, Math.round(opacity * 1e4) / 1e4)

async function layerOf(shot: StageShot, frame: StageFrame, placed: PlacedLevel, drawingId: string, name: string, visible: boolean): Promise<Layer | null> {
  const { widthPx, heightPx } = shot.project
  const drawing = shot.drawingOf(drawingId)
  const bounds = drawing === null ? null : drawingBounds(drawing)
  const of = ownerOfLevel(shot.stage.take, shot.takeId, placed.level.id)
  if (drawing === null || bounds === null) return null
  const laid = of === null ? null : laidInFrame(frame, placed, { ...of, drawingId, opacity: rounded(placed.opacity) }, bounds, widthPx, heightPx)
  const plain = shorten(name, NAME_LETTERS)
  if (laid === null) {
    // Its opacity is in it.
    return { name: roleName(`${plain}, as seen`, { kind: 'seen' }), png: await shot.alone(frame, placed), at: { x: 0, y: 0, width: widthPx, height: heightPx }, opacity: 1, visible }
  }
  const { way, pxPerFw, at } = laid
  const png = await shot.drawing(drawing, { left: way.left + at.x / pxPerFw, top: way.top - at.y / pxPerFw, pxPerFw, widthPx: at.width, heightPx: at.height })
  return { name: roleName(plain, { kind: 'art', back: way }), png, at, opacity: rounded(placed.opacity), visible }
}

/** The frame's edge, hidden: a canvas that is cut or extended is still found by it. */
async function guideOf(widthPx: number, heightPx: number): Promise<Uint8Array> {
  const canvas = new OffscreenCanvas(widthPx, heightPx)
  const context = canvas.getContext('2d')!
  const edge = Math.max(1, Math.round(widthPx / 1000))
  context.fillStyle = '#2e7a68'
  context.fillRect(0, 0, widthPx, heightPx)
  context.clearRect(edge, edge, widthPx - 2 * edge, heightPx - 2 * edge)
  return new Uint8Array(await (await canvas.convertToBlob({ type: 'image/png' })).arrayBuffer())
}

async function stackOf(shot: StageShot, frame: number, parts: readonly Part[]): Promise<Blob> {
  const { widthPx, heightPx } = shot.project
  const entries: Record<string, Uint8Array> = { 'data/guide.png': await guideOf(widthPx, heightPx) }
  let count = 0
  const partOf = (layer: Layer): StackPart => {
    const src = `data/${++count}.png`
    entries[src] = layer.png
    return { kind: 'layer', name: layer.name, src, x: layer.at.x, y: layer.at.y, opacity: layer.opacity, visible: layer.visible }
  }
  const stack: StackPart[] = [
    { kind: 'layer', name: roleName('Frame', { kind: 'guide' }), src: 'data/guide.png', opacity: 1, visible: false },
    ...parts.map((part): StackPart => ('group' in part ? { kind: 'group', name: part.group, parts: part.layers.map(partOf) } : partOf(part))),
  ]
  const merged = await shot.frame(frame, frameOfWidth(widthPx, widthPx / heightPx))
  const side = Math.min(1, THUMB_PX / Math.max(widthPx, heightPx))
  const thumb = await shot.frame(frame, frameOfWidth(Math.max(1, Math.round(widthPx * side)), widthPx / heightPx))
  const stored: Zippable = { mimetype: [strToU8(STACK_MIMETYPE), { level: 0 }], 'stack.xml': [strToU8(writeStack(widthPx, heightPx, stack)), { level: 6 }] }
  for (const [name, bytes] of Object.entries({ ...entries, 'mergedimage.png': merged, 'Thumbnails/thumbnail.png': thumb })) stored[name] = [bytes, { level: 0 }]
  return new Blob([zipSync(stored) as Uint8Array<ArrayBuffer>], { type: STACK_MIMETYPE })
}

import { paintGuide, paintSheet, type ArtNeed, type SheetPage, type SheetSight, type ToPaint } from '@rubato/core/checks'
import { shorten, type LevelOwner } from '@rubato/core/document'
import { heightOf, widthOf, type Rectangle } from '@rubato/core/geometry'
import { roleName, STACK_MIMETYPE, writeStack, type StackPart } from '@rubato/core/interchange'
import { strToU8, zipSync, type Zippable } from 'fflate'

const ROUGH_OPACITY = 0.4
const THUMB_PX = 256
/** What stands before the way back in a layer's name. */
const NAME_LETTERS = 60

export interface PaintLevel extends ToPaint {
  readonly name: string
  readonly need: ArtNeed
  readonly owner: LevelOwner
  /** What its owner calls it. */
  readonly levelId: string
  readonly sights: readonly SheetSight[]
  /** `isShown`: its rough is seen when the file is opened. */
  readonly drawings: readonly { readonly id: string; readonly name: string; readonly isShown: boolean; readonly rough: () => Promise<{ readonly picture: Blob; readonly bounds: Rectangle } | null> }[]
}

export interface PaintFile {
  readonly file: Blob
  readonly canvas: { readonly widthPx: number; readonly heightPx: number; readonly share: number }
}

/** An OpenRaster file to paint levels in: of each a group with a guide, an empty layer a drawing, and its rough, faint. */
export async function paintLayers(levels: readonly PaintLevel[], outputWidthPx: number, fps: number, step: () => Promise<void>): Promise<PaintFile> {
  const { widthPx, heightPx, share, canvases } = paintSheet(levels, outputWidthPx)
  const sheet = () => {
    const canvas = new OffscreenCanvas(widthPx, heightPx)
    const context = canvas.getContext('2d')
    if (context === null) throw new Error(`a canvas of ${widthPx} × ${heightPx} px could not be made`)
    return { canvas, context }
  }
  const bytesOf = async (canvas: OffscreenCanvas) => new Uint8Array(await (await canvas.convertToBlob({ type: 'image/png' })).arrayBuffer())
  const entries: Record<string, Uint8Array> = { 'data/empty.png': await bytesOf(sheet().canvas) }
  const merged = sheet()
  // Of several the first is seen: all at once are a thicket.
  let seen: OffscreenCanvas | null = null
  const groups: StackPart[] = []
  for (const [i, level] of levels.entries()) {
    const canvas = canvases[i]!
    const scale = widthPx / widthOf(canvas)
    const guide = sheet()
    drawPage(guide.context, paintGuide(canvas, widthPx, heightPx, level.name, level.need, level.sights, fps))
    const guideName = `data/${i + 1}-guide.png`
    entries[guideName] = await bytesOf(guide.canvas)
    seen ??= guide.canvas
    const parts: StackPart[] = []
    for (const [n, drawing] of level.drawings.entries()) {
      const many = level.drawings.length > 1
      const name = shorten(many ? `${shorten(level.name, NAME_LETTERS - 14)} ${drawing.name}` : level.name, NAME_LETTERS)
      const back = { owner: level.owner, levelId: level.levelId, drawingId: drawing.id, left: canvas.left, top: canvas.top, width: widthOf(canvas), widthPx, heightPx }
      // An entry of its own: some programs write over what a layer names.
      const art = `data/${i + 1}-${n + 1}.png`
      entries[art] = entries['data/empty.png']!
      parts.push({ kind: 'layer', name: roleName(name, { kind: 'art', back }), src: art, opacity: 1, visible: true })
      const rough = await drawing.rough()
      if (rough === null) continue
      const { bounds } = rough
      const under = sheet()
      const picture = await createImageBitmap(rough.picture)
      under.context.drawImage(picture, (bounds.left - canvas.left) * scale, (canvas.top - bounds.top) * scale, widthOf(bounds) * scale, heightOf(bounds) * scale)
      picture.close()
      const src = `data/${i + 1}-${n + 1}-rough.png`
      entries[src] = await bytesOf(under.canvas)
      const isShown = drawing.isShown || !many
      parts.push({ kind: 'layer', name: roleName(`${name}, rough`, { kind: 'rough' }), src, opacity: ROUGH_OPACITY, visible: isShown })
      if (!isShown) continue
      merged.context.globalAlpha = ROUGH_OPACITY
      merged.context.globalCompositeOperation = 'destination-over'
      merged.context.drawImage(under.canvas, 0, 0)
    }
    groups.push({ kind: 'group', name: level.name, parts: [{ kind: 'layer', name: roleName(`${shorten(level.name, NAME_LETTERS)}, guide`, { kind: 'guide' }), src: guideName, opacity: 1, visible: i === 0 }, ...parts] })
    await step()
  }
  delete entries['data/empty.png']
  merged.context.globalAlpha = 1
  merged.context.globalCompositeOperation = 'source-over'
  if (seen !== null) merged.context.drawImage(seen, 0, 0)
  const thumb = new OffscreenCanvas(Math.max(1, Math.round(widthPx * Math.min(1, THUMB_PX / Math.max(widthPx, heightPx)))), Math.max(1, Math.round(heightPx * Math.min(1, THUMB_PX / Math.max(widthPx, heightPx)))))
  thumb.getContext('2d')!.drawImage(merged.canvas, 0, 0, thumb.width, thumb.height)
  const stored: Zippable = { mimetype: [strToU8(STACK_MIMETYPE), { level: 0 }], 'stack.xml': [strToU8(writeStack(widthPx, heightPx, groups)), { level: 6 }] }
  for (const [name, bytes] of Object.entries({ ...entries, 'mergedimage.png': await bytesOf(merged.canvas), 'Thumbnails/thumbnail.png': await bytesOf(thumb) })) stored[name] = [bytes, { level: 0 }]
  return { file: new Blob([zipSync(stored) as Uint8Array<ArrayBuffer>], { type: STACK_MIMETYPE }), canvas: { widthPx, heightPx, share } }
}

/** A page of lines and words, with an edge round it: what is cut to what is painted keeps all of it. */
function drawPage(context: OffscreenCanvasRenderingContext2D, { width, height, marks }: SheetPage) {
  const edge = Math.max(1, Math.round(Math.hypot(width, height) / 1500))
  context.fillStyle = '#2e7a68'
  for (const [x, y, w, h] of [[0, 0, width, edge], [0, height - edge, width, edge], [0, 0, edge, height], [width - edge, 0, edge, height]] as const) context.fillRect(x, y, w, h)
  for (const mark of marks) {
    if (mark.kind === 'picture') continue
    if (mark.kind === 'text') {
      context.font = `${mark.bold ? '600 ' : ''}${mark.size}px sans-serif`
      context.textAlign = mark.anchor === 'middle' ? 'center' : mark.anchor
      context.fillStyle = mark.colour
      context.fillText(mark.text, mark.x, mark.y)
      continue
    }
    context.beginPath()
    for (const ring of mark.rings) {
      for (let i = 0; i < ring.length; i += 2) context[i === 0 ? 'moveTo' : 'lineTo'](ring[i]!, ring[i + 1]!)
      if (mark.closed) context.closePath()
    }
    context.strokeStyle = mark.stroke
    context.lineWidth = mark.width
    context.setLineDash([...(mark.dash ?? [])])
    context.stroke()
  }
}

import { placedBack, sheetIn, type PxRectangle, type WayBack } from '@rubato/core/interchange'
import type { BroughtBack, BroughtRaster } from './messages'

/** As many px as the server takes in as one picture. */
const MOST_PX = 64_000_000
const STRIP = 1024
/** Ways of mixing that OpenRaster and a canvas both have, by the former's names. */
const MIXINGS: Readonly<Record<string, GlobalCompositeOperation>> = {
  'svg:multiply': 'multiply',
  'svg:screen': 'screen',
  'svg:overlay': 'overlay',
  'svg:darken': 'darken',
  'svg:lighten': 'lighten',
  'svg:color-dodge': 'color-dodge',
  'svg:color-burn': 'color-burn',
  'svg:hard-light': 'hard-light',
  'svg:soft-light': 'soft-light',
  'svg:difference': 'difference',
  'svg:color': 'color',
  'svg:luminosity': 'luminosity',
  'svg:hue': 'hue',
  'svg:saturation': 'saturation',
  'svg:plus': 'lighter',
}

const rectangleOf = ({ layer, widthPx, heightPx }: BroughtRaster): PxRectangle => ({ x: layer.x, y: layer.y, width: widthPx, height: heightPx })

/** What of a layered file was painted for drawings of ours, each as one picture of all its layers. */
export async function paintedBack(canvas: { readonly widthPx: number; readonly heightPx: number }, layers: readonly BroughtRaster[]): Promise<readonly BroughtBack[]> {
  const guides = layers.filter(({ layer }) => layer.role?.kind === 'guide').map(rectangleOf)
  const byDrawing = new Map<string, { readonly way: WayBack; readonly own: BroughtRaster[] }>()
  for (const each of layers) {
    if (each.layer.role?.kind !== 'art') continue
    const { back } = each.layer.role
    const key = `${back.owner.kind} ${back.owner.id} ${back.levelId} ${back.drawingId}`
    const known = byDrawing.get(key)
    if (known === undefined) byDrawing.set(key, { way: back, own: [each] })
    else known.own.push(each)
  }
  const found: BroughtBack[] = []
  for (const { way, own } of byDrawing.values()) {
    const name = own.find(({ layer }) => !layer.added)?.layer.name ?? own[0]!.layer.name
    // Its own layers may be hidden while others are painted; what was put in and hidden is not meant.
    const seen = own.filter(({ layer }) => layer.visible || !layer.added)
    const sheet = guides.map((guide) => sheetIn(way, canvas, guide)).find((each) => each !== null) ?? sheetIn(way, canvas, null)
    const told = { way, name, added: seen.filter(({ layer }) => layer.added).map(({ layer }) => layer.name) }
    if (sheet === null) {
      found.push({ ...told, picture: null, why: `the canvas went out with ${way.widthPx} × ${way.heightPx} px and came back as ${canvas.widthPx} × ${canvas.heightPx}, without its guide: where it lies can’t be told. Scale it, but don’t cut or extend it` })
      continue
    }
    const picture = await asOne(seen.map((each) => (each.layer.added ? each : { ...each, layer: { ...each.layer, opacity: Math.min(1, each.layer.opacity / (way.opacity ?? 1)) } })))
    found.push({ ...told, picture: picture === null ? null : { ...placedBack(way, sheet, picture.at), blob: picture.blob }, why: picture === null ? 'nothing was painted on it' : null })
  }
  return found
}

/** Layers, nearest first, as one picture; null where there is nothing on any. One by itself is handed on as it is. */
async function asOne(layers: readonly BroughtRaster[]): Promise<{ readonly blob: Blob; readonly at: PxRectangle } | null> {
  const painted: BroughtRaster[] = []
  for (const each of layers) if (each.layer.opacity > 0 && !(await isBlank(each))) painted.push(each)
  if (painted.length === 0) return null
  const [only] = painted
  if (painted.length === 1 && only!.layer.opacity === 1 && only!.layer.mixing === null) return { blob: only!.blob, at: rectangleOf(only!) }
  const edges = painted.map(rectangleOf)
  const x = Math.min(...edges.map((each) => each.x))
  const y = Math.min(...edges.map((each) => each.y))
  const width = Math.max(...edges.map((each) => each.x + each.width)) - x
  const height = Math.max(...edges.map((each) => each.y + each.height)) - y
  if (width * height > MOST_PX) throw new Error(`its layers reach over ${width} × ${height} px; at most ${MOST_PX / 1e6} million are taken`)
  const context = new OffscreenCanvas(width, height).getContext('2d')!
  for (const { layer, blob } of painted.toReversed()) {
    const bitmap = await createImageBitmap(blob)
    context.globalAlpha = layer.opacity
    context.globalCompositeOperation = layer.mixing === null ? 'source-over' : (MIXINGS[layer.mixing] ?? 'source-over')
    context.drawImage(bitmap, layer.x - x, layer.y - y)
    bitmap.close()
  }
  return { blob: await context.canvas.convertToBlob({ type: 'image/png' }), at: { x, y, width, height } }
}

/** Whether no px of it is seen. */
async function isBlank({ blob, layer, widthPx, heightPx }: BroughtRaster): Promise<boolean> {
  const bitmap = await createImageBitmap(blob).catch(() => null)
  if (bitmap === null) throw new Error(`its layer “${layer.name}” is damaged`)
  const context = new OffscreenCanvas(widthPx, Math.min(STRIP, heightPx)).getContext('2d', { willReadFrequently: true })!
  try {
    for (let top = 0; top < heightPx; top += STRIP) {
      context.clearRect(0, 0, widthPx, STRIP)
      context.drawImage(bitmap, 0, -top)
      const words = new Uint32Array(context.getImageData(0, 0, widthPx, Math.min(STRIP, heightPx - top)).data.buffer)
      for (const word of words) if (word !== 0) return false
    }
    return true
  } finally {
    bitmap.close()
  }
}

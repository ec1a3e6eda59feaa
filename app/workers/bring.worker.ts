import { readStack, type RasterStack } from '@rubato/core/interchange'
import { Unzip, UnzipInflate } from 'fflate'
import { answerJobs } from './answerJobs'
import type { BroughtLayers } from './messages'
import { paintedBack } from './paintedBack'

const MOST_BYTES = 1024 ** 3
const XML_BYTES = 4 * 1024 ** 2

/** Unpacks a layered file as it is read; sizes in it are not believed. */
async function unpack(file: File): Promise<Map<string, Uint8Array<ArrayBuffer>>> {
  const entries = new Map<string, Uint8Array<ArrayBuffer>>()
  let total = 0
  let trouble: Error | null = null
  const unzip = new Unzip((entry) => {
    const chunks: Uint8Array[] = []
    let size = 0
    entry.ondata = (error, chunk, final) => {
      if (error !== null) {
        trouble ??= error
        return
      }
      size += chunk.length
      total += chunk.length
      if (total > MOST_BYTES || (entry.name === 'stack.xml' && size > XML_BYTES)) {
        trouble ??= new Error(`it unpacks to more than ${MOST_BYTES / 1024 ** 3} GB`)
        entry.terminate()
        return
      }
      chunks.push(chunk)
      if (!final) return
      const whole = new Uint8Array(size)
      let at = 0
      for (const each of chunks) {
        whole.set(each, at)
        at += each.length
      }
      entries.set(entry.name, whole)
    }
    if (entry.name === 'stack.xml' || entry.name === 'mimetype' || /^data\//.test(entry.name)) entry.start()
  })
  unzip.register(UnzipInflate)
  const reader = file.stream().getReader()
  for (;;) {
    const { done, value } = await reader.read()
    unzip.push(value ?? new Uint8Array(0), done)
    if (trouble !== null) throw trouble
    if (done) return entries
  }
}

async function look(file: File): Promise<BroughtLayers> {
  const entries = await unpack(file)
  const xml = entries.get('stack.xml')
  if (xml === undefined) throw new Error('it has no list of layers, so it is not an OpenRaster file')
  const read = readStack(new TextDecoder().decode(xml))
  if (!read.ok) throw new Error(read.refusal.what)
  const layers: { layer: RasterStack['layers'][number]; blob: Blob; widthPx: number; heightPx: number }[] = []
  const skipped: string[] = []
  for (const layer of read.stack.layers) {
    const bytes = entries.get(layer.src)
    const size = bytes === undefined ? null : pngSize(bytes)
    // A layer without pixels is nothing to bring in.
    if (bytes === undefined || size === null) skipped.push(layer.name)
    else layers.push({ layer, blob: new Blob([bytes], { type: 'image/png' }), ...size })
  }
  const stack = { widthPx: read.stack.widthPx, heightPx: read.stack.heightPx }
  return { stack, layers: layers.filter(({ layer }) => layer.role === null || layer.role.kind === 'art'), skipped, seen: layers.flatMap(({ layer }) => (layer.role?.kind === 'seen' ? [layer.name] : [])), back: await paintedBack(stack, layers) }
}

function pngSize(bytes: Uint8Array): { widthPx: number; heightPx: number } | null {
  if (bytes.length < 24 || bytes[0] !== 0x89 || bytes[1] !== 0x50) return null
  const view = new DataView(bytes.buffer, bytes.byteOffset)
  const [widthPx, heightPx] = [view.getUint32(16), view.getUint32(20)]
  return widthPx > 0 && heightPx > 0 ? { widthPx, heightPx } : null
}

answerJobs(look)

import { spawn } from 'node:child_process'
import { createWriteStream } from 'node:fs'
import { open, stat, writeFile } from 'node:fs/promises'
import { once } from 'node:events'
import { join } from 'node:path'
import { createLayerFiles, type LayersOf } from '@rubato/core/interchange'
import type { Rate } from '@rubato/core/time'
import { Zip, ZipPassThrough } from 'fflate'
import type { FormatId } from '#shared/handOver'

export interface FrameShape {
  readonly rate: Rate
  readonly widthPx: number
  readonly heightPx: number
}

/** Takes the frames of a piece in order; null where one is the one before. */
export interface PieceWriter {
  take(frame: Buffer | null): Promise<void>
  /** The file, whole. */
  finish(): Promise<void>
  abandon(): Promise<void>
}

/** What a file is joined of. */
export interface JoinOf extends LayersOf {
  /** A WAV file, or null. */
  readonly sound: string | null
  /** What the file is called, without an ending. */
  readonly stem: string
  /** Of what is packed: when it was asked for. */
  readonly date: Date
}

/** How a format is made of frames on the server: piece by piece, and then one file of the pieces of each. */
export interface Encoder {
  begin(path: string, shape: FrameShape): PieceWriter
  join(pieces: readonly string[], path: string, of: JoinOf, signal: AbortSignal): Promise<void>
}

const FFMPEG = process.env.RUBATO_FFMPEG ?? 'ffmpeg'
const SAID_LETTERS = 2000

/** Debian's ffmpeg, with what it says in the error where it fails. */
function ffmpeg(args: readonly string[], signal?: AbortSignal) {
  const child = spawn(FFMPEG, ['-hide_banner', '-loglevel', 'error', '-nostdin', '-y', ...args], { stdio: ['pipe', 'ignore', 'pipe'], ...(signal === undefined ? {} : { signal, killSignal: 'SIGKILL' as const }) })
  let said = ''
  child.stderr!.on('data', (chunk: Buffer) => (said = (said + chunk.toString()).slice(-SAID_LETTERS)))
  // What it says when it breaks off is told by its end.
  child.stdin!.on('error', () => undefined)
  const ended = new Promise<void>((resolve, reject) => {
    child.once('error', (error: NodeJS.ErrnoException) => reject(error.code === 'ENOENT' ? new Error('ffmpeg is not installed where this worker runs. Install Debian’s package ffmpeg, then try again.') : error))
    child.once('close', (code, why) => (code === 0 ? resolve() : reject(new Error(/No space left/i.test(said) ? 'The worker’s disk is full. Free some space, then try again.' : `ffmpeg ended with ${code ?? why}: ${said.trim().split('\n').at(-1) ?? ''}`))))
  })
  ended.catch(() => undefined)
  return { child, ended }
}

const rateText = ({ numerator, denominator }: Rate) => `${numerator}/${denominator}`
/** Colours as high definition television has them (ITU-R BT.709), in the studio's range; RGB becomes that with the exact sums. */
const COLOURS = ['-vf', 'scale=out_color_matrix=bt709:out_range=tv:flags=bicubic+accurate_rnd+full_chroma_int', '-colorspace', 'bt709', '-color_primaries', 'bt709', '-color_trc', 'bt709', '-color_range', 'tv']

function movie(container: 'mp4' | 'mov', codec: (shape: FrameShape) => readonly string[], voiceAs: readonly string[]): Encoder {
  // A tick of the file's clock is a part of a frame at any rate, so every frame stands exactly where it should.
  const clock = (rate: Rate) => ['-video_track_timescale', String(rate.numerator)]
  return {
    begin(path, shape) {
      const { rate, widthPx, heightPx } = shape
      const { child, ended } = ffmpeg(['-f', 'rawvideo', '-pix_fmt', 'rgba', '-s', `${widthPx}x${heightPx}`, '-framerate', rateText(rate), '-i', 'pipe:0', ...COLOURS, ...codec(shape), '-an', ...clock(rate), '-f', container, path])
      const bytes = widthPx * heightPx * 4
      let last: Buffer | null = null
      return {
        async take(frame) {
          if (frame !== null && frame.length !== bytes) throw new Error(`A frame has ${frame.length} bytes; ${bytes} were expected.`)
          last = frame ?? last
          if (last === null) throw new Error('The first frame can’t be the one before.')
          if (!child.stdin!.write(last)) await Promise.race([once(child.stdin!, 'drain'), ended])
        },
        async finish() {
          child.stdin!.end()
          await ended
        },
        async abandon() {
          child.kill('SIGKILL')
          await ended.catch(() => undefined)
        },
      }
    },
    async join(pieces, path, { sound: wav, rate }, signal) {
      const list = `${path}.list`
      await writeFile(list, pieces.map((piece) => `file '${piece.replace(/'/g, "'\\''")}'\n`).join(''))
      const voice = wav === null ? [] : ['-i', wav]
      await ffmpeg(['-f', 'concat', '-safe', '0', '-i', list, ...voice, '-map', '0:v', ...(wav === null ? [] : ['-map', '1:a', ...voiceAs]), '-c:v', 'copy', ...clock(rate), '-movflags', '+faststart+write_colr', '-f', container, path], signal).ended
    },
  }
}

/** Frames one after the other, each with its length before it; none where it is the one before. `filesOf`: what of them is put into a zip. */
const zipped = (filesOf: (of: JoinOf, total: number) => FilesOf): Encoder => ({
  begin(path) {
    const out = createWriteStream(path)
    let failure: Error | null = null
    out.on('error', (error) => (failure = error))
    const put = async (bytes: Buffer) => {
      if (failure !== null) throw failure
      if (!out.write(bytes)) await once(out, 'drain')
    }
    return {
      async take(frame) {
        const length = Buffer.alloc(4)
        length.writeUInt32LE(frame?.length ?? 0)
        await put(length)
        if (frame !== null) await put(frame)
      },
      async finish() {
        out.end()
        await once(out, 'finish')
        if (failure !== null) throw failure
      },
      async abandon() {
        out.destroy()
      },
    }
  },
  async join(pieces, path, of, signal) {
    const out = createWriteStream(path)
    let failure: Error | null = null
    out.on('error', (error) => (failure = error))
    const zip = new Zip((error, chunk) => {
      if (error !== null) failure = error
      else out.write(chunk)
    })
    const files = filesOf(of, await countFrames(pieces))
    const add = async (name: string, bytes: Uint8Array) => {
      const entry = new ZipPassThrough(name)
      entry.mtime = of.date
      zip.add(entry)
      entry.push(bytes, true)
      if (failure !== null) throw failure
      if (out.writableNeedDrain) await once(out, 'drain')
    }
    for (const piece of pieces) {
      for await (const frame of framesIn(piece)) {
        signal.throwIfAborted()
        for (const { name, bytes } of files.next(frame)) await add(name, bytes)
      }
    }
    const table = files.table?.()
    if (table !== undefined) await add('levels.json', Buffer.from(table))
    zip.end()
    out.end()
    await once(out, 'finish')
    if (failure !== null) throw failure
  },
})

/** Files of the next frame, null being the one before; and what is said of all. */
interface FilesOf {
  next(frame: Uint8Array | null): readonly { readonly name: string; readonly bytes: Uint8Array }[]
  readonly table?: () => string
}
function numbered({ stem }: JoinOf, total: number): FilesOf {
  const digits = Math.max(4, String(total).length)
  let [index, before] = [0, new Uint8Array() as Uint8Array]
  return {
    next(frame) {
      if (frame !== null) before = frame
      return [{ name: `${stem}_${String(index++).padStart(digits, '0')}.png`, bytes: before }]
    },
  }
}

async function* framesIn(path: string): AsyncGenerator<Uint8Array<ArrayBuffer> | null> {
  const file = await open(path)
  try {
    const { size } = await file.stat()
    for (let at = 0; at < size; ) {
      const length = Buffer.alloc(4)
      await file.read(length, 0, 4, at)
      const bytes = length.readUInt32LE()
      const frame = new Uint8Array(bytes)
      if (bytes > 0) await file.read(frame, 0, bytes, at + 4)
      at += 4 + bytes
      yield bytes === 0 ? null : frame
    }
  } finally {
    await file.close()
  }
}

async function countFrames(paths: readonly string[]): Promise<number> {
  let count = 0
  for (const path of paths) {
    if ((await stat(path)).size === 0) continue
    for await (const _ of framesIn(path)) count++
  }
  return count
}

/** Two seconds between whole frames, so that a player finds any place at once; none is made of a later one, so that pieces follow each other exactly. */
const h264 = ({ rate }: FrameShape) => ['-c:v', 'libx264', '-preset', 'veryfast', '-crf', '15', '-tune', 'animation', '-bf', '0', '-g', String(Math.round((2 * rate.numerator) / rate.denominator)), '-pix_fmt', 'yuv420p']
/** SMPTE ST 2019-1, high quality, 8 bits, 4:2:2, at any size. */
const vc3 = () => ['-c:v', 'dnxhd', '-profile:v', 'dnxhr_hq', '-pix_fmt', 'yuv422p']

export const ENCODERS: Readonly<Partial<Record<FormatId, Encoder>>> = {
  mp4: movie('mp4', h264, ['-c:a', 'aac', '-b:a', '192k']),
  mov: movie('mov', vc3, ['-c:a', 'pcm_s24le']),
  png: zipped(numbered),
  layers: zipped(createLayerFiles),
}

export const pieceName = (folder: string, number: number) => join(folder, `piece-${number}`)

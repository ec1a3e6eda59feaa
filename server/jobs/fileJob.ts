import { readFile } from 'node:fs/promises'
import sharp from 'sharp'
import { inspectFile } from './fileKinds'
import type { Found, JobAnswer, JobAsk } from './messages'
import { readSvg } from './svgFile'
import { readUnit } from './units'

// A process of its own: what a file makes it do, its end undoes. Without its server there is nothing to do.
process.once('disconnect', () => process.exit(0))
sharp.cache(false)
sharp.concurrency(1)

async function size({ path, out, sidePx, type, lines, picturePx }: Extract<JobAsk, { kind: 'size' }>): Promise<null> {
  const file = await readFile(path)
  const image = lines
    ? sharp(Buffer.from(readSvg(file.toString('utf8')).at(sidePx)), { limitInputPixels: sidePx * sidePx })
    : sharp(file, { limitInputPixels: picturePx, failOn: 'error' }).autoOrient().resize({ width: sidePx, height: sidePx, fit: 'inside', withoutEnlargement: true })
  // Numbers as they stand in the file, as everywhere in the product: an embedded profile goes along unused.
  const kept = image.keepIccProfile()
  await (type === 'image/jpeg' ? kept.jpeg({ quality: 94, chromaSubsampling: '4:4:4' }) : kept.png({ compressionLevel: 4 })).toFile(out)
  return null
}

process.on('message', (ask: JobAsk) => {
  const work: Promise<Found> = ask.kind === 'size' ? size(ask) : ask.kind === 'unit' ? readFile(ask.path, 'utf8').then((text) => readUnit(text, ask.wanted, ask.format)) : inspectFile(ask.path, ask.bytes, ask.wanted, ask.limits)
  work.then(
    (found) => answer({ number: ask.number, ok: true, found }),
    (error: { statusCode?: number; statusMessage?: string; message: string; data?: { code?: string } }) =>
      answer({ number: ask.number, ok: false, status: error.statusCode ?? 0, code: error.data?.code ?? '', message: error.message.split('\n')[0]!.slice(0, 400) }),
  )
})

function answer(given: JobAnswer) {
  if (process.connected) process.send!(given)
}

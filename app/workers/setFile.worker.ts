import { UNIT_KINDS } from '@rubato/core/document'
import { pictureEntry, readSetFile, writeSetFile, type SetFileRefusal } from '@rubato/core/interchange'
import { strFromU8, strToU8, unzip, zipSync, type Unzipped, type Zippable } from 'fflate'
import { answerJobs, type Job } from './answerJobs'
import type { MadeSetFile, SetFileAsk, SetFileProgress } from './messages'

/** All that is in a file, unpacked. */
const MOST_BYTES = 1024 ** 3
const MOST_ENTRIES = 20_000

answerJobs<SetFileAsk, MadeSetFile, SetFileProgress>((ask, job) => (ask.kind === 'write' ? write(ask, job) : read(ask.file)))

async function write({ file, pictureBase }: Extract<SetFileAsk, { kind: 'write' }>, { signal, tell }: Job<SetFileProgress>): Promise<MadeSetFile> {
  const entries: Zippable = Object.fromEntries([...writeSetFile(file)].map(([name, text]) => [name, strToU8(text)]))
  const hashes = [...new Set(Object.values(file.drawings).flatMap((drawing) => UNIT_KINDS.drawing.pictures!(drawing)))]
  for (const [i, hash] of hashes.entries()) {
    tell({ done: i, total: hashes.length })
    const response = await fetch(`${pictureBase}${hash}`, { signal })
    if (!response.ok) throw new Error(`A picture could not be fetched: the server answered ${response.status}. Try again.`)
    // Pictures are packed already.
    entries[pictureEntry(hash)] = [new Uint8Array(await response.arrayBuffer()), { level: 0 }]
  }
  return { kind: 'written', blob: new Blob([zipSync(entries) as Uint8Array<ArrayBuffer>], { type: 'application/zip' }) }
}

const WORDS: Readonly<Record<SetFileRefusal['code'], string>> = {
  'not-a-set-file': 'It is not a set’s file',
  newer: 'It was made by a newer Rubato. Update this one, then try again',
  malformed: 'It is broken',
  missing: 'Something that it shows is missing in it',
}

async function read(file: Blob): Promise<MadeSetFile> {
  const entries = await unpacked(new Uint8Array(await file.arrayBuffer()))
  const found = readSetFile((name) => (entries[name] === undefined ? null : strFromU8(entries[name])))
  if (!found.ok) throw new Error(`${WORDS[found.refusal.code]} (${found.refusal.what}).`)
  const hashes = [...new Set(Object.values(found.file.drawings).flatMap((drawing) => UNIT_KINDS.drawing.pictures!(drawing)))]
  const missing = hashes.find((hash) => entries[pictureEntry(hash)] === undefined)
  if (missing !== undefined) throw new Error(`${WORDS.missing} (${pictureEntry(missing).slice(0, 24)}…).`)
  return { kind: 'read', file: found.file, pictures: hashes.map((hash) => ({ hash, blob: new Blob([entries[pictureEntry(hash)]! as Uint8Array<ArrayBuffer>]) })) }
}

function unpacked(bytes: Uint8Array): Promise<Unzipped> {
  let [total, count] = [0, 0]
  const filter = ({ originalSize }: { readonly originalSize: number }) => {
    if ((total += originalSize) > MOST_BYTES || ++count > MOST_ENTRIES) throw new Error('It holds more than a set can.')
    return true
  }
  return new Promise((resolve, reject) => {
    try {
      unzip(bytes, { filter }, (error, entries) => (error === null ? resolve(entries) : reject(new Error(`It is not a whole zip file (${error.message}).`))))
    } catch (error) {
      reject(error as Error)
    }
  })
}

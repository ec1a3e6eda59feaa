import { describe, expect, it } from 'vitest'
import { FORMATS, formatsOf, type Format, type FormatId } from './formats'
import { makeFile } from './makeFile'
import type { MovieProgress, MovieRequest } from './messages'

const given: string[] = []
/** A format that there is not. What it takes is an entry in `formats.ts` (1 file): list, names, painting and making go by that. */
const FLIP: Format = {
  needs: 'frames',
  made: 'window',
  label: 'Flip book',
  extension: 'flip',
  frame: 'png',
  sound: false,
  guess: { bytes: 1, ms: 1 },
  taker: async ({ fileName }, total) => ({
    take: async (index, data) => void given.push(`${fileName} ${index}/${total} ${data?.byteLength ?? 'same'}`),
    finish: async () => ({ file: new Blob(['flip']), codec: 'paper' }),
    abandon: async () => void given.push('abandoned'),
  }),
}
Object.assign(FORMATS, { flip: FLIP })

const request = (format: string, frames: number) => ({ span: { start: 5, end: 5 + frames }, format: format as FormatId, fileName: 'Goose.flip', sound: null, lead: 0 }) as unknown as MovieRequest
function setUp(fails = -1) {
  const [told, gate, crew] = [[] as MovieProgress[], new AbortController(), { dismissed: 0 }]
  const crewOf = () => ({
    frame: async (index: number) => {
      if (index === fails) throw Object.assign(new Error('no room'), { name: 'QuotaExceededError' })
      return index === 1 ? null : new ArrayBuffer(index + 1)
    },
    dismiss: () => void crew.dismissed++,
  })
  given.length = 0
  return { told, gate, crew, make: (asked: MovieRequest) => makeFile(asked, { signal: gate.signal, tell: (progress: MovieProgress) => void told.push(progress) }, crewOf as never) }
}

describe('a format of the table', () => {
  it('is listed by what it needs, and no two have one name', () => {
    expect(formatsOf('frames').map(({ id }) => id)).toContain('flip')
    expect(formatsOf('sound', 'words').map(({ id }) => id)).toEqual(['wav', 'fountain', 'srt', 'vtt'])
    expect(formatsOf('cut').map(({ id }) => id)).toEqual(['otio', 'edl', 'edls', 'marks'])
    const labels = Object.values(FORMATS).map(({ label }) => label)
    expect(new Set(labels).size).toBe(labels.length)
  })

  it('is given every frame in order, and tells how far it is', async () => {
    const { told, crew, make } = setUp()
    const made = await make(request('flip', 3))
    expect([made.frames, made.codec, await made.file.text(), crew.dismissed]).toEqual([3, 'paper', 'flip', 1])
    expect(given).toEqual(['Goose.flip 0/3 1', 'Goose.flip 1/3 same', 'Goose.flip 2/3 3'])
    expect(told.map(({ phase, done }) => `${phase} ${done}`)).toEqual(['frames 1', 'frames 2', 'frames 3', 'closing 3'])
  })

  it('throws away what it made where it fails or is cancelled; a full disk is told in words', async () => {
    const full = setUp(2)
    await expect(full.make(request('flip', 4))).rejects.toThrow(/disk is full.*smaller size/)
    expect([given.at(-1), full.crew.dismissed]).toEqual(['abandoned', 1])
    const stopped = setUp()
    stopped.gate.abort(new DOMException('cancelled', 'AbortError'))
    await expect(stopped.make(request('flip', 4))).rejects.toThrow('cancelled')
    expect(given.at(-1)).toBe('abandoned')
  })

  it('is refused where there is nothing to make it of', async () => {
    const { make } = setUp()
    await expect(make(request('flip', 0))).rejects.toThrow('range is empty')
    await expect(make(request('wav', 3))).rejects.toThrow('no sound')
    await expect(make(request('srt', 3))).rejects.toThrow('not made of frames')
    expect(() => (FORMATS.srt as Format & { write(words: object): string }).write({ panels: [], rate: { numerator: 24, denominator: 1 } })).toThrow('no panel has dialogue')
  })
})

import { beforeEach, describe, expect, it, vi } from 'vitest'

const RATE = 1000
const SECONDS = 5
/** Samples of a decoder that were handed out and not closed; what it was asked to begin from. */
const made = vi.hoisted(() => ({ open: 0, disposed: 0, failsAt: Infinity }))

vi.mock('mediabunny', () => {
  const FRAMES = 300
  class Sample {
    readonly numberOfChannels = 1
    readonly numberOfFrames = FRAMES
    readonly timestamp: number
    #closed = false
    constructor(timestamp: number) {
      this.timestamp = timestamp
      made.open += 1
    }

    copyTo(into: Float32Array) {
      for (let i = 0; i < into.length; i++) into[i] = Math.round(this.timestamp * 1000) + i
    }

    close() {
      if (!this.#closed) made.open -= 1
      this.#closed = true
    }
  }
  const track = { canDecode: () => Promise.resolve(true), getSampleRate: () => Promise.resolve(1000), getNumberOfChannels: () => Promise.resolve(1) }
  return {
    ALL_FORMATS: [],
    UrlSource: class {},
    BlobSource: class {},
    Input: class {
      getPrimaryAudioTrack() {
        return Promise.resolve(track)
      }

      dispose() {
        made.disposed += 1
      }
    },
    AudioSampleSink: class {
      async *samples(from: number) {
        await Promise.resolve()
        for (let first = Math.floor((from * 1000) / FRAMES) * FRAMES; first < 5000; first += FRAMES) {
          if (first / 1000 >= made.failsAt) throw new Error('The sound is damaged from here on.')
          yield new Sample(first / 1000)
        }
      }
    },
  }
})

const { createRecordings } = await import('./recordings')
const settled = () => new Promise((resolve) => setTimeout(resolve))

describe('recordings, decoded where they are needed', () => {
  const troubles: string[] = []
  const make = () => createRecordings((hash) => `/sound/${hash}`, 1e6, (hash, what) => troubles.push(`${hash}: ${what}`))
  beforeEach(() => {
    Object.assign(made, { open: 0, disposed: 0, failsAt: Infinity })
    troubles.length = 0
  })

  it('gives each sample where it lies, in one chunk and over two, played on or jumped to', async () => {
    const recordings = make()
    for (const [first, end] of [[0, 400], [400, 1300], [3700, 4200], [1999, 2001], [990, 1010]] as const) {
      await recordings.load([{ assetHash: 'a', first, end }])
      const { first: begins, channels } = recordings.read({ assetHash: 'a', first, end })!
      for (let at = first; at < end; at++) expect(channels[0]![at - begins]).toBe(at)
    }
    expect(recordings.shapeOf('a')).toMatchObject({ sampleRateHz: RATE, channels: 1 })
  })

  it('leaves no decoded sample open: not when let go while one was ahead, not at the end, not where decoding breaks off', async () => {
    const ahead = make()
    await ahead.load([{ assetHash: 'a', first: 0, end: 500 }])
    // What begins in one chunk and ends in the next waits for the next.
    expect(made.open).toBe(1)
    ahead.dispose()
    await settled()
    expect(made).toMatchObject({ open: 0, disposed: 1 })

    const whole = make()
    await whole.load([{ assetHash: 'a', first: 0, end: SECONDS * RATE }])
    whole.dispose()
    await settled()
    expect(made).toMatchObject({ open: 0, disposed: 2 })

    made.failsAt = 1.5
    const broken = make()
    await broken.load([{ assetHash: 'b', first: 0, end: 2500 }])
    expect(troubles).toEqual(['b: The sound is damaged from here on.'])
    expect(broken.read({ assetHash: 'b', first: 0, end: 10 })).toBeNull()
    expect(made).toMatchObject({ open: 0, disposed: 3 })
    broken.dispose()
    await settled()
    expect(made).toMatchObject({ open: 0, disposed: 3 })
  })
})

import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { createSoundLine, piecesOf, type LineSpec } from './soundLine'

/** A film whose every sample is its own number. */
const film = async (first: number, count: number) => {
  const wave = Float32Array.from({ length: count }, (_, i) => first + i)
  return [wave, wave] as const
}
const line = (fields: Partial<LineSpec>): LineSpec => ({ fromSample: 0, rate: 1, loop: null, ...fields })
async function heard(spec: LineSpec, hops: readonly number[]) {
  const of = createSoundLine(spec, film)
  const all: number[] = []
  for (const count of hops) all.push(...(await of.next(count))[0])
  return all
}

describe('the line that playback takes through the film', () => {
  it('goes on from where it begins, either way', async () => {
    expect((await heard(line({ fromSample: 500 }), [1])).slice(0, 3)).toEqual([500, 501, 502])
    expect((await heard(line({ fromSample: 5000, rate: -1 }), [1])).slice(0, 3)).toEqual([4999, 4998, 4997])
  })

  it('goes round a loop without a seam, either way', async () => {
    const loop = { startSample: 1000, endSample: 2000 }
    const on = await heard(line({ fromSample: 1990, loop }), [2])
    expect(on.slice(8, 13)).toEqual([1998, 1999, 1000, 1001, 1002])
    expect(on[10 + 1000]).toBe(1000)
    const back = await heard(line({ fromSample: 1003, rate: -1, loop }), [1])
    expect(back.slice(0, 6)).toEqual([1002, 1001, 1000, 1999, 1998, 1997])
  })

  it('is the same in blocks of any size', async () => {
    await fc.assert(
      fc.asyncProperty(fc.array(fc.integer({ min: 1, max: 4 }), { minLength: 1, maxLength: 6 }), fc.constantFrom(1, -1), fc.boolean(), async (hops, rate, loops) => {
        const spec = line({ fromSample: 3000, rate, loop: loops ? { startSample: 2500, endSample: 4321 } : null })
        const whole = await heard(spec, [hops.reduce((sum, each) => sum + each, 0)])
        expect(await heard(spec, hops)).toEqual(whole)
      }),
      { numRuns: 30 },
    )
  })

  it('has pieces that cover it, in the loop, one after the other', () => {
    fc.assert(
      fc.property(fc.nat(5000), fc.integer({ min: 1, max: 5000 }), fc.constantFrom(1, -2), fc.integer({ min: 1, max: 700 }), (from, count, rate, length) => {
        const loop = { startSample: 100, endSample: 100 + length }
        const pieces = piecesOf(line({ fromSample: 100 + (from % length), rate, loop }), from, count)
        expect(pieces.reduce((sum, piece) => sum + piece.count, 0)).toBe(count)
        for (const piece of pieces) {
          expect(piece.count).toBeGreaterThan(0)
          expect(piece.first).toBeGreaterThanOrEqual(100)
          expect(piece.first + piece.count).toBeLessThanOrEqual(100 + length)
        }
      }),
    )
  })

  it('at another speed comes as far in the film as the speed says', async () => {
    for (const rate of [0.5, 2, -2]) {
      const samples = await heard(line({ fromSample: 100_000, rate }), [10, 10, 10, 10, 10])
      const last = samples.at(-1)!
      expect(Math.abs(last - (100_000 + samples.length * rate))).toBeLessThan(2500)
    }
  })
})

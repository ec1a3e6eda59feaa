import { createStretcher, STRETCH_REACH, type ReadMix } from '@rubato/core/sound'

/** Blocks of the line are made of hops of this many samples. */
export const HOP_SAMPLES = 960

/** How playback runs through the film's samples. */
export interface LineSpec {
  readonly fromSample: number
  /** Speed with its direction: −2 is twice as fast, backwards. */
  readonly rate: number
  /** Where it goes round, `end` exclusive; null where it does not. */
  readonly loop: { readonly startSample: number; readonly endSample: number } | null
}

export type MixSamples = (first: number, count: number) => Promise<readonly [Float32Array, Float32Array]>

/** Samples of the film that follow each other on a line, `count` from `first` on, or backwards. */
interface Piece {
  readonly first: number
  readonly count: number
}

/** Where samples `from` to `from + count` of the line lie in the film. */
export function piecesOf({ fromSample, rate, loop }: LineSpec, from: number, count: number): Piece[] {
  const direction = rate < 0 ? -1 : 1
  if (loop === null) return [direction > 0 ? { first: fromSample + from, count } : { first: fromSample - from - count, count }]
  const length = Math.max(1, loop.endSample - loop.startSample)
  const pieces: Piece[] = []
  for (let done = 0; done < count; ) {
    const along = from + done
    const offset = direction > 0 ? fromSample - loop.startSample + along : loop.endSample - fromSample + along
    const into = ((offset % length) + length) % length
    const size = Math.min(count - done, length - into)
    pieces.push(direction > 0 ? { first: loop.startSample + into, count: size } : { first: loop.endSample - into - size, count: size })
    done += size
  }
  return pieces
}

/** What is heard while it plays: the film along a line, at its own pitch whatever the speed. */
export function createSoundLine(spec: LineSpec, mix: MixSamples) {
  const speed = Math.abs(spec.rate)
  const stretcher = speed === 1 ? null : createStretcher(0, speed)
  let made = 0
  let held: { readonly first: number; readonly sides: readonly [Float32Array, Float32Array] } | null = null

  async function along(from: number, count: number): Promise<readonly [Float32Array, Float32Array]> {
    const out = [new Float32Array(count), new Float32Array(count)] as const
    let at = 0
    for (const piece of piecesOf(spec, from, count)) {
      const sides = await mix(piece.first, piece.count)
      sides.forEach((side, i) => out[i as 0 | 1].set(spec.rate < 0 ? side.slice().reverse() : side, at))
      at += piece.count
    }
    return out
  }

  const read: ReadMix = (first, count) => {
    const { first: start, sides } = held!
    return [sides[0].subarray(first - start, first - start + count), sides[1].subarray(first - start, first - start + count)]
  }

  return {
    /** The next samples; `hops` of 960 each. */
    async next(hops: number): Promise<readonly [Float32Array, Float32Array]> {
      const count = hops * 960
      if (stretcher === null) {
        const block = await along(made, count)
        made += count
        return block
      }
      const from = Math.floor(made * speed) - STRETCH_REACH
      const to = Math.ceil((made + count) * speed) + STRETCH_REACH
      held = { first: from, sides: await along(from, to - from) }
      const out = [new Float32Array(count), new Float32Array(count)] as const
      for (let hop = 0; hop < hops; hop++) stretcher.next(read).forEach((side, i) => out[i as 0 | 1].set(side, hop * 960))
      made += count
      return out
    },
  }
}


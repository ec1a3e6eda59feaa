import type { Words } from '../document/records'
import { applyAffine, followedBy, type Affine } from './affine'
import { flattened, joinedByDirection, type PathStep } from './flatten'

/** How far outlines of letters may lie from a font's own curves, ems. */
const TOLERANCE_EM = 1 / 2500
const round = (value: number) => Math.round(value * 1e6) / 1e6
const HAIR = 1e-6

export const placeOfWords = ({ place: [a, b, c, d, e, f] }: Pick<Words, 'place'>): Affine => ({ a: a!, b: b!, c: c!, d: d!, e: e!, f: f! })
export const wordsPlace = ({ a, b, c, d, e, f }: Affine): number[] => [a, b, c, d, e, f].map((each) => Math.round(each * 1e8) / 1e8)

/** How many fw an em is high. */
export const emOf = ({ place: [, , c, d] }: Pick<Words, 'place'>): number => Math.hypot(c!, d!)
/** How far words are turned, counter-clockwise, degrees in (−180, 180]. */
export const turnOfWords = ({ place: [a, b] }: Pick<Words, 'place'>): number => Math.round((Math.atan2(b!, a!) * 180) / Math.PI / HAIR) * HAIR

/** A fill's outlines of letters that a font has set, in ems with y up: joined where letters touch, put in their place. */
export function outlinesOfWords(letters: readonly PathStep[], words: Pick<Words, 'place'>): number[][] {
  const place = placeOfWords(words)
  return joinedByDirection(flattened(letters, TOLERANCE_EM)).map((ring) =>
    ring.flatMap((_, i) => {
      if (i % 2 === 1) return []
      const { x, y } = applyAffine(place, { x: ring[i]!, y: ring[i + 1]! })
      return [round(x), round(y)]
    }),
  )
}

/** Words with ems of another height, about where they begin. */
export const resized = (words: Pick<Words, 'place'>, emFw: number): number[] => {
  const by = emFw / emOf(words)
  const { a, b, c, d, e, f } = placeOfWords(words)
  return wordsPlace({ a: a * by, b: b * by, c: c * by, d: d * by, e, f })
}

/** Words turned to an angle, about where they begin. */
export const turnedTo = (words: Pick<Words, 'place'>, degrees: number): number[] => {
  const angle = ((degrees - turnOfWords(words)) * Math.PI) / 180
  const [cos, sin] = [Math.cos(angle), Math.sin(angle)]
  const { e, f, ...rest } = placeOfWords(words)
  return wordsPlace({ ...followedBy({ ...rest, e: 0, f: 0 }, { a: cos, b: sin, c: -sin, d: cos, e: 0, f: 0 }), e, f })
}

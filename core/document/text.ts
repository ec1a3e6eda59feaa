import { z } from 'zod'

/** NUL, or half of a pair that stands for one letter: databases and files in UTF-8 can't hold either. */
const UNHOLDABLE = /[\0\p{Surrogate}]/u

export const isHoldable = (text: string): boolean => !UNHOLDABLE.test(text)

/** Text of at most `most` UTF-16 units that can be kept and sent as UTF-8. All text that comes from outside is of this kind. */
export const textSchema = (most: number) => z.string().max(most).refine(isHoldable, { message: 'holds a character that can’t be kept (NUL, or half of one)' })

/** At most `most` UTF-16 units from `from` on, without cutting through a character that has two of them. */
export function shorten(text: string, most: number, from = 0): string {
  const end = from + most
  if (end >= text.length) return from === 0 ? text : text.slice(from)
  const inPair = isHigh(text.charCodeAt(end - 1)) && isLow(text.charCodeAt(end))
  return text.slice(from, inPair ? end - 1 : end)
}

/** Text in pieces of at most `most` units, no character cut through; an empty text is one piece. */
export function pieces(text: string, most: number): readonly string[] {
  const found: string[] = []
  for (let at = 0; at === 0 || at < text.length; ) {
    const piece = shorten(text, most, at)
    found.push(piece)
    at += Math.max(1, piece.length)
  }
  return found
}

/** With U+FFFD for each character that can't be kept. */
export function holdable(text: string): string {
  return isHoldable(text) ? text : text.replace(/[\0\p{Surrogate}]/gu, '\uFFFD')
}

const isHigh = (unit: number) => unit >= 0xd800 && unit <= 0xdbff
const isLow = (unit: number) => unit >= 0xdc00 && unit <= 0xdfff

/** As text or attribute of XML, which has no control signs, not even written as numbers. */
export const xmlText = (text: string) =>
  [...text]
    .filter((sign) => sign >= ' ' || sign === '\n' || sign === '\t')
    .map((sign) => (`&<>"'`.includes(sign) ? `&#${sign.codePointAt(0)!};` : sign))
    .join('')

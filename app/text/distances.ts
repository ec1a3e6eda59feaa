/** What a distance may be told by. */
export interface DistanceFacts {
  /** The lens's place on the depth axis, fw. */
  readonly lensDepth: number
  readonly outputWidthPx: number
  /** What is told in times of: what it is called, and how far from the lens it is. */
  readonly subject: { readonly name: string; readonly distance: number }
}

/** A distance that was typed: what it makes of the distance from the lens that there is. */
export type ReadDistance = { readonly ok: true; readonly of: (distance: number) => number } | { readonly ok: false; readonly why: string }

/** What can be typed, for a hint. */
export const DISTANCE_FORMS: readonly (readonly [string, string])[] = Object.freeze([
  ['2.4', 'fw from the lens'],
  ['460 px', 'the same, in pixels of the output'],
  ['1.5 x', 'times as far as the subject'],
  ['+0.2   −40 px   +10 %', 'so much farther, or nearer'],
  ['@ 0.5', 'fw behind the picture plane; −, before it'],
] as const)

const FORM = /^(@|at )?\s*([+\-−]?)\s*(\d+(?:[.,]\d+)?|[.,]\d+)\s*(fw|px|x|×|times|%)?$/i

/** Reads a distance from the lens as it is typed: plain or with fw, px, × of the subject's; with a sign, by so much; after @, from the picture plane. */
export function readDistance(text: string, { lensDepth, outputWidthPx, subject }: DistanceFacts): ReadDistance {
  const typed = text.trim()
  if (typed === '') return { ok: false, why: 'Type a distance from the lens.' }
  const read = FORM.exec(typed)
  if (read === null) return { ok: false, why: `“${typed.length > 24 ? `${typed.slice(0, 24)}…` : typed}” is no distance.` }
  const [, at, sign, digits, unit = 'fw'] = read
  const number = Number(digits!.replace(',', '.'))
  const by = sign === '' ? number : sign === '+' ? number : -number
  const named = unit.toLowerCase()
  if (named === '%') return sign === '' ? { ok: false, why: 'A percentage is by how much: +10 % or −10 %.' } : { ok: true, of: (distance) => distance * (1 + by / 100) }
  if (named === 'x' || named === '×' || named === 'times') {
    if (at !== undefined || sign !== '') return { ok: false, why: 'Times are told without a sign: 1.5 x.' }
    return { ok: true, of: () => number * subject.distance }
  }
  const fw = named === 'px' ? by / outputWidthPx : by
  if (at !== undefined) return { ok: true, of: () => fw - lensDepth }
  return { ok: true, of: (distance) => (sign === '' ? fw : distance + fw) }
}

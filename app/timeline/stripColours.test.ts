import { describe, expect, it } from 'vitest'
import { markInk } from './drawRuler'
import { stripColours } from './stripColours'
import type { StripInk } from './stripInk'

/** Contrast of normal text, WCAG 2.2, 1.4.3 (AA); of signs and edges, 1.4.11. */
const TEXT = 4.5
const SIGN = 3

type Colour = readonly [number, number, number]
const parsed = (hex: string) => [1, 3, 5].map((at) => parseInt(hex.slice(at, at + 2), 16)) as unknown as Colour
const over = (top: Colour, share: number, under: Colour) => top.map((value, i) => value * share + under[i]! * (1 - share)) as unknown as Colour

/** Relative luminance and contrast, WCAG 2.2. */
function luminance(colour: Colour): number {
  const [r, g, b] = colour.map((value) => (value / 255 <= 0.04045 ? value / 255 / 12.92 : ((value / 255 + 0.055) / 1.055) ** 2.4)) as unknown as Colour
  return 0.2126 * r + 0.7152 * g + 0.0722 * b
}
function contrast(a: Colour, b: Colour): number {
  const [light, dark] = [luminance(a), luminance(b)].sort((x, y) => y - x) as [number, number]
  return (light + 0.05) / (dark + 0.05)
}

describe.each(['day', 'night'] as const)('the strip by %s', (when) => {
  const colours = stripColours(when === 'night')
  const of = (name: Exclude<keyof typeof colours, 'beads'>) => parsed(colours[name])

  it.each([
    ['figures of the ruler', 'quiet', 'paper'],
    ['a shot’s name', 'ink', 'faint'],
    ['the name of the shot at hand', 'sheet', 'ink'],
    ['names of moves and marks', 'ink', 'paper'],
    ['the name of a move over its ribbon', 'ink', 'ribbon'],
    ['figures beside what is dragged', 'sheet', 'ink'],
  ] as const)('%s can be read', (_, text, ground) => {
    expect(contrast(of(text), of(ground))).toBeGreaterThanOrEqual(TEXT)
  })

  it('names on clips can be read in every lane, and what is wrong with one', () => {
    for (const lane of ['ochre', 'sea'] as const) {
      // As `drawLanes` lays a lane's colour over the clip and again over its head.
      const head = over(of(lane), 0.3, over(of(lane), 0.16, of('panel')))
      expect(contrast(of('onPanel'), head), lane).toBeGreaterThanOrEqual(TEXT)
      expect(contrast(of('wrongOnPanel'), head), `trouble on ${lane}`).toBeGreaterThanOrEqual(TEXT)
    }
  })

  it('signs of marks, and what is chosen, stand out from the paper', () => {
    for (const meaning of ['note', 'voice', 'sound', 'change', 'mend'] as const) expect(contrast(parsed(markInk(colours as StripInk, meaning)), of('paper')), meaning).toBeGreaterThanOrEqual(SIGN)
    expect(contrast(of('blue'), of('paper'))).toBeGreaterThanOrEqual(SIGN)
  })
})

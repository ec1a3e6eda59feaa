import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { SaxesParser } from 'saxes'
import type { Drawing, Mark } from '../document'
import { applyAffine, fittedAffine, about, OUTLINE_UNITS_PER_FW, strokeOutline } from '../ink'
import { SVG_SAYS, svgMark, svgPlace, svgShape, svgWay, writeDrawingSvg } from './index'

const stroke = (id: string, more: Partial<Extract<Mark, { kind: 'stroke' }>> = {}): Mark => ({ id, order: id, kind: 'stroke', mode: 'ink', points: [0, 0, 0.5, 0.1, 0.02, 0.5, 0.2, 0, 0.5], widthFw: 0.01, colour: '#27241e', opacity: 1, ...more })
const fill = (id: string, more: Partial<Extract<Mark, { kind: 'fill' }>> = {}): Mark => ({ id, order: id, kind: 'fill', mode: 'ink', outlines: [[0, 0, 0.1, 0, 0.1, 0.1]], colour: '#b27b1b', opacity: 0.5, ...more })
const WAY = { owner: { kind: 'take', id: 't&1' }, levelId: 'sky', drawingId: 'd' } as const

/** Elements in document order: name, attributes, in which masks. */
function elements(svg: string) {
  const found: { readonly name: string; readonly attributes: Record<string, string>; readonly within: readonly string[] }[] = []
  const open: string[] = []
  const parser = new SaxesParser()
  parser.on('error', (error) => {
    throw error
  })
  parser.on('opentag', ({ name, attributes }) => {
    const plain = attributes as unknown as Record<string, string>
    found.push({ name, attributes: plain, within: [...open] })
    open.push(plain.mask ?? plain.id ?? name)
  })
  parser.on('closetag', () => void open.pop())
  parser.write(svg).close()
  return found
}
const marksIn = (svg: string) => elements(svg).flatMap(({ attributes }) => (attributes[SVG_SAYS.mark] === undefined ? [] : [svgMark(attributes[SVG_SAYS.mark]!)!])).sort((a, b) => a.order - b.order).map(({ mark }) => mark)
const write = (marks: readonly Mark[], hrefs = new Map<string, string>()) => writeDrawingSvg({ marks } as Drawing, 'Sky & <sea>', 1280, WAY, hrefs)

describe('a drawing as SVG', () => {
  it('carries every mark as it is, whose it is and where it lies', () => {
    const picture: Mark = { id: 'p', order: 'p', kind: 'picture', assetHash: 'a'.repeat(64), widthPx: 100, heightPx: 50, x: 0.1, y: -0.2, widthFw: 0.4, turnDegrees: 30 }
    const marks = [picture, stroke('a'), stroke('b', { mode: 'erase' }), fill('c', { mode: 'behind' }), stroke('d', { points: [0, 0, 0.2, 0.1, 0.1, 0.9, 0.2, 0, 0.4] }), fill('e', { forPrint: true, words: { text: '“Dusk” & <dawn>', font: 'book', align: 'middle', place: [0.1, 0, 0, 0.1, 0, 0] } })]
    const svg = write(marks, new Map([['a'.repeat(64), 'data:image/png;base64,AAAA']]))
    expect(marksIn(svg).map(({ id }) => id)).toEqual(['p', 'a', 'b', 'c', 'd', 'e'])
    marksIn(svg).forEach((mark, i) => expect({ ...mark, order: marks[i]!.order }).toEqual(marks[i]))
    const [root] = elements(svg)
    expect(svgWay(root!.attributes[SVG_SAYS.way]!)).toEqual(WAY)
    const place = svgPlace(root!.attributes[SVG_SAYS.place]!)!
    expect([place.pxPerFw, Number(root!.attributes.width)]).toEqual([1280, expect.closeTo(Number(root!.attributes.viewBox!.split(' ')[2]), 9)])
    expect(elements(svg).find(({ name }) => name === 'title')).toBeDefined()
    // Without its file a picture stays out; nothing else does.
    expect(marksIn(write(marks)).map(({ id }) => id)).toEqual(['a', 'b', 'c', 'd', 'e'])
  })

  it('is what is seen: erasing masks what was there by then, what lies behind stands before it', () => {
    const all = elements(write([stroke('a'), fill('b'), stroke('rub', { mode: 'erase' }), stroke('c'), fill('under', { mode: 'behind' })]))
    const at = (id: string) => all.findIndex(({ attributes }) => attributes[SVG_SAYS.mark]?.includes(`"id":"${id}"`))
    expect(at('under')).toBeLessThan(at('a'))
    expect(at('a')).toBeLessThan(at('b'))
    expect(at('b')).toBeLessThan(at('c'))
    expect([all[at('a')]!.within, all[at('c')]!.within, all[at('under')]!.within].map((within) => within.includes('url(#rubbed-1)'))).toEqual([true, false, false])
    expect(all[at('rub')]!.within).toContain('rubbed-1')
  })

  it('has a line of even pressure as the line it is, as wide as it is drawn', () => {
    for (const [pressure, thinning] of [[0.5, 0.5], [0.5, 0], [0.8, 0.5], [0.3, 0.7]] as const) {
      const { rings, lineFw } = svgShape(stroke('a', { points: [0, 0, pressure, 0.1, 0, pressure, 0.2, 0, pressure], thinning }) as Exclude<Mark, { kind: 'picture' }>)
      expect(rings).toEqual([[0, 0, 0.1, 0, 0.2, 0]])
      const outline = [...strokeOutline([0, 0, pressure, 0.1, 0, pressure, 0.2, 0, pressure], 0.01, thinning)].map((value) => value / OUTLINE_UNITS_PER_FW)
      const [ys] = [outline.filter((_, i) => i % 2 === 1)]
      expect(Math.abs(lineFw! - (Math.max(...ys) - Math.min(...ys)))).toBeLessThan(0.0002)
    }
    expect(svgShape(stroke('a', { points: [0, 0, 0.2, 0.1, 0, 0.9] }) as Exclude<Mark, { kind: 'picture' }>).lineFw).toBeNull()
  })

  it('that says nonsense says nothing', () => {
    expect([svgMark(''), svgMark('{"order":0}'), svgMark('{"kind":"stroke","order":-1}'), svgMark(JSON.stringify({ ...stroke('a'), order: 1.5 })), svgMark(JSON.stringify({ ...stroke('a'), widthFw: -1, order: 1 }))]).toEqual([null, null, null, null, null])
    expect([svgWay('{}'), svgWay('['), svgPlace('0 0 0'), svgPlace('a b c'), svgPlace('1280 0')]).toEqual([null, null, null, null, null])
  })
})

describe('what carries points to others', () => {
  it('is found again, whatever it was', () => {
    fc.assert(
      fc.property(fc.double({ min: -2, max: 2, noNaN: true }).filter((s) => Math.abs(s) > 0.05), fc.double({ min: 0.1, max: 3, noNaN: true }), fc.double({ min: -180, max: 180, noNaN: true }), (sx, sy, degrees) => {
        const from = [{ x: 0, y: 0 }, { x: 0.3, y: 0.1 }, { x: -0.2, y: 0.4 }, { x: 0.1, y: -0.3 }]
        const affine = about({ x: 0.7, y: -0.1 }, sx, sy, degrees)
        const fit = fittedAffine(from, from.map((point) => applyAffine(affine, point)))!
        expect(fit.off).toBeLessThan(1e-9)
        for (const name of ['a', 'b', 'c', 'd', 'e', 'f'] as const) expect(fit.affine[name]).toBeCloseTo(affine[name], 8)
      }),
    )
    // On a line: turned and grown alike.
    const line = fittedAffine([{ x: 0, y: 0 }, { x: 1, y: 0 }], [{ x: 2, y: 1 }, { x: 2, y: 3 }])!
    expect(applyAffine(line.affine, { x: 0.5, y: 0 })).toEqual({ x: 2, y: 2 })
    expect(fittedAffine([{ x: 1, y: 1 }, { x: 1, y: 1 }], [{ x: 0, y: 0 }, { x: 1, y: 0 }])).toBeNull()
    expect(fittedAffine([{ x: 0, y: 0 }, { x: 1, y: 0 }, { x: 0, y: 1 }, { x: 1, y: 1 }], [{ x: 0, y: 0 }, { x: 1, y: 0 }, { x: 0, y: 1 }, { x: 3, y: 3 }])!.off).toBeGreaterThan(0.3)
  })
})

import { describe, expect, it } from 'vitest'
import { level, OPTICS, T } from '../edits/testing'
import { createTakeStage } from '../stage'
import { backgroundSheet, neededOf, needsOfTake, sheetSvg, sightOf, type SheetAsk, type SheetMark, type SheetPage, type SheetPaper } from '.'
import { takeOf, travelling } from './testing'

const stage = createTakeStage(travelling(takeOf([level('sea', 1, 3.2, { y: -0.2, scale: 1.2 })])), OPTICS)
const need = neededOf(['d-sea'], [needsOfTake(stage, T, new Map([['d-sea', { bounds: null, owes: null }]]), 0.05)])!
const sight = sightOf(stage, '040 A', need.seen[0]!)
const ask = (more: Partial<SheetAsk> = {}): SheetAsk => ({ paper: 'a4', words: { title: 'Sea', film: 'Salt Lantern', date: '28 November 2026', about: 'fills the frame' }, need, margin: 0.05, widthPx: 1920, fps: 24, sights: [sight], rough: { left: -2.3, right: 2.3, bottom: -0.25, top: 0.25 }, laid: null, panelAspect: 16 / 9, ...more })
const texts = ({ marks }: SheetPage) => marks.flatMap((mark) => (mark.kind === 'text' ? [mark.text] : []))
const boundsOf = (mark: SheetMark): readonly number[] => (mark.kind === 'picture' ? [mark.x, mark.y, mark.x + mark.width, mark.y + mark.height] : mark.kind === 'text' ? [mark.x, mark.y] : mark.rings.flat())

describe('a background sheet', () => {
  it('says how large, what sees it when and how near, and has every framing at its frame', () => {
    const page = backgroundSheet(ask())
    const said = texts(page)
    const width = Math.ceil((need.box.right - need.box.left) * need.magnification * 1920 - 1e-6).toLocaleString('en')
    expect(said.some((text) => text.startsWith(`${width} × `) && text.includes('5 % margin'))).toBe(true)
    expect(said).toEqual(expect.arrayContaining(['Sea', 'Salt Lantern', '040 A', 'f 0–48', `× ${need.magnification.toFixed(2)} closest`, '040 A 1 · f 0', '040 A 2 · f 48']))
    // Ticks each half second, numbered each whole one.
    expect(said.filter((text) => ['24', '48'].includes(text))).toEqual(['24', '48'])
    expect(said.some((text) => /^[\d.]+ fw = [\d,]+ px$/.test(text))).toBe(true)
  })

  it('keeps everything but a rough on the paper, which lies as what is needed does', () => {
    for (const paper of ['a4', 'a3', 'letter'] as SheetPaper[]) {
      for (const box of [need.box, { left: -0.2, right: 0.2, bottom: -1.4, top: 1.4 }]) {
        const page = backgroundSheet(ask({ paper, rough: null, need: { ...need, box, rings: [[box.left, box.bottom, box.right, box.bottom, box.right, box.top, box.left, box.top]] }, sights: [], laid: box }))
        expect(page.width > page.height).toBe(box === need.box)
        for (const mark of page.marks) {
          const numbers = boundsOf(mark)
          expect(numbers.every((value, i) => value >= 0 && value <= (i % 2 === 0 ? page.width : page.height))).toBe(true)
        }
      }
    }
  })

  it('draws to scale: the need’s outline is as wide as the scale bar says', () => {
    const page = backgroundSheet(ask())
    const lines = page.marks.flatMap((mark) => (mark.kind === 'line' ? [mark] : []))
    const outline = lines.find(({ dash }) => dash?.[0] === 6)!
    const xs = outline.rings.flat().filter((_, i) => i % 2 === 0)
    const [, length] = /^([\d.]+) fw/.exec(texts(page).find((text) => / fw = /.test(text))!)!
    const bar = lines.find(({ width, rings }) => width === 1.2 && rings[0]!.length === 4)!.rings[0]!
    const perFw = (bar[2]! - bar[0]!) / Number(length)
    expect((Math.max(...xs) - Math.min(...xs)) / perFw).toBeCloseTo(need.box.right - need.box.left, 5)
  })

  it('is an SVG in which words are words, with nothing in them that is read as more', () => {
    const page = backgroundSheet(ask({ words: { title: 'Sea <b>&"', film: 'F', date: 'd', about: 'a\u0007' } }))
    const svg = sheetSvg(page, new Map([['panel', 'data:image/png;base64,AAAA']]))
    expect(svg).toContain('Sea &#60;b&#62;&#38;&#34;')
    expect(svg).not.toContain('\u0007')
    expect(svg.match(/<image /g)).toHaveLength(1)
    expect(svg.match(/<text /g)!.length).toBe(texts(page).length)
    expect(svg).not.toMatch(/NaN|Infinity|undefined/)
  })
})

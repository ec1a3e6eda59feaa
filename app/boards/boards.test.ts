import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { pictureSide } from '#shared/assets'
import { cardsInRow, cardSize, layBoard, rowOfPanel } from './boardRows'
import { droppedFiles, inNameOrder, sortOf } from './droppedFiles'
import { fwPerPx, placeOf } from './fitPicture'
import { layPage, paginate, wrapText } from './printLayout'
import { scriptText } from './scriptFile'

const SIZE = cardSize('medium', 16 / 9)
const shot = (n: number, sequenceId: string, panelCount: number) => ({ shotId: `s${n}`, takeId: `t${n}`, sequenceId, panelCount })

describe('the board page', () => {
  it('has a row for each sequence and shot, and as many for panels as they need', () => {
    const rows = layBoard(['a', 'b', 'c'], [shot(1, 'a', 5), shot(2, 'c', 4)], 4, SIZE)
    expect(rows.map((row) => (row.kind === 'panels' ? [row.shotIndex, row.from, row.to, row.last] : row.kind))).toEqual(['sequence', 'head', [0, 0, 4, false], [0, 4, 5, true], 'sequence', 'sequence', 'head', [1, 0, 4, true]])
    expect(rows.map((row) => row.kind === 'sequence' && row.empty)).toEqual([false, false, false, false, true, false, false, false])
    expect(rowOfPanel(rows, 0, 4)).toBe(3)
    expect(rowOfPanel(rows, 1, 9)).toBe(7)
  })

  it('shows every panel once, whatever the width', () => {
    fc.assert(
      fc.property(fc.array(fc.integer({ min: 1, max: 40 }), { maxLength: 12 }), fc.integer({ min: 100, max: 3000 }), (counts, width) => {
        const rows = layBoard(['a'], counts.map((count, i) => shot(i, 'a', count)), cardsInRow(width, SIZE), SIZE)
        const seen = rows.flatMap((row) => (row.kind === 'panels' ? Array.from({ length: row.to - row.from }, (_, i) => `${row.shotIndex}.${row.from + i}`) : []))
        expect(seen).toEqual(counts.flatMap((count, i) => Array.from({ length: count }, (_, p) => `${i}.${p}`)))
        expect(rows.every((row) => row.heightPx > 0)).toBe(true)
      }),
    )
  })

  it('fits four medium cards beside each other where both panes are open at 1280', () => {
    expect(cardsInRow(764, SIZE)).toBe(4)
    expect(cardsInRow(10, SIZE)).toBe(1)
  })
})

describe('a printed page', () => {
  it('keeps every cell inside the margins, and pictures at their aspect', () => {
    for (const perPage of [1, 3, 6, 9] as const) {
      for (const landscape of [true, false]) {
        for (const aspect of [2.39, 16 / 9, 1, 9 / 16]) {
          const page = layPage({ paper: 'a4', landscape, perPage }, aspect)
          expect(page.cells).toHaveLength(perPage)
          for (const { picture, words } of page.cells) {
            expect(picture.width / picture.height).toBeCloseTo(aspect, 6)
            for (const box of [picture, words]) {
              expect(box.x).toBeGreaterThanOrEqual(36 - 1e-9)
              expect(box.x + box.width).toBeLessThanOrEqual(page.width - 36 + 1e-6)
              expect(box.y + box.height).toBeLessThanOrEqual(page.footer.y + 1e-6)
              expect(Math.min(box.width, box.height)).toBeGreaterThan(20)
            }
          }
        }
      }
    }
  })

  it('holds one sequence where that is asked for', () => {
    const panels = ['a', 'a', 'a', 'b', 'b'].map((sequenceId, i) => ({ sequenceId, i }))
    expect(paginate(panels, 2, true).map((page) => page.map(({ i }) => i))).toEqual([[0, 1], [2], [3, 4]])
    expect(paginate(panels, 2, false).map((page) => page.map(({ i }) => i))).toEqual([[0, 1], [2, 3], [4]])
  })

  it('breaks words at spaces, long ones inside, and ends what does not fit with an ellipsis', () => {
    const measure = (text: string) => text.length
    expect(wrapText('mind the lamp now', 8, 9, measure)).toEqual(['mind the', 'lamp now'])
    expect(wrapText('a\n\nb', 8, 9, measure)).toEqual(['a', 'b'])
    expect(wrapText('abcdefghij k', 4, 9, measure)).toEqual(['abcd', 'efgh', 'ij k'])
    expect(wrapText('mind the lamp now and then', 8, 2, measure)).toEqual(['mind the', 'lamp no…'])
    fc.assert(fc.property(fc.string(), fc.integer({ min: 1, max: 12 }), (text, width) => void expect(wrapText(text, width, 99, (each) => [...each].length).every((line) => [...line].length <= width)).toBe(true)))
  })
})

describe('what is brought in', () => {
  const output = { widthPx: 1280, heightPx: 720 }

  it('is fitted into the frame, over it, or pixel for pixel', () => {
    const wide = { widthPx: 2000, heightPx: 1000 }
    // 2 : 1 in 16 : 9 is as wide as the frame; to fill it, as high: 0.5625 fw over 1000 px.
    expect(fwPerPx('frame', wide, output) * 2000).toBeCloseTo(1, 9)
    expect(fwPerPx('fill', wide, output) * 1000).toBeCloseTo(0.5625, 9)
    expect(fwPerPx('pixels', wide, output)).toBe(1 / 1280)
    expect(placeOf({ x: 1000, y: 0, widthPx: 1000, heightPx: 1000 }, wide, 1 / 2000)).toEqual({ x: 0.25, y: -0, widthFw: 0.5 })
  })

  it('is in name order as people count, and sorted by what it seems to be', () => {
    const files = ['10.png', 'b.ora', '2.PNG', 'x.fountain', 'y.pdf', 'z.svg'].map((name) => new File(['x'], name))
    expect(inNameOrder(files).map((file) => file.name)).toEqual(['2.PNG', '10.png', 'b.ora', 'x.fountain', 'y.pdf', 'z.svg'])
    expect(files.map(sortOf)).toEqual(['picture', 'layered', 'picture', 'script', 'other', 'lines'])
  })

  it('is found in folders too, however many a folder hands over at once, and hidden files are left', async () => {
    const file = (name: string, fullPath: string) => ({ name, fullPath, isFile: true, isDirectory: false, file: (give: (file: File) => void) => give(new File(['x'], name)) })
    const folder = (name: string, parts: object[][]) => ({ name, fullPath: `/${name}`, isFile: false, isDirectory: true, createReader: () => ({ readEntries: (give: (part: object[]) => void) => give(parts.shift() ?? []) }) })
    const entries = [folder('set', [[file('10.png', '/set/10.png'), file('.hidden', '/set/.hidden')], [file('9.png', '/set/9.png')]]), file('a.png', '/a.png')]
    const transfer = { items: entries.map((entry) => ({ kind: 'file', webkitGetAsEntry: () => entry })), files: [] } as unknown as DataTransfer
    expect((await droppedFiles(transfer)).map((each) => each.name)).toEqual(['a.png', '9.png', '10.png'])
  })

  it('is fetched no larger than it is shown, and never larger than it is', () => {
    const picture = { widthPx: 4000, heightPx: 3000 }
    expect([100, 256, 257, 2049, 4000, 9000].map((needed) => pictureSide(picture, needed))).toEqual([256, 256, 512, null, null, null])
    expect(pictureSide({ widthPx: 200, heightPx: 100 }, 50)).toBeNull()
    expect(pictureSide({ widthPx: 8192, heightPx: 10 }, 3000)).toBe(4096)
  })
})

describe('a script file', () => {
  const bytes = (...parts: (string | number[])[]) => new Uint8Array(parts.flatMap((part) => (typeof part === 'string' ? [...new TextEncoder().encode(part)] : part)))

  it('is read in the usual encodings, and what was guessed is told', () => {
    expect(scriptText(bytes('INT. CAFÉ'))).toEqual({ text: 'INT. CAFÉ', note: null })
    expect(scriptText(bytes([0xff, 0xfe, 0x41, 0, 0x42, 0])).text).toBe('AB')
    expect(scriptText(bytes('CAF', [0xc9]))).toMatchObject({ text: 'CAFÉ', note: /not UTF-8/ })
  })

  it.each([
    ['a PDF', bytes('%PDF-1.7'), /PDF/],
    ['a packed document', bytes('PK', [3, 4]), /packed/],
    ['bytes', bytes([1, 0, 2]), /not a text file/],
    ['marked-up text', bytes('<?xml version="1.0"?><script/>'), /marked-up/],
    ['more than a script', new Uint8Array(5 * 1024 * 1024 + 1), /larger than 5 MB/],
  ])('that is %s is refused', (_, given, reason) => {
    expect(() => scriptText(given)).toThrow(reason)
  })
})

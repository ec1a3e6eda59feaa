import { describe, expect, it } from 'vitest'
import { droppedFiles, inNameOrder, MOST_FILES, sortOf } from './droppedFiles'
import { fwPerPx, placeOf } from './fitPicture'

const file = (name: string) => new File([name], name)
const names = (files: readonly File[]) => files.map((each) => each.name)

type Tree = { readonly [name: string]: Tree | null }
/** A file or folder as a browser gives it; folders tell their entries a few at a time. */
function entryOf(name: string, tree: Tree | null, path = ''): object {
  const fullPath = `${path}/${name}`
  if (tree === null) return { name, fullPath, isFile: true, file: (done: (file: File) => void) => done(file(name)) }
  const left = Object.entries(tree).map(([each, inner]) => entryOf(each, inner, fullPath))
  return { name, fullPath, isFile: false, createReader: () => ({ readEntries: (done: (entries: object[]) => void) => done(left.splice(0, 2)) }) }
}
const dropOf = (...entries: readonly object[]) => ({ items: entries.map((entry) => ({ kind: 'file', webkitGetAsEntry: () => entry })), files: [] }) as unknown as DataTransfer

describe('dropped files', () => {
  it('come in name order as one counts, those in folders too; hidden ones are left', async () => {
    const drop = dropOf(entryOf('10.png', null), entryOf('2.png', null), entryOf('boards', { '3.png': null, '.trash': null, deep: { 'b.png': null, 'A.png': null }, '1.png': null }), entryOf('.hidden', null))
    expect(names(await droppedFiles(drop))).toEqual(['2.png', '10.png', '1.png', '3.png', 'A.png', 'b.png'])
  })

  it('are those that were told of where folders can’t be', async () => {
    const plain = { items: [], files: [file('b 10'), file('B 9')] } as unknown as DataTransfer
    expect(names(await droppedFiles(plain))).toEqual(['B 9', 'b 10'])
    expect(names(inNameOrder([file('x2'), file('x10'), file('x1')]))).toEqual(['x1', 'x2', 'x10'])
  })

  it('beyond the most are not walked through', async () => {
    const many = Object.fromEntries(Array.from({ length: MOST_FILES + 500 }, (_, i) => [`${i}.png`, null]))
    expect((await droppedFiles(dropOf(entryOf('many', many)))).length).toBe(MOST_FILES + 1)
  })

  it('are sorted by what their names say they are', () => {
    const sorts = { 'A.PNG': 'picture', 'b.jpeg': 'picture', 'c.webp': 'picture', 'lines.SVG': 'lines', 'stack.ora': 'layered', 'film.fountain': 'script', 'notes.txt': 'script', 'holiday.exe': 'other', png: 'picture', '': 'other' }
    for (const [name, sort] of Object.entries(sorts)) expect(sortOf(file(name)), name).toBe(sort)
  })
})

describe('a picture that is brought in', () => {
  const output = { widthPx: 1920, heightPx: 1080 }
  it('is whole in the frame, fills it, or is as large as its pixels', () => {
    const tall = { widthPx: 1000, heightPx: 2000 }
    expect(tall.heightPx * fwPerPx('frame', tall, output)).toBeCloseTo(9 / 16, 12)
    expect(tall.widthPx * fwPerPx('fill', tall, output)).toBeCloseTo(1, 12)
    expect(fwPerPx('pixels', tall, output)).toBe(1 / 1920)
    const wide = { widthPx: 4000, heightPx: 1000 }
    expect(wide.widthPx * fwPerPx('frame', wide, output)).toBeCloseTo(1, 12)
    expect(wide.heightPx * fwPerPx('fill', wide, output)).toBeCloseTo(9 / 16, 12)
  })

  it('keeps its layers where they lie in it, up being up', () => {
    const canvas = { widthPx: 200, heightPx: 100 }
    expect(placeOf({ x: 0, y: 0, widthPx: 200, heightPx: 100 }, canvas, 1 / 200)).toEqual({ x: 0, y: -0, widthFw: 1 })
    expect(placeOf({ x: 150, y: 0, widthPx: 50, heightPx: 20 }, canvas, 0.01)).toEqual({ x: 0.75, y: 0.4, widthFw: 0.5 })
  })
})

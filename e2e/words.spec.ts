import { readFileSync } from 'node:fs'
import sharp from 'sharp'
import { arrive } from './day'
import { address, bodyOf, drawingsOf, expect, makeFilm, test } from './desk'
import { dark, onPaper, type Paper } from './paper'

interface SetMark {
  readonly id: string
  readonly kind: string
  readonly colour: string
  readonly outlines: number[][]
  readonly forPrint?: true
  readonly words?: { readonly text: string; readonly font: string; readonly align: string; readonly place: number[] }
  readonly arrow?: { readonly points: number[]; readonly widthFw: number; readonly taper: number; readonly heads: string }
}
/** An empty level, and one of paint under it. */
const FILM = { levels: [{ id: 'near', colour: '#c2452d', box: [-0.45, -0.25, -0.44, -0.24] as const, depth: 0 }, { id: 'far', colour: '#e4dfd2', box: [-0.6, -0.4, 0.6, 0.4] as const, depth: 0 }] }
async function marksOf(paper: Paper, film: { readonly projectId: string; readonly takeId: string }): Promise<SetMark[]> {
  await paper.savedNow()
  const cells = Object.values<{ levelId: string; drawingId: string }>((await bodyOf(film)).cells).filter(({ levelId }) => levelId === 'near')
  const [found] = await drawingsOf(film.projectId, [cells[0]!.drawingId])
  return (found.drawing.marks as SetMark[]).filter(({ words, arrow }) => words !== undefined || arrow !== undefined)
}
const edges = (outlines: readonly (readonly number[])[]) => {
  const [xs, ys] = [0, 1].map((side) => outlines.flatMap((ring) => ring.filter((_, i) => i % 2 === side))) as [number[], number[]]
  return { left: Math.min(...xs), right: Math.max(...xs), bottom: Math.min(...ys), top: Math.max(...ys) }
}
async function press(paper: Paper, u: number, v: number) {
  const { x, y } = await paper.at(u, v)
  await paper.page.mouse.click(x, y)
}
/** The first picture on a printed page. */
const pictureOf = (pdf: Buffer) => sharp(pdf.subarray(pdf.indexOf(Buffer.from([0xff, 0xd8, 0xff])))).removeAlpha().raw().toBuffer({ resolveWithObject: true })

test('words are written where one presses, seen as they will be, kept, and changed as words', async ({ page }) => {
  const film = await makeFilm(FILM)
  const paper = await onPaper(page, film)
  await paper.level('near').click()
  await page.keyboard.press('w')
  await press(paper, -0.3, 0.1)
  const editor = page.getByTestId('words')
  await expect(editor.getByRole('textbox', { name: 'Words' })).toBeFocused()
  await page.keyboard.type('Ill')
  await expect(page.getByTestId('words-shown').locator('.letters')).toHaveAttribute('d', /M.*Z/)
  await editor.getByRole('spinbutton', { name: 'Size' }).or(editor.getByLabel('Size')).first().fill('48')
  await page.keyboard.press('Enter')
  await page.keyboard.press('Control+Enter')
  await expect(page.getByRole('button', { name: 'Undo words “Ill” on near' })).toBeVisible()
  await expect(editor).toHaveCount(0)
  const [mark] = await marksOf(paper, film)
  expect(mark!.words).toMatchObject({ text: 'Ill', font: 'plain', align: 'start' })
  // 48 px of a picture 480 wide: an em of a tenth of a fw, whose capitals are some 0.7 of it.
  expect(Math.hypot(mark!.words!.place[2]!, mark!.words!.place[3]!)).toBeCloseTo(0.1, 4)
  const box = edges(mark!.outlines)
  expect([box.left > -0.31, box.left < -0.28, box.top - box.bottom > 0.06, box.top - box.bottom < 0.085]).toEqual([true, true, true, true])
  // It is ink in the picture: the I’s stem.
  const stem = [box.left + 0.006, (box.top + box.bottom) / 2] as const
  await expect.poll(async () => dark(await paper.pixel(...stem))).toBe(true)

  // Pressed again it is changed; Escape leaves it as it was.
  await press(paper, ...stem)
  await expect(editor.getByRole('textbox', { name: 'Words' })).toHaveValue('Ill')
  await page.keyboard.type('x')
  await page.keyboard.press('Escape')
  expect((await marksOf(paper, film))[0]).toEqual(mark)
  await press(paper, ...stem)
  await editor.getByRole('button', { name: 'Typewriter' }).click()
  await editor.getByRole('button', { name: 'Tone #c2452d' }).click()
  await editor.getByRole('button', { name: 'Keep' }).click()
  await expect(page.getByRole('button', { name: 'Undo change words “Ill” on near' })).toBeVisible()
  const [changed, ...more] = await marksOf(paper, film)
  expect([changed!.id, changed!.words!.font, changed!.colour, more.length]).toEqual([mark!.id, 'typed', '#c2452d', 0])
  await page.keyboard.press('Control+z')
  expect((await marksOf(paper, film))[0]).toEqual(mark)

  // Turned by the selection’s knob they are words still, and say how far they are turned.
  await page.keyboard.press('a')
  await press(paper, ...stem)
  const knob = (await page.getByTestId('selection-knob').boundingBox())!
  const middle = await paper.at((box.left + box.right) / 2, (box.bottom + box.top) / 2)
  await page.mouse.move(knob.x + 6, knob.y + 6)
  await page.mouse.down()
  await page.mouse.move(middle.x + 120, middle.y + 2, { steps: 5 })
  await page.keyboard.down('Shift')
  await page.mouse.move(middle.x + 121, middle.y, { steps: 2 })
  await page.mouse.up()
  await page.keyboard.up('Shift')
  await page.getByRole('button', { name: 'Edit words' }).click()
  await expect(editor.getByLabel('Turn')).toHaveValue('−90')
  // Emptied, they are taken out.
  await editor.getByRole('textbox', { name: 'Words' }).fill('')
  await editor.getByRole('button', { name: 'Keep' }).click()
  await expect(page.getByRole('button', { name: 'Undo take words out of near' })).toBeVisible()
  expect(await marksOf(paper, film)).toEqual([])
})

test('an arrow is dragged out, bent by its middle, drawn as it bends, and changed from the tray', async ({ page }) => {
  const film = await makeFilm(FILM)
  const paper = await onPaper(page, film, { 'rubato.arrow': { widthFw: 0.02, bent: false, tapers: false, both: false, forPrint: false } })
  await paper.level('near').click()
  await page.keyboard.press('Shift+w')
  await paper.stroke([-0.2, 0], [0.2, 0])
  await expect(page.getByRole('button', { name: 'Undo arrow on near' })).toBeVisible()
  const [straight] = await marksOf(paper, film)
  expect(straight!.arrow!.points.map((value) => Math.round(value * 100) / 100)).toEqual([-0.2, 0, 0.2, 0])
  const shaft = edges(straight!.outlines)
  expect([shaft.left, shaft.right, shaft.top - shaft.bottom]).toEqual([expect.closeTo(-0.2, 2), expect.closeTo(0.2, 2), expect.closeTo(0.068, 3)])
  await expect.poll(async () => dark(await paper.pixel(0, 0))).toBe(true)

  const points = page.getByTestId('arrow-point')
  await expect(points).toHaveCount(3)
  await paper.drag(await paper.at(0, 0), await paper.at(0, 0.1))
  await expect(page.getByRole('button', { name: 'Undo bend an arrow on near' })).toBeVisible()
  const [bent] = await marksOf(paper, film)
  expect(bent!.arrow!.points.map((value) => Math.round(value * 10) / 10 + 0)).toEqual([-0.2, 0, 0, 0.1, 0.2, 0])
  await expect.poll(async () => [dark(await paper.pixel(0, 0)), dark(await paper.pixel(0, 0.1))]).toEqual([false, true])

  const tray = page.getByTestId('arrow-look')
  await tray.getByRole('button', { name: 'both ends' }).click()
  expect((await marksOf(paper, film))[0]!.arrow!.heads).toBe('both')
  await page.keyboard.press('Control+z')
  expect((await marksOf(paper, film))[0]!.arrow!.heads).toBe('tip')
  await page.keyboard.press('Escape')
  await tray.getByRole('button', { name: 'as drawn' }).click()
  await paper.stroke([-0.2, -0.15], [-0.05, -0.05], [0.1, -0.15], [0.2, -0.05])
  await expect(page.getByRole('button', { name: 'Undo arrow on near' })).toBeVisible()
  const [, drawn] = await marksOf(paper, film)
  expect(drawn!.arrow!.points.length).toBeGreaterThanOrEqual(8)
  expect(drawn!.arrow!.points.length).toBeLessThanOrEqual(16)
})

test('what is for print alone is on the paper and on printed boards, and in no picture', async ({ page }) => {
  const film = await makeFilm(FILM)
  const paper = await onPaper(page, film, { 'rubato.arrow': { widthFw: 0.03, bent: false, tapers: false, both: false, forPrint: true } })
  await paper.level('near').click()
  const before = await paper.picture()
  await page.keyboard.press('Shift+w')
  await paper.stroke([-0.2, 0], [0.25, 0])
  await expect(page.getByTestId('print-notes').locator('path')).toHaveCount(1)
  expect((await marksOf(paper, film))[0]!.forPrint).toBe(true)
  expect(await paper.picture()).toBe(before)

  await arrive(page, `${address()}/film/${film.projectId}?view=boards`)
  const print = async (notes: boolean) => {
    await page.getByRole('button', { name: 'Print boards…' }).click()
    const dialog = page.getByTestId('print-dialog')
    await dialog.getByLabel('1', { exact: true }).check()
    await dialog.getByLabel('words and arrows for print').setChecked(notes)
    const download = page.waitForEvent('download')
    await dialog.getByRole('button', { name: 'Print', exact: true }).click()
    const { data, info } = await pictureOf(readFileSync((await (await download).path())!))
    await dialog.getByRole('button', { name: 'Close' }).last().click()
    return data[(Math.round(info.height / 2) * info.width + Math.round(info.width / 2)) * 3]!
  }
  expect(await print(true)).toBeLessThan(60)
  expect(await print(false)).toBeGreaterThan(200)
})

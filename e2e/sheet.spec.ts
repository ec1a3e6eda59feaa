import type { Page } from '@playwright/test'
import { readFileSync } from 'node:fs'
import { bodyOf, Desk, expect, makeFilm, test } from './desk'
import { dark, Paper } from './paper'
import { COLUMN_PX, HEAD_PX, LEFT_PX, ROW_PX } from '../app/exposures/sheetScale'

type Film = Awaited<ReturnType<typeof makeFilm>>
interface Cell { readonly levelId: string; readonly panelId: string; readonly offsetFrames?: number; readonly drawingId: string | null }

/** A level's exposures as "panel+offset name", in time order. */
async function exposed(film: Film, levelId = 'near'): Promise<string[]> {
  const body = await bodyOf(film)
  const names = new Map(Object.values<{ levelId: string; drawingId: string; name: string }>(body.levelDrawings).map((each) => [each.drawingId, each.name]))
  return Object.values<Cell>(body.cells)
    .filter((cell) => cell.levelId === levelId)
    .map(({ panelId, offsetFrames = 0, drawingId }) => ({ at: Number(panelId.slice(1)) * 1e6 + offsetFrames, text: `${panelId}+${offsetFrames} ${drawingId === null ? '-' : (names.get(drawingId) ?? '1')}` }))
    .sort((a, b) => a.at - b.at)
    .map(({ text }) => text)
}

async function openSheet(page: Page, plan: Parameters<typeof makeFilm>[0] = {}) {
  const film = await makeFilm(plan)
  const desk = new Desk(page)
  await desk.open(film.projectId)
  await page.locator('[data-level=near]').click()
  await page.getByRole('button', { name: 'Draw', exact: true }).click()
  await page.keyboard.press('v')
  const pane = page.getByTestId('exposure-sheet')
  await expect(pane).toBeFocused()
  const box = (await pane.boundingBox())!
  const at = (column: number, frame: number, part = 0.5) => ({ x: box.x + LEFT_PX + column * COLUMN_PX + COLUMN_PX / 2, y: box.y + HEAD_PX + (frame + part) * ROW_PX })
  const click = (column: number, frame: number) => page.mouse.click(at(column, frame).x, at(column, frame).y)
  const drag = async (from: { x: number; y: number }, to: { x: number; y: number }) => {
    await page.mouse.move(from.x, from.y)
    await page.mouse.down()
    await page.mouse.move(to.x, to.y, { steps: 5 })
    await page.mouse.up()
  }
  return { film, desk, pane, at, click, drag }
}
const told = (page: Page) => page.getByText(/^near, frame /)

test('drawings are typed down the sheet on 2s, new ones made in one key, and each step undoes by its name', async ({ page }) => {
  const { film, desk } = await openSheet(page)
  for (const frame of [2, 4]) {
    await page.keyboard.press('Enter')
    await expect(told(page)).toHaveText(`near, frame ${frame}: drawing ${frame / 2}`)
    await page.keyboard.press('i')
    await expect(told(page)).toHaveText(`near, frame ${frame}: drawing ${frame / 2 + 1}`)
  }
  await page.keyboard.press('Enter')
  for (const name of ['1', '2', '3']) {
    await page.keyboard.type(name)
    await page.keyboard.press('Enter')
  }
  await expect(told(page)).toHaveText('near, frame 12: drawing 3')
  await desk.savedNow()
  expect(await exposed(film)).toEqual(['p1+0 1', 'p1+2 2', 'p1+4 3', 'p1+6 1', 'p1+8 2', 'p1+10 3'])
  await expect(page.getByRole('button', { name: 'Undo expose near 3, f 10' })).toBeVisible()
  await page.keyboard.press('Control+z')
  await desk.savedNow()
  expect(await exposed(film)).toEqual(['p1+0 1', 'p1+2 2', 'p1+4 3', 'p1+6 1', 'p1+8 2'])
  // A name that is none is told, and nothing is written.
  await page.keyboard.type('9')
  await page.keyboard.press('Enter')
  await expect(page.getByText('near has no drawing 9. It has 1, 2, 3; make a new one here with I.')).toBeVisible()
  // The level’s row in the rack says which drawing it is.
  await page.keyboard.press('Escape')
  await page.keyboard.press('v')
  await expect(page.locator('[data-draw-level=near]')).toContainText('drawing')
})

test('runs are dragged longer, chosen frames repeated, reversed, put on 3s, shifted, held, blanked; frames go in and out', async ({ page }) => {
  const { film, desk, at, click, drag } = await openSheet(page, { panels: [24, 12] })
  await page.keyboard.press('Enter')
  await page.keyboard.press('i')
  await page.keyboard.press('Enter')
  await page.keyboard.press('i')
  await desk.savedNow()
  expect(await exposed(film)).toEqual(['p1+0 1', 'p1+2 2', 'p1+4 3'])
  const now = async (wanted: readonly string[]) => {
    await desk.savedNow()
    await expect.poll(() => exposed(film)).toEqual(wanted)
  }
  // The end of drawing 2: what comes after gives the time; with Shift it moves along.
  await click(0, 2)
  await drag(at(0, 4, 0), at(0, 7, 0))
  await now(['p1+0 1', 'p1+2 2', 'p1+7 3'])
  await page.keyboard.press('Control+z')
  await now(['p1+0 1', 'p1+2 2', 'p1+4 3'])
  // Six frames, over and over to the panel’s end.
  await drag(at(0, 0), at(0, 5))
  await page.getByRole('button', { name: 'Repeat', exact: true }).click()
  await now(Array.from({ length: 12 }, (_, i) => `p1+${i * 2} ${(i % 3) + 1}`))
  await page.keyboard.press('Control+z')
  await drag(at(0, 0), at(0, 5))
  await page.getByRole('button', { name: 'There and back' }).click()
  // The panel after held 3, and still shows it.
  await now([...Array.from({ length: 12 }, (_, i) => `p1+${i * 2} ${[1, 2, 3, 2][i % 4]}`), 'p2+0 3'])
  await page.keyboard.press('Control+z')
  await drag(at(0, 0), at(0, 5))
  await page.getByRole('button', { name: 'Reverse' }).click()
  await now(['p1+0 3', 'p1+2 2', 'p1+4 1', 'p1+6 3'])
  await page.getByRole('group', { name: 'Each drawing on' }).getByText('3s').click()
  await now(['p1+0 3', 'p1+3 2', 'p1+6 1', 'p1+9 3'])
  await click(0, 6)
  await page.keyboard.press('Insert')
  await now(['p1+0 3', 'p1+3 2', 'p1+7 1', 'p1+10 3'])
  await click(0, 3)
  await page.keyboard.press('Shift+ArrowDown')
  await page.keyboard.press('Shift+Delete')
  await now(['p1+0 3', 'p1+3 2', 'p1+5 1', 'p1+8 3'])
  await click(0, 5)
  await page.keyboard.press('Alt+ArrowDown')
  await now(['p1+0 3', 'p1+3 2', 'p1+6 1', 'p1+9 3'])
  await page.keyboard.press('Delete')
  await now(['p1+0 3', 'p1+3 2', 'p1+9 3'])
  await page.keyboard.type('0')
  await page.keyboard.press('Enter')
  await now(['p1+0 3', 'p1+3 2', 'p1+6 -', 'p1+9 3'])
  // Copied and pasted; the dot of several chosen frames fills on with them.
  await drag(at(0, 0), at(0, 3))
  await page.keyboard.press('Control+c')
  await click(0, 12)
  await page.keyboard.press('Control+v')
  await now(['p1+0 3', 'p1+3 2', 'p1+6 -', 'p1+9 3', 'p1+15 2', 'p1+16 3'])
  await expect(page.getByTestId('sheet-holds')).toHaveText('Holds 3 past panel 1, from f 24.')
})

test('exposures go out as CSV and come in again; a wrong row is named and nothing is taken', async ({ page }) => {
  const { film, desk } = await openSheet(page)
  await page.keyboard.press('Enter')
  await page.keyboard.press('i')
  await desk.savedNow()
  const [download] = await Promise.all([page.waitForEvent('download'), page.getByRole('button', { name: 'Out', exact: true }).click()])
  expect(download.suggestedFilename()).toBe('Shapes 010 exposures.csv')
  expect(readFileSync((await download.path())!, 'utf8')).toBe('frame,level,drawing\r\n0,near,1\r\n2,near,2\r\n0,far,1\r\n')
  const bring = (text: string) => page.getByTestId('sheet-file').setInputFiles({ name: 'run.csv', mimeType: 'text/csv', buffer: Buffer.from(text) })
  await bring('frame,level,drawing\n0,near,2\n4,near,7\n')
  await expect(page.getByText('run.csv was not taken, and nothing is changed. Row 3: “near” has no drawing “7”.')).toBeVisible()
  expect(await exposed(film)).toEqual(['p1+0 1', 'p1+2 2'])
  await bring('frame,level,drawing\n0,near,2\n4,near,1\n30,near,\n')
  await expect(page.getByRole('button', { name: 'Undo exposures from run.csv' })).toBeVisible()
  await desk.savedNow()
  expect(await exposed(film)).toEqual(['p1+0 2', 'p1+4 1', 'p2+6 -'])
})

test('ink goes into the drawing at the playhead; its neighbours show through; all its exposures are one', async ({ page }) => {
  const { film, desk } = await openSheet(page, { levels: [{ id: 'near', colour: '#c2452d', box: [-0.1, -0.1, 0.1, 0.1], depth: 0 }] })
  await page.keyboard.press('Enter')
  await page.keyboard.press('i')
  await page.keyboard.press('v')
  const paper = new Paper(page)
  await expect(page.getByTestId('paper')).toBeVisible()
  // The drawing before shows through, blue and faint, where this one is empty yet.
  await expect.poll(async () => (await paper.pixel(0, 0))[0]).toBeLessThan(250)
  await page.keyboard.press('2')
  await paper.stroke([-0.3, 0.2], [-0.1, 0.2], [-0.1, 0.05])
  await expect.poll(async () => dark(await paper.pixel(-0.2, 0.2))).toBe(true)
  await desk.savedNow()
  expect(await exposed(film)).toEqual(['p1+0 1', 'p1+2 2'])
  // Reloaded it is there, on its frames and on no other.
  await desk.open(film.projectId)
  const ink = async () => (await desk.pixel(-0.2, 0.2))[0]! < 120
  await expect.poll(ink).toBe(false)
  for (const [key, shows] of [['.', false], ['.', true], ['.', true], [',', true], [',', false]] as const) {
    await page.keyboard.press(key)
    await expect.poll(ink).toBe(shows)
  }
})

test('a sheet of 10,000 frames and 100 levels scrolls to any place, and shows what is there', async ({ page }) => {
  const levels = Array.from({ length: 100 }, (_, i) => ({ id: i === 0 ? 'near' : `l${i}`, name: i === 0 ? 'near' : `Level ${i}`, colour: '#c2452d', box: [-0.1, -0.1, 0.1, 0.1] as const, depth: i / 10 }))
  const { pane } = await openSheet(page, { levels, panels: [9000, 1000] })
  await expect(pane).toHaveAttribute('data-rows', '10000')
  await pane.evaluate((element) => element.scrollTo({ top: 1e7, left: 1e7 }))
  const box = (await pane.boundingBox())!
  await page.mouse.click(box.x + 400, box.y + box.height - 30)
  await expect(page.getByText(/^Level 9\d, frame 999\d: drawing 1$/)).toBeVisible()
})

test('held, Shift F runs through the drawings around at the film’s rate, and F goes to the one before', async ({ page }) => {
  await openSheet(page, { levels: [{ id: 'near', colour: '#c2452d', box: [-0.1, -0.1, 0.1, 0.1], depth: 0 }] })
  await page.keyboard.press('Enter')
  await page.keyboard.press('i')
  await page.keyboard.press('v')
  const paper = new Paper(page)
  await page.keyboard.press('j')
  const isRed = async () => (await paper.pixel(0, 0))[1]! < 150
  await expect.poll(isRed).toBe(false)
  for (const keys of [['Shift', 'F'], ['f']]) {
    for (const key of keys) await page.keyboard.down(key)
    // The first drawing comes and goes, and this one is seen again between.
    await expect.poll(isRed, { intervals: [10] }).toBe(true)
    await expect.poll(isRed, { intervals: [10] }).toBe(false)
    await expect.poll(isRed, { intervals: [10] }).toBe(true)
    for (const key of keys.reverse()) await page.keyboard.up(key)
    await expect.poll(isRed).toBe(false)
  }
})

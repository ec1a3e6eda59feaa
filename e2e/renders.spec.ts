import { unzipSync } from 'fflate'
import { readFileSync } from 'node:fs'
import type { Locator, Page } from '@playwright/test'
import { startTestWorker, type ServerProcess } from '../server/test/testServer'
import { Desk, expect, test } from './desk'
import { exportAs, framesOf, onlyFormat, onsets, soundOf } from './exporting'
import { addClips, addLane, change, claps, clip, flashFilm, lane, twoShots, uploadSound, wav } from './soundFilm'

// A worker starts a browser of its own, and paints as fast as the machine lets it.
test.describe.configure({ timeout: 300_000 })
let worker: ServerProcess
test.beforeAll(async () => {
  worker = await startTestWorker({ databaseUrl: process.env.RUBATO_E2E_DATABASE!, storage: process.env.RUBATO_E2E_STORAGE! })
})
test.afterAll(() => worker.stop())

async function opened(page: Page, format: string, what = 'Whole film'): Promise<Locator> {
  await page.getByRole('button', { name: 'Hand over…' }).click()
  const dialog = page.getByRole('dialog')
  await onlyFormat(dialog, format)
  await dialog.getByRole('combobox', { name: 'What' }).click()
  await page.getByRole('option', { name: what }).click()
  return dialog
}
async function onServer(page: Page, dialog: Locator) {
  await dialog.getByRole('combobox', { name: 'Made where' }).click()
  await page.getByRole('option', { name: 'On the server' }).click()
  await dialog.getByRole('button', { name: 'Make it on the server' }).click()
}
async function saved(page: Page, dialog: Locator) {
  const save = dialog.getByTestId('render').first().getByRole('link', { name: /^Save/ })
  await expect(save).toBeVisible({ timeout: 240_000 })
  const download = page.waitForEvent('download')
  await save.click()
  return (await (await download).path())!
}

test('a picture made by a worker is the one that the window makes, byte for byte, and the window may be closed meanwhile', async ({ page, context }) => {
  const film = await twoShots()
  await new Desk(page).open(film.projectId)
  const here = await exportAs(page, { format: 'Numbered pictures (PNG, zipped)', what: 'Whole film' })
  await page.getByRole('dialog').getByRole('button', { name: 'Close' }).first().click()
  await onServer(page, await opened(page, 'Numbered pictures (PNG, zipped)'))
  await expect(page.getByTestId('render')).toContainText('Numbered pictures')
  await page.close()
  const later = await context.newPage()
  await new Desk(later).open(film.projectId)
  const dialog = await opened(later, 'Numbered pictures (PNG, zipped)')
  const path = await saved(later, dialog)
  const [mine, theirs] = [here.path, path].map((each) => unzipSync(readFileSync(each)))
  expect(Object.keys(theirs!)).toEqual(Object.keys(mine!))
  expect(Object.keys(mine!)).toHaveLength(96)
  for (const name of Object.keys(mine!)) expect(Buffer.compare(Buffer.from(mine![name]!), Buffer.from(theirs![name]!))).toBe(0)
  await dialog.getByTestId('render').getByRole('button', { name: 'Remove' }).click()
  await expect(dialog.getByTestId('render')).toHaveCount(0)
})

test('an MP4 from the server has picture and sound together, at a rate that is no whole number', async ({ page }) => {
  const flashes = [24, 108]
  const secondsOf = (frame: number) => (frame * 1001) / 24_000
  const film = await flashFilm([24, 1, 83, 1, 23], 320, 180, { numerator: 24_000, denominator: 1001 })
  const recording = await uploadSound(wav(claps(5.5, flashes.map(secondsOf), 16_000), 16_000))
  await change(film.projectId, (f) => addLane(f.outline, film.projectId, lane('Effects', 'effects')), (f) => addClips(f.outline, film.projectId, [clip('c', 'Effects', recording)]))
  await new Desk(page).open(film.projectId)
  const dialog = await opened(page, 'Movie (MP4: H.264, AAC)')
  // This browser has no AAC, so there is nothing to choose.
  await dialog.getByRole('button', { name: 'Make it on the server' }).click()
  const path = await saved(page, dialog)
  const frames = framesOf(path)
  const seen = frames.filter((frame, i) => frame.grey < 60 && (frames[i - 1]?.grey ?? 255) >= 60).map((frame) => frame.at)
  const heard = onsets(soundOf(path))
  expect([frames.length, seen.length, heard.length]).toEqual([132, 2, 2])
  seen.forEach((at, i) => {
    expect(Math.abs(at - secondsOf(flashes[i]!))).toBeLessThan(0.0005)
    expect(Math.abs(heard[i]! - at)).toBeLessThan(0.5 / 24)
  })
})

test('every window sees how far a render is; it is cancelled from any, and done again', async ({ page, context }) => {
  const film = await flashFilm([200, 1, 200])
  await new Desk(page).open(film.projectId)
  const other = await context.newPage()
  await new Desk(other).open(film.projectId)
  const dialog = await opened(page, 'Movie for the edit (MOV: VC-3, every frame whole)')
  await dialog.getByRole('button', { name: 'Make it on the server' }).click()
  await expect(other.getByTestId('render-share')).toBeVisible()
  await expect(dialog.getByTestId('render')).toContainText(/frame [1-9]\d* of 401/, { timeout: 120_000 })
  await other.getByRole('button', { name: 'Hand over…' }).click()
  const there = other.getByRole('dialog')
  await there.getByTestId('render').getByRole('button', { name: 'Cancel' }).click()
  await expect(dialog.getByTestId('render')).toContainText('cancelled')
  await expect(other.getByTestId('render-share')).toHaveCount(0)
  await dialog.getByTestId('render').getByRole('button', { name: 'Again' }).click()
  await expect(dialog.getByTestId('render')).toHaveCount(2)
  const path = await saved(page, dialog)
  expect(framesOf(path)).toHaveLength(401)
})

import type { Page } from '@playwright/test'
import { readFileSync } from 'node:fs'
import { unzipSync } from 'fflate'
import sharp from 'sharp'
import { depthGrey, hazeAt } from '@rubato/core/depth'
import { bodyOf, Desk, expect, makeFilm, REST, test } from './desk'
import { exportAs } from './exporting'
import { Paper } from './paper'

const RED = [0xc2, 0x45, 0x2d]
const GREEN = [0x2e, 0x7a, 0x68]
const MIST = [0xdf, 0xe5, 0xe6]
const NEAR_Z = -REST.depth
const FAR_Z = 2 - REST.depth

async function open(page: Page) {
  const film = await makeFilm()
  const desk = new Desk(page)
  await desk.open(film.projectId)
  const colour = async (u: number, v: number) => (await desk.pixel(u, v)).slice(0, 3)
  const near = () => colour(0, 0)
  const far = () => colour(-0.2, 0)
  return { film, desk, colour, near, far }
}
const field = (page: Page, label: string) => page.getByTestId('air').getByLabel(label, { exact: true })
async function type(page: Page, label: string, value: string) {
  await field(page, label).fill(value)
  await field(page, label).press('Enter')
}
const within = (found: readonly number[], wanted: readonly number[], most: number) => found.every((value, i) => Math.abs(value - wanted[i]!) <= most)
const mixed = (own: readonly number[], share: number) => own.map((value, i) => value + (MIST[i]! - value) * share)

test('haze turns what is far towards a colour by its distance, is one step that is undone, and is kept', async ({ page }) => {
  const { film, desk, near, far } = await open(page)
  await expect.poll(far).toEqual(GREEN)
  await page.keyboard.press('Alt+Shift+z')
  await page.getByRole('checkbox', { name: 'Haze' }).check()
  await expect(page.getByRole('button', { name: 'Undo haze on' })).toBeVisible()
  const share = hazeAt({ density: 0.15, start: 1.389 }, FAR_Z)
  await expect.poll(async () => within(await far(), mixed(GREEN, share), 2)).toBe(true)
  expect(within(await near(), RED, 2)).toBe(true)
  await type(page, 'thick', '0.6')
  await expect.poll(async () => within(await far(), mixed(GREEN, hazeAt({ density: 0.6, start: 1.389 }, FAR_Z)), 2)).toBe(true)
  await type(page, 'from', '4')
  await expect.poll(far).toEqual(GREEN)
  await type(page, 'thick', '-1')
  await expect(field(page, 'thick')).toHaveAttribute('aria-invalid', 'true')
  await field(page, 'thick').press('Escape')
  await desk.savedNow()
  expect((await bodyOf(film)).air).toEqual({ haze: { id: 'haze', density: 0.6, start: 4, colour: '#dfe5e6' } })
  for (const step of ['start of haze', 'thickness of haze', 'haze on']) {
    await page.getByRole('button', { name: `Undo ${step}` }).click()
  }
  await desk.savedNow()
  expect((await bodyOf(film)).air).toEqual({})
  // Copied and pasted it is what it was.
  await page.getByRole('button', { name: 'Redo haze on' }).click()
  await page.getByRole('button', { name: 'Copy the air' }).click()
  await page.getByRole('checkbox', { name: 'Haze' }).uncheck()
  await expect.poll(far).toEqual(GREEN)
  await page.getByRole('button', { name: 'Paste the air' }).click()
  await desk.savedNow()
  expect((await bodyOf(film)).air.haze.density).toBe(0.15)
  // Drawing is done in clear air.
  await expect.poll(async () => within(await far(), GREEN, 2)).toBe(false)
  await page.evaluate(() => localStorage.setItem('rubato.fade', '0'))
  const paper = new Paper(page)
  await paper.openDraw(film)
  await expect.poll(async () => (await paper.pixel(-0.2, 0)).slice(0, 3)).toEqual(GREEN)
})

test('haze is keyed: its keys are in the strip, it goes from one to the next, and between them nothing changes by itself', async ({ page }) => {
  const { film, desk, far } = await open(page)
  await page.keyboard.press('Alt+Shift+z')
  await page.getByRole('checkbox', { name: 'Haze' }).check()
  await type(page, 'thick', '0')
  const key = page.getByTestId('air').getByRole('button', { name: 'Key of haze' })
  await key.click()
  await desk.goTo(40)
  await key.click()
  await type(page, 'thick', '1')
  await expect(page.getByRole('button', { name: 'Undo thickness of haze' })).toBeVisible()
  await expect(page.locator('.level', { hasText: 'Haze' })).toBeVisible()
  const share = hazeAt({ density: 1, start: 1.389 }, FAR_Z)
  await expect.poll(async () => within(await far(), mixed(GREEN, share), 2)).toBe(true)
  await desk.goTo(20)
  await expect(page.getByTestId('air')).toContainText('between keys')
  await expect.poll(async () => within(await far(), mixed(GREEN, hazeAt({ density: 0.5, start: 1.389 }, FAR_Z)), 2)).toBe(true)
  await type(page, 'thick', '0.9')
  await expect(page.getByRole('alert').filter({ hasText: 'Between two keys nothing changes by itself' })).toBeVisible()
  // Its move is in the inspector like any other's.
  await expect(page.getByRole('heading', { name: 'Haze, 1 → 2' })).toBeVisible()
  await page.getByTestId('move-panel').first().getByRole('button', { name: 'Hold' }).click()
  await expect.poll(far).toEqual(GREEN)
  await desk.savedNow()
  const { airKeys } = await bodyOf(film)
  expect(Object.values<{ airId: string; value: { density: number }; move: { timing: { kind: string } } }>(airKeys).map(({ airId, value, move }) => [airId, value.density, move.timing.kind])).toEqual(expect.arrayContaining([['haze', 0, 'hold'], ['haze', 1, 'cushioned']]))
  await page.getByTestId('air').getByRole('button', { name: 'alike' }).click()
  await desk.savedNow()
  expect((await bodyOf(film)).airKeys).toEqual({})
})

test('soft focus softens the edges of what is not at its distance; what is chosen can be made the sharp one, on the ladder too', async ({ page }) => {
  const { film, desk, colour } = await open(page)
  // Over the edge of what is far: half of it and half of the paper where it is soft.
  const edge = (NEAR_Z / FAR_Z) * 0.3
  const isMixed = async (by: number) => !within(await colour(edge + by, 0.15), [255, 255, 255], 6) && !within(await colour(edge + by, 0.15), GREEN, 6)
  const beside = 0.012
  await expect.poll(() => colour(edge + beside, 0.15)).toEqual([255, 255, 255])
  await page.keyboard.press('Alt+Shift+z')
  await page.getByRole('checkbox', { name: 'Soft focus' }).check()
  await type(page, 'soft', '12')
  await expect.poll(() => isMixed(beside)).toBe(true)
  // The near one is as sharp as ever.
  expect(within(await colour(0.097, 0), RED, 2)).toBe(true)
  await page.locator('[data-level]').filter({ hasText: 'far' }).click()
  await page.getByRole('button', { name: 'Sharp on far' }).click()
  await expect.poll(() => colour(edge + beside, 0.15)).toEqual([255, 255, 255])
  await desk.savedNow()
  expect((await bodyOf(film)).air.focus.sharp).toBeCloseTo(FAR_Z, 3)
  const mark = page.getByTestId('sharp-mark')
  const box = (await mark.boundingBox())!
  await desk.drag({ x: box.x + 10, y: box.y + 8 }, { x: box.x + 10, y: box.y - 60 })
  await expect(page.getByRole('button', { name: 'Undo sharp distance of soft focus' })).toBeVisible()
  await desk.savedNow()
  expect((await bodyOf(film)).air.focus.sharp).toBeLessThan(FAR_Z - 0.3)
  await expect.poll(() => isMixed(beside)).toBe(true)
})

test('a level throws a shadow on the ground it stands on; distances in grey are seen and handed over', async ({ page }) => {
  const { film, desk, colour, near } = await open(page)
  await page.locator('[data-level]').filter({ hasText: 'near' }).click()
  await page.keyboard.press('m')
  const shadow = page.getByRole('button', { name: 'Shadow', exact: true })
  await shadow.click()
  await expect(page.getByRole('button', { name: 'Undo shadow on' })).toBeVisible()
  await desk.savedNow()
  expect((await bodyOf(film)).levels.near.shadow).toMatchObject({ ground: -0.1, towardsDegrees: 125 })
  // Towards the lens, and long: under its foot the picture is darker.
  const falls = page.getByLabel('falls to')
  await falls.fill('180')
  await falls.press('Enter')
  await page.getByLabel('dark', { exact: true }).fill('100')
  await page.getByLabel('dark', { exact: true }).press('Enter')
  await page.getByLabel('long').fill('3')
  await page.getByLabel('long').press('Enter')
  await expect.poll(async () => (await colour(0, -0.112)).reduce((sum, value) => sum + value, 0)).toBeLessThan(60)
  expect(within(await near(), RED, 2)).toBe(true)
  await page.getByLabel('long').blur()
  await page.keyboard.press('Alt+Shift+j')
  await expect(page.getByTestId('distances')).toBeVisible()
  const range = { nearest: NEAR_Z, farthest: FAR_Z }
  await expect.poll(near).toEqual([255, 255, 255])
  await expect.poll(() => colour(-0.2, 0)).toEqual([0, 0, 0])
  await page.keyboard.press('Alt+Shift+z')
  await type(page, 'black', '8')
  const grey = Math.round(depthGrey({ ...range, farthest: 8 }, FAR_Z) * 255)
  await expect.poll(async () => within(await colour(-0.2, 0), [grey, grey, grey], 2)).toBe(true)
  await page.getByTestId('distances').click()
  await expect.poll(near).toEqual(RED)
  const { path } = await exportAs(page, { format: 'Numbered pictures (PNG, zipped)', picture: 'Distances in grey' })
  const files = unzipSync(new Uint8Array(readFileSync(path)))
  const first = Object.keys(files).sort()[0]!
  expect(first).toContain('distances')
  const { data, info } = await sharp(files[first]).removeAlpha().raw().toBuffer({ resolveWithObject: true })
  const at = (u: number, v: number) => [...data.subarray((Math.floor(info.height / 2 - v * info.width) * info.width + Math.floor((0.5 + u) * info.width)) * info.channels).subarray(0, 3)]
  expect([at(0, 0), at(-0.2, 0), at(0.45, 0.2)]).toEqual([[255, 255, 255], [0, 0, 0], [0, 0, 0]])
})

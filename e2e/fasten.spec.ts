import type { Page } from '@playwright/test'
import { bodyOf, Desk, expect, makeFilm, test } from './desk'

const NEAR = { id: 'near', colour: '#c2452d', box: [-0.1, -0.1, 0.1, 0.1] as const, depth: 0 }
const FAR = { id: 'far', colour: '#2e7a68', box: [-0.6, -0.4, 0.3, 0.4] as const, depth: 2 }
const WIDE = { id: 'wide', colour: '#d9cf8a', box: [-2, -2, 2, 2] as const, depth: 6 }

async function open(page: Page, levels: Parameters<typeof makeFilm>[0] = { levels: [NEAR, FAR, WIDE] }) {
  const film = await makeFilm(levels)
  const desk = new Desk(page)
  await desk.open(film.projectId)
  const row = (name: string) => page.locator(`[data-level=${name}]`)
  const level = async (name: string) => (await bodyOf(film)).levels[name]
  return { film, desk, row, level }
}

test('a row dropped on another’s is fastened to it, as it is seen; dropped on empty paper it is let go; on the lens it travels along', async ({ page }) => {
  const { desk, row, level } = await open(page)
  const before = [await desk.pixel(0.05, 0.05), await desk.pixel(-0.2, 0.1)]
  await row('near').dragTo(row('far'))
  await expect(row('near')).toContainText('on far')
  await expect(page.getByRole('button', { name: 'Undo fasten near to far' })).toBeVisible()
  await desk.savedNow()
  expect(await level('near')).toMatchObject({ carrier: { kind: 'level', levelId: 'far', turn: true, size: true } })
  expect([await desk.pixel(0.05, 0.05), await desk.pixel(-0.2, 0.1)]).toEqual(before)
  // What carries it takes it along: its numbers stay, its place is another.
  await row('far').click()
  await page.keyboard.press('m')
  const x = page.getByTestId('level-panel').getByLabel('x', { exact: true }).first()
  await x.fill('0.4')
  await x.press('Enter')
  await expect.poll(() => desk.pixel(0.05, 0.05)).not.toEqual(before[0])
  await page.keyboard.press('Escape')
  await page.getByRole('button', { name: /^Undo x of far/ }).click()
  await row('near').dragTo(page.getByTestId('rack-lens'))
  await expect(row('near')).toContainText('with camera')
  await desk.savedNow()
  expect((await level('near')).carrier).toEqual({ kind: 'camera' })
  expect(await desk.pixel(0.05, 0.05)).toEqual(before[0])
  await row('near').dragTo(page.locator('.ladder-area'), { targetPosition: { x: 120, y: 300 } })
  await expect(page.getByRole('button', { name: 'Undo let near go' })).toBeVisible()
  await desk.savedNow()
  expect('carrier' in (await level('near'))).toBe(false)
  expect(await desk.pixel(0.05, 0.05)).toEqual(before[0])
})

test('what would hang on itself is refused in words, and nothing is changed', async ({ page }) => {
  const { film, row } = await open(page)
  await row('near').dragTo(row('far'))
  await expect(row('near')).toContainText('on far')
  await row('far').dragTo(row('near'))
  await expect(page.getByText('That would make “far” hang on itself: “far” on “near” on “far”. Let one of them go first.')).toBeVisible()
  expect('carrier' in (await bodyOf(film)).levels.far).toBe(false)
  // From its menu only those are offered that can carry it.
  await page.getByRole('button', { name: 'Close' }).first().click()
  await row('far').click({ button: 'right' })
  await page.getByRole('menuitem', { name: 'Fasten to…' }).click()
  await expect(page.getByLabel('Fasten to').getByRole('menuitem')).toHaveText(['wide'])
  await page.getByLabel('Fasten to').getByText('wide').click()
  await expect(row('far')).toContainText('on wide')
})

test('levels are carried together by an empty carrier; it is moved, and so are they; taken out, they stay', async ({ page }) => {
  const { film, desk, row, level } = await open(page)
  await row('near').click()
  await row('far').click({ modifiers: ['Control'] })
  await page.keyboard.press('Shift+J')
  await expect(row('near')).toContainText('on Carrier 1')
  const carrier = page.locator('[data-level]', { hasText: 'Carrier 1' }).first()
  await expect(carrier).toHaveClass(/selected/)
  const red = await desk.pixel(0.05, 0.05)
  await page.keyboard.press('m')
  await page.keyboard.press('Shift+ArrowRight')
  await page.keyboard.press('Shift+ArrowRight')
  await expect.poll(() => desk.pixel(0.05, 0.05)).not.toEqual(red)
  await expect.poll(() => desk.pixel(0.25, 0.05)).toEqual(red)
  await desk.savedNow()
  const id = (await level('near')).carrier.levelId as string
  // Nothing can be drawn on it.
  await page.getByRole('button', { name: 'Draw', exact: true }).click()
  await expect(page.locator('[data-draw-level]')).toHaveCount(3)
  await page.keyboard.press('d')
  await carrier.click({ button: 'right' })
  await page.getByRole('menuitem', { name: 'Delete' }).click()
  await desk.savedNow()
  const { levels } = await bodyOf(film)
  expect(Object.keys(levels)).not.toContain(id)
  expect('carrier' in levels.near).toBe(false)
  expect(await desk.pixel(0.25, 0.05)).toEqual(red)
})

test('travelling with the camera a level stays in the picture; upright it turns with it, and its place on screen stays', async ({ page }) => {
  const { desk, row, level } = await open(page, { levels: [NEAR, FAR], framings: [{ frame: 0, pose: {} }, { frame: 40, pose: { x: 1.2, panDegrees: 25 } }] })
  const red = await desk.pixel(0, 0)
  await row('near').click()
  await page.keyboard.press('m')
  await page.getByRole('group', { name: 'Carried by' }).getByText('camera').click()
  await row('far').click()
  await page.getByRole('group', { name: 'How it faces the camera' }).getByText('upright').click()
  await desk.savedNow()
  expect((await level('far')).facing).toBe('upright')
  expect(await desk.pixel(0, 0)).toEqual(red)
  await page.keyboard.press('End')
  await expect(page.getByTestId('shot-frame')).toHaveText('47 / 48 f')
  for (const [u, v] of [[0, 0], [0.08, 0.08], [-0.08, -0.08]] as const) expect(await desk.pixel(u, v)).toEqual(red)
})

test('ink lands under the pen on a level that moves, is turned and carried, at any frame', async ({ page }) => {
  const { film, desk, row } = await open(page, { levels: [{ ...NEAR, x: 0.3, rollDegrees: 20, carrier: { kind: 'level', levelId: 'far', turn: true, size: true }, swing: { amount: 12, periodFrames: 30, phase: 0 } }, { ...FAR, rollDegrees: -35, scale: 1.5, panDegrees: 20 }] })
  await row('far').click()
  await page.keyboard.press('m')
  await page.keyboard.down('w')
  await desk.drag(await desk.at(-0.1, 0), await desk.at(0.1, 0.05))
  await page.keyboard.up('w')
  await expect(page.getByTestId('shot-frame')).toHaveText('23 / 48 f')
  await expect(page.getByRole('button', { name: 'Play', exact: true })).toBeVisible()
  for (const back of [0, 9]) {
    for (let i = 0; i < back; i++) await page.keyboard.press(',')
    await row('near').click()
    await page.keyboard.press('p')
    if (back === 0) for (let i = 0; i < 4; i++) await page.keyboard.press(']')
    const [u, v] = back === 0 ? [-0.3, 0.15] : [0.32, -0.1]
    await desk.drag(await desk.at(u, v), await desk.at(u + 0.08, v), { steps: 12 })
    await expect.poll(async () => (await desk.pixel(u + 0.04, v))[0]).toBeLessThan(110)
  }
  await desk.savedNow()
  const { cells } = await bodyOf(film)
  expect(Object.keys(cells)).toContain('near.p1')
})

test('a key of a carried level goes where it is dragged in the table and the plan, however its carrier is turned', async ({ page }) => {
  const { film, desk, row } = await open(page, { levels: [{ ...NEAR, carrier: { kind: 'level', levelId: 'far', turn: true, size: true } }, { ...FAR, depth: 0, rollDegrees: 90 }] })
  await row('near').click()
  await page.keyboard.press('m')
  await page.keyboard.down('w')
  await desk.drag(await desk.at(0, 0), await desk.at(0.2, 0.05))
  await page.keyboard.up('w')
  await expect(page.getByRole('button', { name: 'Play', exact: true })).toBeVisible()
  await page.getByRole('button', { name: 'Table', exact: true }).click()
  const keyNow = async () => Object.values<{ offsetFrames: number; value: { x: number; y: number; depth: number } }>((await bodyOf(film)).levelKeys).find((key) => key.offsetFrames === 23)!.value
  await desk.savedNow()
  const before = await keyNow()
  const flag = (await page.locator('.table [data-key="2"] .flag').first().boundingBox())!
  const at = { x: flag.x + flag.width / 2, y: flag.y + 4 }
  await desk.drag(at, { x: at.x + 30, y: at.y })
  await desk.savedNow()
  const after = await keyNow()
  // To the right in the set is up or down on what is rolled by a quarter.
  expect(Math.abs(after.y - before.y)).toBeGreaterThan(0.02)
  expect(Math.abs(after.x - before.x)).toBeLessThan(1e-6)
})

import type { Page } from '@playwright/test'
import { bodyOf, Desk, expect, makeFilm, test } from './desk'

/** A wall that ends 0.75 fw to the right of the middle, and a camera that goes 0.4 fw that way: 0.15 fw are missing at the end. */
const WALL = { id: 'wall', colour: '#2e7a68', box: [-1, -1, 0.75, 1] as const, depth: 0 }
const WAY = [{ frame: 0, pose: { x: 0 } }, { frame: 40, pose: { x: 0.4 } }]

async function open(page: Page, levels: NonNullable<Parameters<typeof makeFilm>[0]>['levels'] = [WALL]) {
  const film = await makeFilm({ levels, framings: WAY })
  const desk = new Desk(page)
  await desk.open(film.projectId)
  await page.keyboard.press('Alt+Shift+i')
  const panel = page.getByTestId('edges')
  const finding = panel.getByTestId('finding')
  return { film, desk, panel, finding }
}

test('art that runs out is found by itself, told where it happens, and mended; the check finds nothing there then', async ({ page }) => {
  const { film, desk, panel, finding } = await open(page)
  await expect(finding.first()).toContainText('wall runs out at right')
  await expect(finding.first()).toContainText(/frames \d+–47 · 0\.15 fw · worst 40/)
  await expect(finding.first()).toContainText(/7[23] px more art at its right/)
  await finding.first().getByRole('button', { name: 'wall runs out' }).click()
  await expect(page.getByTestId('shot-frame')).toHaveText(/^40 /)
  await expect(page.locator('[data-finding="wall.right"]')).toHaveCount(1)
  await expect(page.getByTestId('lens-findings')).toContainText('wall runs out at right')
  await expect(page.getByTestId('rack-out')).toHaveText('▸')
  // Shown as it would be, and left: nothing is written.
  await finding.first().getByRole('button', { name: 'Shorter way' }).click()
  await expect(page.getByTestId('mend-trial')).toContainText('framings drawn in by 38 %')
  await expect.poll(async () => (await desk.pixel(0.45, 0)).slice(0, 3)).toEqual([0x2e, 0x7a, 0x68])
  await page.getByRole('button', { name: 'Leave it' }).click()
  await expect.poll(async () => (await desk.pixel(0.45, 0)).slice(0, 3)).toEqual([255, 255, 255])
  await finding.first().getByRole('button', { name: 'Larger level' }).click()
  // About x 0.4, straight before the lens: from 0.35 to 0.5 fw.
  await expect(page.getByTestId('mend-trial')).toContainText('× 1.43, about its foot')
  await page.keyboard.press('Escape')
  await expect(page.getByTestId('mend-trial')).toHaveCount(0)
  expect((await bodyOf(film)).levels.wall.scale).toBe(1)
  await finding.first().getByRole('button', { name: 'Shorter way' }).click()
  await page.getByRole('button', { name: 'Take it' }).click()
  await expect(page.getByRole('button', { name: 'Undo shorter way' })).toBeVisible()
  await expect(panel).toContainText('The art suffices in all 48 frames')
  await desk.savedNow()
  expect((await bodyOf(film)).framings.f2.pose.x).toBeCloseTo(0.25, 2)
  await expect(page.getByTestId('rack-out')).toHaveCount(0)
  await page.getByRole('button', { name: 'Undo shorter way' }).click()
  await expect(finding.first()).toContainText('wall runs out at right')
  await finding.first().getByRole('button', { name: 'More art', exact: true }).click()
  await expect(page.getByTestId('paper-host').locator('canvas').first()).toBeVisible()
  await expect(page.locator('[data-finding="wall.right"]')).toHaveCount(1)
})

test('a finding that is meant so is quiet until it is another; a level says what it owes; white paper may be meant', async ({ page }) => {
  const { film, desk, panel, finding } = await open(page)
  await expect(finding).toHaveCount(2)
  await expect(finding.nth(1)).toContainText(/Bare paper at right/)
  await finding.first().getByRole('button', { name: 'Meant so…' }).click()
  await page.getByLabel('Why it is meant so').fill('a door comes there')
  await page.getByRole('button', { name: 'Keep', exact: true }).click()
  await expect(panel).toContainText('meant so: “a door comes there”')
  await expect(panel).toContainText('1 meant so')
  await desk.savedNow()
  expect((await bodyOf(film)).meant['wall.right'].note).toBe('a door comes there')
  await panel.getByRole('checkbox', { name: 'white paper is meant' }).check()
  await expect(panel).toContainText('2 meant so')
  await panel.getByRole('checkbox', { name: 'white paper is meant' }).uncheck()
  // The wall ends elsewhere now: what was meant was something else.
  await page.locator('[data-level]').filter({ hasText: 'wall' }).click()
  await page.keyboard.press('m')
  await page.keyboard.press('ArrowLeft')
  await expect(panel).not.toContainText('meant so:')
  await expect(finding.first()).toContainText('wall runs out at right')
  await page.getByRole('button', { name: 'Owes the left' }).click()
  await expect(panel.getByText('wall runs out')).toHaveCount(0)
  await page.getByRole('button', { name: 'Owes the right' }).click()
  await expect(panel.getByText('wall runs out at right')).toBeVisible()
  await desk.savedNow()
  expect((await bodyOf(film)).levels.wall.owes).toEqual(['left', 'right'])
  await page.getByRole('button', { name: 'guessed' }).click()
  // In the whole film, and on the boards.
  await panel.getByRole('button', { name: 'The whole film' }).click()
  await expect(panel.getByRole('button', { name: 'The whole film' })).toBeVisible()
  await page.keyboard.press('Alt+1')
  await expect(page.getByTestId('shot-found').first()).toHaveText('2 findings')
})

test('figures and what stands in the picture are not guessed to run out, and bare paper is owed only where there was art', async ({ page }) => {
  const { panel } = await open(page, [{ ...WALL, box: [-3, -1, 3, 1] }, { id: 'post', colour: '#c2452d', box: [0.3, -0.2, 0.7, 0.2], depth: -0.2 }])
  await expect(panel).toContainText('The art suffices in all 48 frames')
})

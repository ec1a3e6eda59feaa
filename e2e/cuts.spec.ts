import { travelLevel } from '@rubato/core/edits'
import type { Page } from '@playwright/test'
import { randomUUID } from 'node:crypto'
import { bodyOf, Desk, expect, json, makeFilm, post, test } from './desk'

/** Someone who goes to the right, and is followed by nobody: the second shot is a copy, in which they go as it is told. */
const FIGURE = { id: 'tilda', name: 'Tilda', colour: '#c2452d', box: [-0.06, -0.12, 0.06, 0.12] as const, depth: 0, figure: true }
type Film = { readonly projectId: string; readonly takeId: string }

async function walk(film: Film, from: number, to: number) {
  const [{ body, revision }] = await json(`/api/projects/${film.projectId}/takes?ids=${film.takeId}`)
  const level = Object.values<{ id: string }>(body.levels)[0]!
  const way = travelLevel(body, film.takeId, level.id, 0, 47, [{ aspect: 'place', from: { x: from, y: 0, depth: 0 }, to: { x: to, y: 0, depth: 0 } }], () => randomUUID())
  if (!way.ok) throw new Error(way.refusal.code)
  await post(`/api/projects/${film.projectId}/edits`, { changes: [{ id: randomUUID(), label: 'walk', edits: way.edits }], base: { [`take:${film.takeId}`]: revision } })
}
async function twoShots(page: Page) {
  const film = await makeFilm({ levels: [FIGURE], framings: [{ frame: 0, pose: { x: 0 } }] })
  await walk(film, -0.3, 0.3)
  const desk = new Desk(page)
  await desk.open(film.projectId)
  await page.keyboard.press('Alt+1')
  await page.getByRole('button', { name: /^More for shot/ }).click()
  await page.getByRole('menuitem', { name: 'Duplicate shot' }).click()
  await expect(page.getByTestId('shot-head')).toHaveCount(2)
  await expect(page.getByRole('menu')).toHaveCount(0)
  await desk.savedNow()
  const { outline } = await json(`/api/projects/${film.projectId}`)
  const other = { projectId: film.projectId, takeId: Object.keys(outline.takes).find((id) => id !== film.takeId)! }
  await page.keyboard.press('Alt+3')
  await expect(page.getByTestId('lens-host')).toHaveAttribute('data-resampling', 'exact')
  return { film, other, desk }
}
const panelOf = (page: Page) => page.getByTestId('cuts')
const reading = (page: Page, kind: string) => panelOf(page).locator(`.reading[data-kind=${kind}]`)

test('a cut is read as one works: where the eye goes, what is alike, who flips; each is accepted until it is another', async ({ page }) => {
  const { other, desk } = await twoShots(page)
  await page.keyboard.press('Alt+9')
  const cut = panelOf(page).getByTestId('cut')
  await expect(cut).toHaveCount(1)
  await expect(cut).toContainText(/\S+ › \S+/)
  // She goes out at .3 and comes in at −.3: 60 % of the width, and the same size from as far to the other side.
  await expect(reading(page, 'eye')).toContainText('60 % far to go: Tilda › Tilda')
  await expect(reading(page, 'direction')).toContainText('→ then → Tilda: kept')
  await expect(reading(page, 'motion')).toContainText('rest to rest')
  await expect(cut.locator('canvas')).toHaveCount(2)
  await expect(cut.locator('.eye')).toHaveCount(3)
  // Another window turns her about: it is seen here.
  await walk(other, 0.25, -0.3)
  await expect(reading(page, 'direction')).toContainText('→ then ← Tilda flips, and seems to turn back')
  await expect(reading(page, 'eye')).toContainText('5.0 % easy to find')
  await expect(reading(page, 'size')).toContainText('reads as a jump')
  await expect(cut.locator('.verdict')).toHaveText('to mend')
  await reading(page, 'direction').getByRole('button', { name: 'meant so…' }).click()
  await page.getByLabel('Why it is meant so').fill('she turns back')
  await page.getByRole('button', { name: 'Keep', exact: true }).click()
  await expect(reading(page, 'direction')).toContainText('meant so: “she turns back”')
  await expect(cut.locator('.verdict')).toHaveText('to look at')
  await desk.savedNow()
  expect(Object.values<{ id: string; note: string }>((await bodyOf(other)).meant)).toEqual([expect.objectContaining({ id: 'cut.start.direction', note: 'she turns back' })])
  await page.getByRole('button', { name: 'Undo meant so' }).click()
  await expect(cut.locator('.verdict')).toHaveText('to mend')
  // A limit is a setting: with it the eye has far to go again.
  await panelOf(page).getByRole('button', { name: 'Limits…' }).click()
  const most = panelOf(page).getByLabel('Eye, too far from')
  await most.fill('4')
  await most.press('Enter')
  await expect(reading(page, 'eye')).toContainText('far to go')
})

test('the film is read at a press, and one is gone to after the other', async ({ page }) => {
  await twoShots(page)
  await page.keyboard.press('Alt+9')
  await page.keyboard.press('Home')
  await panelOf(page).getByRole('button', { name: 'The whole film' }).click()
  await expect(panelOf(page)).toContainText('1 cut of the film asks to be looked at.')
  await page.keyboard.press('Alt+8')
  await expect(page.getByTestId('shot-frame')).toHaveText(/^0 /)
  await expect(page.locator('li.chosen')).toHaveCount(1)
})

test('inside a shot framings a frame apart are a cut; without a figure it is said where the eye is taken to be', async ({ page }) => {
  const film = await makeFilm({ framings: [{ frame: 0, pose: { x: 0 } }, { frame: 20, pose: { x: 0 } }, { frame: 21, pose: { x: 0.3 } }] })
  const desk = new Desk(page)
  await desk.open(film.projectId)
  await page.keyboard.press('Alt+9')
  await expect(panelOf(page).getByTestId('cut')).toHaveCount(1)
  await expect(panelOf(page).getByTestId('cut')).toContainText('frame 21')
  await expect(reading(page, 'length')).toHaveCount(0)
  await expect(panelOf(page)).toContainText('No figure is in these pictures')
  await panelOf(page).locator('.head').click()
  await expect(page.getByTestId('shot-frame')).toHaveText(/^21 /)
})

import type { Page } from '@playwright/test'
import { startTestServer } from '../server/test/testServer'
import { address, apart as test, bodyOf, Desk, expect, makeFilm } from './desk'

const CHANGES = '**/edits'
const lost = (page: Page) => page.route(CHANGES, (route) => route.abort())

/** Two windows on one film. */
async function twoDesks(page: Page, projectId: string) {
  const [mine, theirs] = [new Desk(page), new Desk(await page.context().newPage())]
  await mine.open(projectId)
  await theirs.open(projectId)
  return { mine, theirs }
}

test('a lost connection is told, nothing is lost, and it saves itself when the connection is back', async ({ page }) => {
  const film = await makeFilm()
  const desk = new Desk(page)
  await desk.open(film.projectId)
  await lost(page)
  await desk.drag(await desk.at(0, 0), await desk.at(0.1, 0))
  await expect(desk.saved).toHaveText('Offline: 1 change waiting')
  await desk.drag(await desk.at(0, 0), await desk.at(0.1, 0))
  await expect(desk.saved).toHaveText('Offline: 2 changes waiting')
  await page.unroute(CHANGES)
  await desk.savedNow()
  expect(Object.values<{ pose: { x: number } }>((await bodyOf(film)).framings)[0]!.pose.x).toBeCloseTo(-0.2, 2)
})

test('what was not sent yet is there after a reload, and after the window was closed', async ({ page }) => {
  const film = await makeFilm()
  const desk = new Desk(page)
  await desk.open(film.projectId)
  await lost(page)
  await desk.setPanelLength(40)
  await expect(desk.saved).toHaveText('Offline: 1 change waiting')
  await page.reload()
  await expect(desk.panelLength()).toHaveValue('40')
  await expect(desk.saved).toHaveText('Offline: 1 change waiting')
  await page.locator('[data-level=far]').getByLabel('Hide far').click()
  await expect(desk.saved).toHaveText('Offline: 2 changes waiting')
  expect((await bodyOf(film)).panels.p1.lengthFrames).toBe(24)
  // Home tells of it, and the same window finds it again.
  await page.getByRole('link', { name: 'Rubato' }).click()
  const card = page.locator(`[data-project="${film.projectId}"]`)
  await expect(card).toContainText('2 changes waiting here: open to send')
  await card.getByRole('button', { name: /^Open/ }).click()
  await expect(desk.panelLength()).toHaveValue('40')
  await expect(desk.saved).toHaveText('Offline: 2 changes waiting')

  const context = page.context()
  const next = new Desk(await context.newPage())
  await page.close()
  await next.open(film.projectId)
  await expect(next.panelLength()).toHaveValue('40')
  await expect.poll(async () => (await bodyOf(film)).panels.p1.lengthFrames).toBe(40)
  expect((await bodyOf(film)).levels.far.visible).toBe(false)
  // Sent once: a third window finds nothing left behind.
  const third = new Desk(await context.newPage())
  await third.open(film.projectId)
  await expect(third.saved).toHaveText('Saved')
})

test('a change made in the very moment the window goes is there in the next one', async ({ page }) => {
  const film = await makeFilm()
  const desk = new Desk(page)
  await desk.open(film.projectId)
  await lost(page)
  // Neither the server nor the browser's database has a moment for it.
  const gone = page.waitForEvent('load')
  await page.getByLabel('Hide far').evaluate((button: HTMLElement) => {
    button.click()
    location.reload()
  })
  await gone
  await expect(page.getByLabel('Show far')).toBeVisible()
  await expect(desk.saved).toHaveText('Offline: 1 change waiting')
  await page.unroute(CHANGES)
  await desk.savedNow()
  await expect.poll(async () => (await bodyOf(film)).levels.far.visible).toBe(false)
  expect(await page.evaluate(() => Object.keys(localStorage).filter((key) => key.startsWith('rubato-haste')))).toEqual([])
})

test('changes go on through a restart of the server, and none is applied twice', async ({ page }) => {
  const server = await startTestServer({ RUBATO_SEED: 'demo' })
  try {
    const desk = new Desk(page)
    await page.goto(`${server.address}/film/salt-lantern`)
    await expect(desk.panelLength()).toHaveValue('48')
    await desk.setPanelLength(50)
    await desk.savedNow()
    await server.kill()
    await desk.setPanelLength(55)
    await expect(desk.saved).toHaveText('Offline: 1 change waiting')
    await server.start()
    await desk.savedNow()
    await expect(desk.panelLength()).toHaveValue('55')
    const rows = await server.query(`SELECT label FROM journal ORDER BY seq`)
    expect(rows.map((row) => row.label)).toEqual(['length of panel 1', 'length of panel 1'])
    const [take] = await server.query(`SELECT body->'panels'->'p1'->>'lengthFrames' AS frames FROM takes WHERE id = 'take-030-a'`)
    expect(take.frames).toBe('55')
  } finally {
    await page.close()
    await server.stop()
  }
})

test('what one does is seen by the other at once, with the art, and each sees who is here', async ({ page }) => {
  const film = await makeFilm()
  const { mine, theirs } = await twoDesks(page, film.projectId)
  await theirs.page.getByRole('button', { name: 'Your name' }).click()
  await theirs.page.getByLabel(/Your name, as others/).fill('Mira Holm')
  await theirs.page.getByRole('button', { name: 'Keep', exact: true }).click()
  await expect(mine.page.getByTestId('person')).toHaveText('Mira Holm · 010')
  const before = await mine.picture()
  await theirs.page.locator('[data-level=near]').click()
  await theirs.page.keyboard.press('p')
  await theirs.drag(await theirs.at(-0.4, 0.2), await theirs.at(-0.2, 0.2), { steps: 8 })
  await theirs.savedNow()
  await expect.poll(async () => (await mine.picture()) === before).toBe(false)
  expect((await mine.pixel(-0.3, 0.2))[0]).toBeLessThan(150)
  await expect(mine.saved).toHaveText('Saved')
  await theirs.page.close()
  await expect(mine.page.getByTestId('person')).toHaveCount(0)
})

test('changes of different things by two go together, and undo takes back only my own', async ({ page }) => {
  const film = await makeFilm()
  const { mine, theirs } = await twoDesks(page, film.projectId)
  await lost(mine.page)
  await mine.setPanelLength(30)
  await theirs.page.locator('[data-level=far]').getByLabel('Hide far').click()
  await theirs.savedNow()
  await expect(mine.page.locator('[data-level=far]').getByLabel('Show far')).toBeVisible()
  await mine.page.unroute(CHANGES)
  await mine.savedNow()
  await expect(theirs.panelLength()).toHaveValue('30')
  await expect(mine.page.getByTestId('conflict')).toHaveCount(0)
  await mine.page.getByLabel('Undo length of panel 1').click()
  await expect(theirs.panelLength()).toHaveValue('24')
  expect((await bodyOf(film)).levels.far.visible).toBe(false)
})

test('the same thing changed by two is told, both are shown, and the artist chooses', async ({ page }) => {
  const film = await makeFilm()
  const { mine, theirs } = await twoDesks(page, film.projectId)
  await lost(mine.page)
  await mine.setPanelLength(30)
  await theirs.setPanelLength(40)
  const card = mine.page.getByTestId('conflict')
  await expect(card).toContainText('length of panel 1')
  await expect(card).toContainText('yours: 30')
  await expect(card).toContainText('theirs: 40')
  await expect(mine.panelLength()).toHaveValue('40')
  // Looking at mine writes nothing.
  await card.getByRole('button', { name: 'Yours', exact: true }).click()
  await expect(mine.panelLength()).toHaveValue('30')
  await card.getByRole('button', { name: 'Theirs', exact: true }).click()
  await expect(mine.panelLength()).toHaveValue('40')
  // It is still there to choose after a reload.
  await mine.page.unroute(CHANGES)
  await mine.page.reload()
  await card.getByRole('button', { name: 'Yours', exact: true }).click()
  await card.getByRole('button', { name: 'Keep yours' }).click()
  await expect(card).toHaveCount(0)
  await expect(theirs.panelLength()).toHaveValue('30')
  expect((await bodyOf(film)).panels.p1.lengthFrames).toBe(30)
})

test('what comes in while something is dragged waits for the drag to end', async ({ page }) => {
  const film = await makeFilm()
  const { mine, theirs } = await twoDesks(page, film.projectId)
  await mine.drag(await mine.at(0, 0), await mine.at(0.1, 0), { hold: true })
  await theirs.page.locator('[data-level=far]').getByLabel('Hide far').click()
  await theirs.savedNow()
  await mine.page.waitForTimeout(300)
  await expect(mine.page.locator('[data-level=far]').getByLabel('Hide far')).toBeVisible()
  await mine.page.mouse.up()
  await expect(mine.page.locator('[data-level=far]').getByLabel('Show far')).toBeVisible()
  await mine.savedNow()
  const body = await bodyOf(film)
  expect(body.levels.far.visible).toBe(false)
  expect(Object.values<{ pose: { x: number } }>(body.framings)[0]!.pose.x).toBeCloseTo(-0.1, 2)
})

test('a film that is gone says so', async ({ page }) => {
  await page.goto(`${address()}/film/nowhere`)
  await expect(page.getByRole('alert')).toContainText('There is no project nowhere')
})

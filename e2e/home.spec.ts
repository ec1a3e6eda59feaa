import type { Page } from '@playwright/test'
import { randomUUID } from 'node:crypto'
import { readFileSync } from 'node:fs'
import { unzipSync, zipSync } from 'fflate'
import { address, bodyOf, Desk, expect, makeFilm, test } from './desk'

test('the demo is on the home page, with its picture, and opens', async ({ page }) => {
  await page.goto(address())
  const card = page.locator('article[data-project=salt-lantern]')
  await expect(card).toContainText('5 shots')
  await expect(card).toContainText('0:28')
  await expect
    .poll(() => card.locator('canvas').evaluate((canvas: HTMLCanvasElement) => new Set(canvas.getContext('2d')!.getImageData(0, 0, canvas.width, canvas.height).data).size))
    .toBeGreaterThan(50)
  await card.getByRole('button', { name: 'Open Salt Lantern' }).click()
  await expect(page).toHaveURL(/film\/salt-lantern/)
  await expect(page.getByLabel('Depth rack')).toBeVisible()
})

test('a new film is made with its settings, and opens on its boards, with a shot to draw on', async ({ page }) => {
  await page.goto(address())
  await page.getByRole('button', { name: 'New film' }).first().click()
  const dialog = page.getByRole('dialog')
  await dialog.getByRole('button', { name: 'Make the film' }).click()
  await expect(dialog.getByRole('alert')).toContainText('needs a name')
  await dialog.getByLabel('Name').fill('A long walk')
  await dialog.getByLabel('Panels last').fill('36')
  await dialog.getByLabel('Panels last').press('Tab')
  await dialog.getByRole('button', { name: 'Make the film' }).click()
  await expect(page).toHaveURL(/film\/.+/)
  // A film begins with its boards; the Desk is a key away.
  await expect(page.getByTestId('panel-card')).toHaveCount(1)
  await expect(page.getByTestId('panel-card')).toContainText('36 f')
  await page.keyboard.press('Alt+3')
  await expect(page.getByTestId('shot-frame')).toHaveText('0 / 36 f')
  await expect(page.locator('[data-level]')).toHaveCount(1)
})

/** Other tests make films beside this one, and one that is tried again finds its own. */
const named = (title: string) => `${title} ${randomUUID().slice(0, 6)}`
const pick = async (page: Page, film: string, item: string) => {
  await page.getByLabel(`More for ${film}`, { exact: true }).click()
  await page.getByRole('menuitem', { name: item }).click()
  await expect(page.getByRole('menu')).toHaveCount(0)
}
const card = (page: Page, title: string) => page.locator('article').filter({ has: page.getByRole('heading', { name: title, exact: true }) })

test('a film is renamed, duplicated, put away, thrown away and brought back, each with Undo', async ({ page }) => {
  const [throwaway, sandbar] = [named('Throwaway'), named('Sandbar')]
  const copy = `${throwaway} copy`
  await makeFilm({ title: throwaway })
  await page.goto(address())
  await pick(page, throwaway, 'Rename')
  await page.getByLabel('Name of the film').fill(sandbar)
  await page.getByLabel('Name of the film').press('Enter')
  await expect(card(page, sandbar)).toHaveCount(1)
  await page.getByRole('button', { name: 'Undo' }).click()
  await expect(card(page, throwaway)).toHaveCount(1)

  await pick(page, throwaway, 'Duplicate')
  await expect(card(page, copy)).toHaveCount(1)
  await pick(page, copy, 'Put away')
  await expect(card(page, copy)).toHaveCount(0)
  await page.getByRole('button', { name: 'Put away', exact: true }).click()
  await expect(card(page, copy)).toHaveCount(1)
  await pick(page, copy, 'To the trash')
  await expect(page.getByText('Nothing is put away.')).toBeVisible()
  await page.getByRole('button', { name: 'Trash', exact: true }).click()
  await expect(card(page, copy)).toContainText('30 more days')
  page.once('dialog', (dialog) => dialog.accept())
  await pick(page, copy, 'Delete for good…')
  await expect(page.getByText('The trash is empty.')).toBeVisible()
  await page.getByRole('button', { name: 'On the desk' }).click()
  await pick(page, throwaway, 'To the trash')
  await expect(card(page, throwaway)).toHaveCount(0)
  await page.getByRole('button', { name: 'Undo' }).click()
  await expect(card(page, throwaway)).toHaveCount(1)
})

test('films are found by a part of their name, and sorted', async ({ page }) => {
  const [zebra, apple] = [named('Zebra crossing'), named('Apple cart')]
  await makeFilm({ title: apple })
  await makeFilm({ title: zebra })
  await page.goto(address())
  const titles = () => page.locator('article h2').allTextContents()
  const appleFirst = async () => {
    const now = await titles()
    return now.includes(zebra) && now.includes(apple) ? now.indexOf(apple) < now.indexOf(zebra) : null
  }
  // The last that was worked on comes first.
  await expect.poll(appleFirst).toBe(false)
  await page.getByLabel('Find a film').fill(zebra.slice(2).toUpperCase())
  await expect.poll(titles).toEqual([zebra])
  await page.getByLabel('Find a film').fill('nothing like it')
  await expect(page.getByText('No film of that name.')).toBeVisible()
  await page.getByLabel('Find a film').fill('')
  await page.getByRole('combobox', { name: 'Sort films by' }).click()
  await page.getByRole('option', { name: 'name' }).click()
  await expect.poll(appleFirst).toBe(true)
})

test('a film goes out as one file and comes in again; another file is refused with the reason', async ({ page }) => {
  const title = named('Round trip')
  const film = await makeFilm({ title })
  await page.goto(address())
  const [download] = await Promise.all([page.waitForEvent('download'), pick(page, title, 'Save as one file…')])
  expect(download.suggestedFilename()).toBe(`${title.replaceAll(' ', '-')}.rubato`)
  const path = (await download.path())!
  await expect(page.getByTestId('archive-state')).toContainText(`Saved “${title.replaceAll(' ', '-')}.rubato”`)
  const file = page.locator('input[type=file]')
  await file.setInputFiles({ name: 'Round-trip.rubato', mimeType: 'application/zip', buffer: readFileSync(path) })
  await expect(page.getByTestId('archive-state')).toContainText(`“${title}” is on the desk.`)
  await expect(card(page, title)).toHaveCount(2)
  const copy = (await card(page, title).evaluateAll((cards) => cards.map((each) => (each as HTMLElement).dataset.project!))).find((id) => id !== film.projectId)!
  const { takes } = (await (await fetch(`${address()}/api/projects/${copy}`)).json()).outline
  expect(await bodyOf({ projectId: copy, takeId: Object.keys(takes)[0]! })).toEqual(await bodyOf(film))
  await file.setInputFiles({ name: 'notes.rubato', mimeType: 'application/zip', buffer: Buffer.from('not a film') })
  await expect(page.getByTestId('archive-state')).toContainText('“notes.rubato” was not taken in. This file can\'t be taken in: it is not a whole zip file.')
})

test('a film’s file that misses something says what, and is taken in without it when the artist says so', async ({ page }) => {
  const title = named('Half a lantern')
  const archive = new Uint8Array(await (await fetch(`${address()}/api/projects/salt-lantern/archive`)).arrayBuffer())
  const files = unzipSync(archive)
  const sound = Object.keys(files).find((name) => name.startsWith('sounds/'))!
  delete files[sound]
  const text = new TextDecoder().decode(files['outline.json'])
  files['outline.json'] = new TextEncoder().encode(text.replace('"Salt Lantern"', JSON.stringify(title)))
  await page.goto(address())
  await expect(card(page, 'Salt Lantern').first()).toBeVisible()
  const send = () => page.locator('input[type=file]').setInputFiles({ name: 'Half.rubato', mimeType: 'application/zip', buffer: Buffer.from(zipSync(files, { level: 0 })) })
  await send()
  const question = page.getByTestId('question')
  await expect(question).toContainText('the recording “')
  await question.getByRole('button', { name: 'Leave it' }).click()
  await expect(page.getByTestId('archive-state')).toContainText('“Half.rubato” was not taken in.')
  await expect(card(page, title)).toHaveCount(0)
  await send()
  await question.getByRole('button', { name: 'Take in what is there' }).click()
  await expect(page.getByTestId('archive-state')).toContainText(`“${title}” is on the desk.`)
  await expect(card(page, title)).toHaveCount(1)
})

test('a version is kept, looked at beside the film, compared and brought back', async ({ page }) => {
  const film = await makeFilm()
  const desk = new Desk(page)
  await desk.open(film.projectId)
  const dialog = page.getByRole('dialog', { name: 'Versions' })
  const open = () => page.getByRole('button', { name: 'Versions' }).click()
  await open()
  await expect(dialog).toContainText('No versions yet')
  await dialog.getByLabel('Name of the version').fill('First pass')
  await dialog.getByRole('button', { name: 'Keep this version' }).click()
  await expect(dialog.getByTestId('version')).toContainText('First pass')
  await page.keyboard.press('Escape')
  await desk.setPanelLength(40)
  await desk.savedNow()

  await open()
  await dialog.getByRole('button', { name: 'Changes' }).click()
  await expect(dialog.getByTestId('compared')).toHaveText('Shot 010 panel changed: length')
  const [beside] = await Promise.all([page.context().waitForEvent('page'), dialog.getByRole('link', { name: 'Look' }).click()])
  const looking = new Desk(beside)
  await expect(looking.panelLength()).toHaveValue('24')
  await expect(beside.getByText('version “First pass”')).toBeVisible()
  await looking.setPanelLength(99)
  await expect(beside.getByText('This is the version “First pass”, to look at.')).toBeVisible()
  expect((await bodyOf(film)).panels.p1.lengthFrames).toBe(40)
  await beside.close()

  await dialog.getByRole('button', { name: 'Bring back…' }).click()
  await dialog.getByLabel(/010/).check()
  await dialog.getByRole('button', { name: 'Bring back this shot' }).click()
  await expect(dialog.getByRole('status')).toContainText('Brought back.')
  await expect(dialog.getByTestId('version')).toHaveCount(2)
  await page.keyboard.press('Escape')
  await expect(desk.panelLength()).toHaveValue('24')
})

test('a film that is not there says so and what to do', async ({ page }) => {
  await page.goto(`${address()}/film/nowhere`)
  await expect(page.getByRole('alert')).toContainText('could not be opened')
  await expect(page.getByRole('link', { name: 'All films' })).toBeVisible()
})

test('a lost connection is told on the home page', async ({ page }) => {
  await page.goto(address())
  await expect(page.getByRole('heading', { name: 'Salt Lantern', exact: true })).toBeVisible()
  await page.route('**/api/projects?*', (route) => route.abort())
  await page.reload()
  await expect(page.getByRole('alert')).toContainText('could not be listed')
  await page.unroute('**/api/projects?*')
  await page.getByRole('button', { name: 'Try again' }).click()
  await expect(page.getByRole('heading', { name: 'Salt Lantern', exact: true })).toBeVisible()
})

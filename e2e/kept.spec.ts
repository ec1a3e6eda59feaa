import { readFile } from 'node:fs/promises'
import type { Route } from '@playwright/test'
import { arrive } from './day'
import { address, apart as test, bodyOf, Desk, expect, makeFilm } from './desk'
import { outlineOf } from './soundFilm'

const CHANGES = '**/edits'

interface Sent {
  readonly changes: readonly { readonly id: string; readonly label: string }[]
}
const sentIn = (route: Route): Sent => ({ changes: route.request().postDataBuffer()!.toString('utf8').split('\n').filter((line) => line !== '').map((line) => JSON.parse(line) as Sent['changes'][number]).filter((line) => line.label !== undefined) })

/** A server that will never keep changes of one name, and says which they are. */
const refuses = (label: string) => (route: Route) => {
  const bad = sentIn(route).changes.find((change) => change.label.includes(label))
  if (bad === undefined) return route.continue()
  const message = `"${label}" can't be kept: panels.p1.lengthFrames: too long.`
  return route.fulfill({ status: 422, contentType: 'application/json', body: JSON.stringify({ statusCode: 422, message, data: { code: 'invalid-edit', changeId: bad.id, path: ['panels', 'p1', 'lengthFrames'] } }) })
}

test('many shots duplicated without a connection are all there when it comes back, and after a reload', async ({ page }) => {
  test.setTimeout(180_000)
  const copy = (await (await fetch(`${address()}/api/projects/salt-lantern/duplicate`, { method: 'POST' })).json()) as { project: { id: string } }
  const { id } = copy.project
  await arrive(page, `${address()}/film/${id}?view=boards`)
  await expect(page.getByTestId('panel-card').first()).toBeVisible()
  await page.route(CHANGES, (route) => route.abort())
  await page.route('**/uploads', (route) => route.abort())
  const shots = async () => Object.keys((await outlineOf(id)).shots).length
  const begun = await shots()
  const times = 17
  for (let i = 0; i < times; i++) {
    await page.getByTestId('shot-head').first().click()
    await page.keyboard.press('Control+d')
    await expect(page.getByTestId('save-state')).toHaveText(`Offline: ${i + 1} change${i === 0 ? '' : 's'} waiting`, { timeout: 30_000 })
  }
  expect(await shots()).toBe(begun)
  const heads = await page.getByTestId('shot-head').count()
  await page.unroute(CHANGES)
  await page.unroute('**/uploads')
  await expect(page.getByTestId('save-state')).toHaveText(/^Saved \d\d:\d\d$/, { timeout: 60_000 })
  expect(await shots()).toBe(begun + times)
  await page.reload()
  await expect(page.getByTestId('panel-card').first()).toBeVisible()
  await expect(page.getByTestId('shot-head')).toHaveCount(heads)
  expect(await shots()).toBe(begun + times)
})

test('a change that the server can’t keep is set aside with its reason; the others are saved; it is saved as a file, tried again, thrown away', async ({ page }) => {
  const film = await makeFilm()
  const desk = new Desk(page)
  await desk.open(film.projectId)
  await page.route(CHANGES, refuses('panel 1'))
  await desk.setPanelLength(40)
  const open = page.getByTestId('aside-open')
  await expect(open).toHaveText('1 set aside')
  await expect(desk.panelLength()).toHaveValue('24')
  // What came after it is kept.
  await page.locator('[data-level=far]').getByLabel('Hide far').click()
  await desk.savedNow()
  await expect.poll(async () => (await bodyOf(film)).levels.far.visible).toBe(false)

  // It is there after a reload too.
  await page.reload()
  await open.click()
  const dialog = page.getByTestId('aside')
  await expect(dialog).toContainText('panel 1')
  await expect(dialog).toContainText('too long')
  const [download] = await Promise.all([page.waitForEvent('download'), dialog.getByRole('button', { name: 'Save as a file' }).click()])
  const saved = JSON.parse(await readFile(await download.path(), 'utf8')) as { format: string; changes: { label: string }[] }
  expect([saved.format, saved.changes.map((change) => change.label)]).toEqual(['rubato-changes', [expect.stringContaining('panel 1')]])

  await page.unroute(CHANGES)
  await dialog.getByRole('button', { name: 'Try again' }).click()
  await expect(dialog).toContainText('Nothing is set aside')
  await dialog.getByRole('button', { name: 'Close', exact: true }).last().click()
  await expect(desk.panelLength()).toHaveValue('40')
  await desk.savedNow()
  expect((await bodyOf(film)).panels.p1.lengthFrames).toBe(40)

  await page.route(CHANGES, refuses('panel 1'))
  await desk.setPanelLength(50)
  await open.click()
  await dialog.getByRole('button', { name: 'Throw away' }).click()
  await expect(dialog).toContainText('Nothing is set aside')
  await expect(open).toHaveCount(0)
})

test('a refusal that names no change drops nothing: it is told, and tried again', async ({ page }) => {
  const film = await makeFilm()
  const desk = new Desk(page)
  await desk.open(film.projectId)
  await page.route(CHANGES, (route) => route.fulfill({ status: 422, contentType: 'application/json', body: JSON.stringify({ statusCode: 422, message: 'Something in between can’t read this.', data: { code: 'invalid-request' } }) }))
  await desk.setPanelLength(40)
  await expect(desk.saved).toHaveText('Not saved: 1 change waiting')
  await expect(desk.panelLength()).toHaveValue('40')
  await page.unroute(CHANGES)
  await desk.savedNow()
  expect((await bodyOf(film)).panels.p1.lengthFrames).toBe(40)
})

test('a drag ends with its view: the keys are the next one’s, and nothing is written', async ({ page }) => {
  const film = await makeFilm()
  const desk = new Desk(page)
  await desk.open(film.projectId)
  const before = await bodyOf(film)
  await desk.drag(await desk.at(0, 0), await desk.at(0.2, 0.1), { hold: true })
  await page.keyboard.press('d')
  await expect(page.getByRole('button', { name: 'Draw', exact: true })).toHaveAttribute('aria-current', 'page')
  await page.mouse.up()
  await page.keyboard.press('d')
  await desk.setPanelLength(40)
  await desk.savedNow()
  await page.evaluate(() => (document.activeElement as HTMLElement).blur())
  await page.keyboard.press('Control+z')
  await expect(desk.panelLength()).toHaveValue('24')
  await desk.savedNow()
  expect(await bodyOf(film)).toEqual(before)
})

test('no version before a mass delete: the artist is asked, and the careful answer changes nothing', async ({ page }) => {
  const copy = (await (await fetch(`${address()}/api/projects/salt-lantern/duplicate`, { method: 'POST' })).json()) as { project: { id: string } }
  const { id } = copy.project
  await arrive(page, `${address()}/film/${id}?view=boards`)
  await expect(page.getByTestId('panel-card').first()).toBeVisible()
  await page.route('**/versions', (route) => route.fulfill({ status: 507, contentType: 'application/json', body: JSON.stringify({ statusCode: 507, message: 'The disk is full.', data: { code: 'disk-full' } }) }))
  const heads = page.getByTestId('shot-head')
  // Heads that are out of view are not there.
  const shots = async () => Object.keys((await (await fetch(`${address()}/api/projects/${id}`)).json()).outline.shots as object).length
  const count = await shots()
  await heads.first().click()
  await heads.nth(1).click({ modifiers: ['Shift'] })
  await page.keyboard.press('Delete')
  const question = page.getByTestId('question')
  await expect(question).toContainText('The disk is full.')
  await question.getByRole('button', { name: 'Not now' }).click()
  expect(await shots()).toBe(count)
  await page.keyboard.press('Delete')
  await question.getByRole('button', { name: 'Go on without' }).click()
  await expect.poll(shots).toBe(count - 2)
})

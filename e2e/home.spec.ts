import { address, expect, makeFilm, test } from './desk'

test('the demo is on the home page, with its picture, and opens', async ({ page }) => {
  await page.goto(address())
  const card = page.locator('article', { hasText: 'Salt Lantern' })
  await expect(card).toContainText('3 shots')
  await expect(card).toContainText('0:18')
  await expect
    .poll(() => card.locator('canvas').evaluate((canvas: HTMLCanvasElement) => new Set(canvas.getContext('2d')!.getImageData(0, 0, canvas.width, canvas.height).data).size))
    .toBeGreaterThan(50)
  await card.getByRole('button', { name: 'Open Salt Lantern' }).click()
  await expect(page).toHaveURL(/film\/salt-lantern/)
  await expect(page.getByLabel('Depth rack')).toBeVisible()
})

test('a new film is made with its settings, and opens on a shot to draw on', async ({ page }) => {
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
  await expect(page.getByTestId('shot-frame')).toHaveText('0 / 36 f')
  await expect(page.locator('[data-level]')).toHaveCount(1)
})

test('a film that is deleted can be brought back', async ({ page }) => {
  await makeFilm({ title: 'Throwaway' })
  await page.goto(address())
  await page.getByRole('button', { name: 'Put Throwaway in the trash' }).click()
  await expect(page.locator('article', { hasText: 'Throwaway' })).toHaveCount(0)
  await page.getByRole('button', { name: 'Undo' }).click()
  await expect(page.locator('article', { hasText: 'Throwaway' })).toHaveCount(1)
})

test('a film that is not there says so and what to do', async ({ page }) => {
  await page.goto(`${address()}/film/nowhere`)
  await expect(page.getByRole('alert')).toContainText('could not be opened')
  await expect(page.getByRole('link', { name: 'All films' })).toBeVisible()
})

test('a lost connection is told on the home page', async ({ page }) => {
  await page.goto(address())
  await expect(page.getByRole('heading', { name: 'Salt Lantern' })).toBeVisible()
  await page.route('**/api/projects', (route) => route.abort())
  await page.reload()
  await expect(page.getByRole('alert')).toContainText('could not be listed')
  await page.unroute('**/api/projects')
  await page.getByRole('button', { name: 'Try again' }).click()
  await expect(page.getByRole('heading', { name: 'Salt Lantern' })).toBeVisible()
})

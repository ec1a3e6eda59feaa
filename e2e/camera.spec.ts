import { bodyOf, compare, Desk, expect, makeFilm, REST, test } from './desk'

const MOVE = [
  { frame: 0, pose: {} },
  { frame: 40, pose: { x: 0.3 } },
]

test('a shot with no framing is reframed by dragging: one framing, on its first frame', async ({ page }) => {
  const film = await makeFilm()
  const desk = new Desk(page)
  await desk.open(film.projectId)
  await expect(desk.mode).toHaveText('reframes the shot')
  await desk.goTo(20)
  await desk.drag(await desk.at(0, 0), await desk.at(-0.2, 0.1))
  await desk.savedNow()
  const framings = Object.values<{ pose: { x: number; y: number }; offsetFrames: number }>((await bodyOf(film)).framings)
  expect(framings).toHaveLength(1)
  expect(framings[0]!.offsetFrames).toBe(0)
  expect(framings[0]!.pose.x).toBeCloseTo(0.2, 2)
  expect(framings[0]!.pose.y).toBeCloseTo(-0.1, 2)
})

test('between framings looking never writes; Escape drops it, Key keeps it', async ({ page }) => {
  const film = await makeFilm({ framings: MOVE })
  const desk = new Desk(page)
  await desk.open(film.projectId)
  await desk.goTo(20)
  await expect(desk.mode).toHaveText('looking only')
  const before = await desk.picture()
  await desk.drag(await desk.at(0, 0), await desk.at(0.1, 0))
  await expect(desk.mode).toHaveText('not kept yet')
  expect(await desk.picture()).not.toBe(before)
  await expect(page.getByLabel(/^Undo/)).toBeDisabled()
  await page.keyboard.press('Escape')
  await expect(desk.mode).toHaveText('looking only')
  await expect.poll(() => desk.picture()).toBe(before)

  await desk.drag(await desk.at(0, 0), await desk.at(0.1, 0))
  await page.keyboard.press('q')
  await desk.savedNow()
  const framings = Object.values<{ panelId: string; offsetFrames: number }>((await bodyOf(film)).framings)
  expect(framings).toHaveLength(3)
  await expect(page.getByLabel('Undo key framing')).toBeEnabled()
})

test('moving the playhead drops what was only looked at', async ({ page }) => {
  const film = await makeFilm({ framings: MOVE })
  const desk = new Desk(page)
  await desk.open(film.projectId)
  await desk.goTo(20)
  const before = await desk.picture()
  await desk.drag(await desk.at(0, 0), await desk.at(0.1, 0))
  await page.keyboard.press('.')
  await page.keyboard.press(',')
  await expect.poll(() => desk.picture()).toBe(before)
  expect(Object.keys((await bodyOf(film)).framings)).toHaveLength(2)
})

test('Auto-key shows that it is lit, and keys every change', async ({ page }) => {
  const film = await makeFilm({ framings: MOVE })
  const desk = new Desk(page)
  await desk.open(film.projectId)
  await desk.goTo(20)
  await page.getByRole('button', { name: 'Auto-key' }).click()
  await expect(desk.mode).toHaveText('Auto-key')
  await desk.drag(await desk.at(0, 0), await desk.at(0.1, 0))
  await desk.savedNow()
  expect(Object.keys((await bodyOf(film)).framings)).toHaveLength(3)
})

test('the wheel trucks, Alt and the wheel zoom the lens', async ({ page }) => {
  const film = await makeFilm()
  const desk = new Desk(page)
  await desk.open(film.projectId)
  const centre = await desk.at(0, 0)
  await page.mouse.move(centre.x, centre.y)
  await page.mouse.wheel(0, -200)
  await desk.savedNow()
  const trucked = Object.values<{ pose: typeof REST }>((await bodyOf(film)).framings)[0]!.pose
  expect(trucked.depth).toBeGreaterThan(REST.depth + 0.1)
  expect(trucked.focalLengthMm).toBe(50)
  await page.keyboard.down('Alt')
  await page.mouse.wheel(0, -200)
  await page.keyboard.up('Alt')
  await expect.poll(async () => Object.values<{ pose: typeof REST }>((await bodyOf(film)).framings)[0]!.pose.focalLengthMm).toBeGreaterThan(55)
  expect(Object.values<{ pose: typeof REST }>((await bodyOf(film)).framings)[0]!.pose.depth).toBe(trucked.depth)
})

test('Escape abandons a drag, and leaves nothing to undo', async ({ page }) => {
  const film = await makeFilm()
  const desk = new Desk(page)
  await desk.open(film.projectId)
  const before = await desk.picture()
  await desk.drag(await desk.at(0, 0), await desk.at(0.2, 0), { hold: true })
  expect(await desk.picture()).not.toBe(before)
  await page.keyboard.press('Escape')
  await page.mouse.up()
  await expect.poll(() => desk.picture()).toBe(before)
  await expect(page.getByLabel('Undo', { exact: true })).toBeDisabled()
})

test('numbers are typed, stepped, scrubbed by their label and reset', async ({ page }) => {
  const film = await makeFilm()
  const desk = new Desk(page)
  await desk.open(film.projectId)
  const field = page.getByTestId('camera-x')
  const input = field.locator('input')
  await input.fill('0.25')
  await input.press('Enter')
  await expect(input).toHaveValue('0.25')
  await input.press('ArrowUp')
  await expect(input).toHaveValue('0.26')
  await input.press('Shift+ArrowUp')
  await expect(input).toHaveValue('0.36')
  await input.press('Alt+ArrowDown')
  await expect(input).toHaveValue('0.359')
  await input.fill('abc')
  await input.press('Enter')
  await expect(field.getByRole('alert')).toBeVisible()
  await input.press('Escape')
  await expect(input).toHaveValue('0.359')
  const label = (await field.locator('label').boundingBox())!
  await desk.drag({ x: label.x + 3, y: label.y + 8 }, { x: label.x + 43, y: label.y + 8 })
  await expect(input).toHaveValue('0.559')
  await field.locator('label').dblclick()
  await expect(input).toHaveValue('0')
  await desk.savedNow()
})

test('the move between two framings is set in the inspector', async ({ page }) => {
  const film = await makeFilm({ framings: [{ frame: 0, pose: {} }, { frame: 40, pose: { depth: -0.7 } }] })
  const desk = new Desk(page)
  await desk.open(film.projectId)
  await desk.goTo(20)
  const inspector = page.getByLabel('Inspector')
  await expect(inspector).toContainText('Move 1 → 2')
  await expect(inspector).toContainText('truck in 50 %')
  await inspector.getByRole('button', { name: 'Hold', exact: true }).click()
  await desk.savedNow()
  await expect(page.getByTestId('camera-depth').locator('input')).toHaveValue('−1.389')
  await inspector.getByRole('button', { name: 'Even on screen' }).click()
  await inspector.getByRole('button', { name: 'Even', exact: true }).click()
  // The width seen halves evenly: √(1.389 · 0.7) = 0.986.
  await expect(page.getByTestId('camera-depth').locator('input')).toHaveValue('−0.986')
  await inspector.getByRole('button', { name: 'Cushioned' }).click()
  await inspector.getByLabel('Arrives').fill('20')
  await inspector.getByLabel('Arrives').press('Enter')
  await desk.savedNow()
  await expect.poll(async () => (await bodyOf(film)).framings.f1.move).toMatchObject({ timing: { kind: 'cushioned', leaveFrames: 6, arriveFrames: 20 }, evenness: { kind: 'screen' } })
})

test('a locked framing refuses with a reason', async ({ page }) => {
  const film = await makeFilm({ framings: MOVE })
  const desk = new Desk(page)
  await desk.open(film.projectId)
  await page.getByLabel('Lock this framing').click()
  await expect(desk.mode).toHaveText('locked')
  const before = await desk.picture()
  await desk.drag(await desk.at(0, 0), await desk.at(0.1, 0))
  await expect(page.getByText('This framing is locked. Unlock it in the inspector')).toBeVisible()
  expect(await desk.picture()).toBe(before)
})

test('the camera and levels are dragged in the plan, and the picture is kept', async ({ page }) => {
  const film = await makeFilm()
  const desk = new Desk(page)
  await desk.open(film.projectId)
  const before = await desk.picture()
  const plan = (await page.getByTestId('plan').boundingBox())!
  // The far level's bar lies 2 fw behind the picture plane; the plan fits −1.6 … 2 into its height.
  const pxPerFw = Math.min((plan.width - 30) / 1.2, (plan.height - 40) / 3.6)
  const barY = plan.y + plan.height / 2 - (2 - 0.2) * pxPerFw
  const barX = plan.x + plan.width / 2
  await desk.drag({ x: barX - 4, y: barY }, { x: barX - 4, y: barY + pxPerFw })
  await desk.savedNow()
  const far = (await bodyOf(film)).levels.far
  expect(far.depth).toBeCloseTo(1, 1)
  expect(far.scale).toBeCloseTo((far.depth - REST.depth) / (2 - REST.depth), 6)
  expect((await compare(page, before, await desk.picture(), 8)).share).toBeLessThan(0.004)
  // Now it fits −1.6 … the far level.
  const refit = Math.min((plan.width - 30) / 1.2, (plan.height - 40) / (1.6 + far.depth))
  const camera = { x: plan.x + plan.width / 2, y: plan.y + plan.height / 2 - (REST.depth - (far.depth - 1.6) / 2) * refit }
  await desk.drag(camera, { x: camera.x + refit * 0.3, y: camera.y })
  await expect.poll(async () => Object.values<{ pose: { x: number } }>((await bodyOf(film)).framings)[0]?.pose.x ?? 0).toBeCloseTo(0.3, 1)
})

import { bodyOf, Desk, expect, makeFilm, test } from './desk'

const POST = { id: 'post', colour: '#c2452d', box: [-0.02, -0.1, 0.02, 0.1] as const, depth: 0, x: -0.3 }
const WIDE = { id: 'wide', colour: '#d9cf8a', box: [-3, -3, 3, 3] as const, depth: 6 }

test('a level is shown many times: steps, scatter, along a line and in a region that are drawn; undo names each', async ({ page }) => {
  const film = await makeFilm({ levels: [POST, WIDE] })
  const desk = new Desk(page)
  await desk.open(film.projectId)
  const isRed = async (u: number, v = 0) => {
    const [r, g] = await desk.pixel(u, v)
    return r! > 150 && g! < 120
  }
  const level = async () => {
    await desk.savedNow()
    return (await bodyOf(film)).levels.post
  }
  await page.locator('[data-level=post]').click()
  await page.keyboard.press('m')
  await page.getByTestId('repeat').click()
  const fields = page.getByTestId('repeat-fields')
  const set = async (label: string, value: string) => {
    await fields.getByLabel(label, { exact: true }).first().fill(value)
    await fields.getByLabel(label, { exact: true }).first().press('Enter')
  }
  // Beside itself, as wide as it is.
  await expect.poll(() => isRed(-0.14)).toBe(true)
  await set('times', '3')
  await set('x', '0.2')
  await expect.poll(() => Promise.all([-0.3, -0.1, 0.1, 0.3].map((u) => isRed(u)))).toEqual([true, true, true, false])
  await expect(page.getByTestId('repeat')).toHaveText('3 times')
  await expect(page.locator('[data-level=post]')).toContainText('×3')
  await expect(page.getByRole('button', { name: 'Undo step x of post' })).toBeVisible()
  expect((await level()).repeat).toMatchObject({ count: 3, lay: { kind: 'step', x: 0.2, y: 0 } })
  // A copy is taken by the hand as the level is; all of them go.
  const copy = await desk.at(0.1, 0)
  await page.keyboard.press('Escape')
  await page.mouse.click(copy.x, copy.y)
  await expect(page.locator('[data-level=post]')).toHaveClass(/selected/)
  // Along a line that is drawn in the lens view; Escape leaves it as it was.
  await fields.getByRole('button', { name: 'Along a line' }).click()
  await expect(page.getByText('Draw in the lens view the line that they stand along.')).toBeVisible()
  await page.keyboard.press('Escape')
  await expect(page.getByText('Draw in the lens view the line that they stand along.')).toBeHidden()
  await fields.getByRole('button', { name: 'Along a line' }).click()
  await desk.drag(await desk.at(-0.4, 0.1), await desk.at(0.4, 0.1), { steps: 12 })
  await expect(page.getByRole('button', { name: 'Undo post along a line' })).toBeVisible()
  // What they stand along is their foot.
  await expect.poll(() => Promise.all([-0.4, 0, 0.4].map((u) => isRed(u, 0.2)))).toEqual([true, true, true])
  await page.keyboard.press('Control+z')
  await expect.poll(() => Promise.all([-0.3, -0.1, 0.1].map((u) => isRed(u)))).toEqual([true, true, true])
  // In a region: round about the middle.
  await fields.getByRole('button', { name: 'In a region' }).click()
  const round = await Promise.all(Array.from({ length: 25 }, (_, i) => desk.at(0.25 * Math.cos((i * Math.PI) / 12), 0.12 * Math.sin((i * Math.PI) / 12))))
  await page.mouse.move(round[0]!.x, round[0]!.y)
  await page.mouse.down()
  for (const { x, y } of round) await page.mouse.move(x, y)
  await page.mouse.up()
  await expect(page.getByRole('button', { name: 'Undo fill with post' })).toBeVisible()
  const { repeat } = await level()
  expect(repeat.lay.kind).toBe('region')
  expect(repeat.lay.points.length).toBeLessThan(80)
  await fields.getByRole('button', { name: 'Steps' }).click()
  await expect(page.getByRole('button', { name: 'Undo post by steps' })).toBeVisible()
  await page.getByTestId('repeat').click()
  await expect(fields).toBeHidden()
  await expect.poll(() => Promise.all([-0.3, -0.1].map((u) => isRed(u)))).toEqual([true, false])
  expect('repeat' in (await level())).toBe(false)
})

test('ink goes where the pen is on a repeated level, and shows on each of them', async ({ page }) => {
  const film = await makeFilm({ levels: [{ ...POST, repeat: { count: 3, seed: 1, about: { x: 0, y: 0 }, lay: { kind: 'step', x: 0.25, y: 0 }, depth: 0, rollDegrees: 0, size: 1, scatter: { x: 0, y: 0, depth: 0, rollDegrees: 0, size: 0, mirrored: 0 }, stagger: 0 } }, WIDE] })
  const desk = new Desk(page)
  await desk.open(film.projectId)
  await page.locator('[data-level=post]').click()
  await page.keyboard.press('p')
  for (let i = 0; i < 6; i++) await page.keyboard.press(']')
  const before = await desk.pixel(-0.25, 0.12)
  await desk.drag(await desk.at(-0.32, 0.12), await desk.at(-0.2, 0.12), { steps: 8 })
  await expect.poll(() => desk.pixel(-0.25, 0.12)).not.toEqual(before)
  const ink = await desk.pixel(-0.25, 0.12)
  expect(await desk.pixel(0, 0.12)).toEqual(ink)
  expect(await desk.pixel(0.25, 0.12)).toEqual(ink)
})

import type { Page } from '@playwright/test'
import { bodyOf, Desk, expect, makeFilm, test } from './desk'

const NEAR = { id: 'near', colour: '#c2452d', box: [-0.1, -0.1, 0.1, 0.1] as const, depth: 0 }
const FAR = { id: 'far', colour: '#2e7a68', box: [-0.6, -0.2, 0.3, 0.4] as const, depth: 2 }
const WIDE = { id: 'wide', colour: '#d9cf8a', box: [-3, -3, 3, 3] as const, depth: 6 }

async function open(page: Page, levels: Parameters<typeof makeFilm>[0] = { levels: [NEAR, FAR, WIDE] }) {
  const film = await makeFilm(levels)
  const desk = new Desk(page)
  await desk.open(film.projectId)
  const row = (name: string) => page.locator(`[data-level=${name}]`)
  const depths = async () => {
    await desk.savedNow()
    return Object.fromEntries(Object.values<{ id: string; depth: number }>((await bodyOf(film)).levels).map(({ id, depth }) => [id, depth]))
  }
  const grip = async (name: string) => {
    const { x, y } = (await page.locator(`[data-rung=${name}]`).boundingBox())!
    return { x: x + 11, y: y + 12 }
  }
  const looks = () => Promise.all(([[0.05, 0.05], [-0.2, 0.1], [0.4, -0.2]] as const).map(([u, v]) => desk.pixel(u, v)))
  return { film, desk, row, depths, grip, looks }
}

test('chosen rungs are dragged together, each keeping its share of the distance and the picture', async ({ page }) => {
  const { desk, row, depths, grip, looks } = await open(page)
  const before = await looks()
  await row('near').click()
  await row('far').click({ modifiers: ['Control'] })
  const at = await grip('near')
  await desk.drag(at, { x: at.x, y: at.y + 40 }, { steps: 6 })
  await expect(page.getByRole('button', { name: 'Undo depth of 2 levels' })).toBeVisible()
  const now = await depths()
  expect(now.near).toBeGreaterThan(0.1)
  // The lens stands at −1.389: distances grow alike.
  expect((now.far! + 50 / 36) / (2 + 50 / 36)).toBeCloseTo((now.near! + 50 / 36) / (50 / 36), 6)
  expect(now.wide).toBe(6)
  await expect.poll(looks).toEqual(before)
  await page.keyboard.press('Control+z')
  expect(await depths()).toEqual({ near: 0, far: 2, wide: 6 })
})

test('a row tells the field at its level and what its art has to spare, as it is pushed', async ({ page }) => {
  const { desk, row, grip } = await open(page)
  const facts = (name: string) => row(name).getByTestId('rack-facts')
  await expect(facts('near')).toHaveText('1.00 −.40 −.18')
  // Three fw either way of six at 5.32 times as far.
  await expect(facts('wide')).toHaveText('5.32 +.06 +.28')
  await page.keyboard.press('Shift+P')
  await row('wide').click()
  const at = await grip('wide')
  await desk.drag(at, { x: at.x, y: at.y + 25 }, { steps: 5, hold: true })
  await expect(facts('wide')).toContainText(/ −\.\d\d /)
  await expect(row('wide')).toContainText(/\+\d+\.\d+, \d\d %/)
  await page.keyboard.press('Escape')
  await page.mouse.up()
  await expect(facts('wide')).toHaveText('5.32 +.06 +.28')
})

test('a distance is typed in what it is thought in; what is none says so', async ({ page }) => {
  const { row, depths } = await open(page, { levels: [{ ...NEAR, figure: true }, FAR, WIDE] })
  const field = page.getByTestId('distance')
  await row('far').click()
  await page.keyboard.press('Shift+G')
  await expect(field).toHaveValue('3.389')
  await field.fill('a mile')
  await expect(page.getByText('“a mile” is no distance.')).toBeVisible()
  await expect(page.getByRole('button', { name: 'Send there' })).toBeDisabled()
  await field.fill('-4')
  await expect(page.getByText('That is at the lens or behind it.')).toBeVisible()
  await field.fill('2 x')
  await expect(page.getByText('2.778 fw from the lens (+1.389 fw); the frame is 2.00 fw wide there.')).toBeVisible()
  await field.press('Enter')
  await expect(field).toBeHidden()
  expect((await depths()).far).toBeCloseTo(50 / 36, 6)
  // Another way in, and without the picture kept it says how large it will be.
  await page.keyboard.press('Shift+P')
  await row('far').click({ button: 'right' })
  await page.getByRole('menuitem', { name: 'Distance…' }).click()
  await field.fill('+100 %')
  await expect(page.getByText(/; seen 50 % as large\./)).toBeVisible()
  await field.press('Enter')
  await expect(row('far')).toContainText('50 %')
  expect((await depths()).far).toBeCloseTo((3 * 50) / 36, 6)
  await row('near').getByRole('button', { name: 'Type a distance for near' }).dblclick()
  await field.fill('@ 480 px')
  await field.press('Enter')
  expect((await depths()).near).toBe(1)
})

test('levels of one depth are listed by a drag, and set apart by the least that matters', async ({ page }) => {
  const { desk, row, depths, looks } = await open(page, { levels: [NEAR, { ...FAR, depth: 0 }, WIDE] })
  expect((await desk.pixel(0.05, 0.05))[0]).toBeGreaterThan(150)
  const red = await looks()
  await row('far').dragTo(row('near'), { targetPosition: { x: 60, y: 3 } })
  await expect(page.getByRole('button', { name: 'Undo list far nearer than near' })).toBeVisible()
  await expect.poll(async () => (await desk.pixel(0.05, 0.05))[0]).toBeLessThan(100)
  await page.keyboard.press('Control+z')
  await expect.poll(looks).toEqual(red)
  // Dropped on its middle it is fastened, as ever.
  await expect(row('near').getByTestId('rack-near')).toHaveAccessibleName('Set near and far apart')
  await row('near').getByTestId('rack-near').click()
  await expect(page.getByRole('button', { name: 'Undo set 2 levels apart' })).toBeVisible()
  await expect(row('near').getByTestId('rack-near')).toBeHidden()
  const now = await depths()
  expect(now.near).toBe(0)
  expect(now.far).toBeCloseTo(0.001, 9)
  expect(await looks()).toEqual(red)
  await row('near').click()
  await row('far').click({ modifiers: ['Control'] })
  await row('wide').click({ modifiers: ['Control'] })
  await row('wide').click({ button: 'right' })
  await page.getByRole('menuitem', { name: 'Flatten' }).click()
  expect(await depths()).toEqual({ near: 0, far: 0, wide: 0 })
  expect(await looks()).toEqual(red)
})

test('a group is folded to one row that stands for all its levels', async ({ page }) => {
  const { row, film } = await open(page)
  await row('near').click()
  await row('far').click({ modifiers: ['Control'] })
  await row('far').click({ button: 'right' })
  await page.getByRole('menuitem', { name: 'Group', exact: true }).click()
  await page.getByRole('button', { name: 'Fold Group 1' }).first().click()
  const fold = page.locator('[data-fold="Group 1"]')
  await expect(fold).toContainText('2 levels')
  await expect(fold).toContainText('+0.00 … +2.00 fw')
  await expect(row('near')).toBeHidden()
  await expect(page.locator('[data-rung=near]')).toBeVisible()
  await fold.getByRole('button', { name: 'Lock Group 1' }).click()
  await expect.poll(async () => Object.values<{ locked: boolean }>((await bodyOf(film)).levels).filter(({ locked }) => locked).length).toBe(2)
  await page.reload()
  await expect(fold).toBeVisible()
  await fold.getByRole('button', { name: 'Unfold Group 1' }).click()
  await expect(row('near')).toBeVisible()
})

test('levels are spread in one step, by ends on the ladder, in any order; seen before it is taken, the picture kept', async ({ page }) => {
  const { desk, row, depths, looks } = await open(page)
  const before = await looks()
  await page.keyboard.press('Shift+D')
  const panel = page.getByTestId('spread')
  const far = panel.getByLabel('far', { exact: true }).last()
  await far.fill('5')
  await far.press('Enter')
  await expect(row('wide')).toContainText('+5.00 fw')
  // Wherever the hand is, Escape puts everything back.
  await page.getByTestId('spread-near').focus()
  await page.keyboard.press('Escape')
  await expect(row('wide')).toContainText('+6.00 fw')
  await expect(panel).toBeHidden()
  await page.keyboard.press('Shift+D')
  const end = (await page.getByTestId('spread-far').boundingBox())!
  await desk.drag({ x: end.x + 20, y: end.y + 8 }, { x: end.x + 20, y: end.y - 40 }, { steps: 5 })
  await expect(far).not.toHaveValue('6')
  await far.fill('4')
  await far.press('Enter')
  await panel.getByRole('button', { name: 'Even steps' }).click()
  await page.getByLabel('Spread wide').uncheck()
  await expect(row('wide')).toContainText('+6.00 fw')
  await page.getByLabel('Spread wide').check()
  await expect(row('far')).toContainText('+2.00 fw')
  await panel.getByRole('button', { name: 'Spread', exact: true }).click()
  expect(await depths()).toEqual({ near: 0, far: 2, wide: 4 })
  await expect(page.getByRole('button', { name: 'Undo spread levels' })).toBeVisible()
  expect(await looks()).toEqual(before)
  // By size, the largest first: what was farthest comes nearest. Anything else that is done keeps it.
  await page.keyboard.press('Shift+D')
  await panel.getByLabel('Order: which comes near').click()
  await page.getByRole('option', { name: 'by size' }).click()
  await expect(row('wide')).toContainText('picture plane')
  await row('near').getByRole('button', { name: 'Type a distance for near' }).focus()
  await page.keyboard.press('Control+z')
  await expect(panel).toBeHidden()
  expect(await depths()).toEqual({ near: 0, far: 2, wide: 4 })
})

test('depths come from a drawing: feet under a horizon that is dragged in the lens view', async ({ page }) => {
  const post = (id: string, x: number, foot: number, height: number) => ({ id, colour: '#27241e', box: [x, foot, x + 0.05, foot + height] as const, depth: 0 })
  const { desk, depths, looks } = await open(page, { levels: [post('first', -0.3, -0.2, 0.3), post('second', 0.1, -0.1, 0.12), post('third', 0.2, -0.05, 0.08), { ...WIDE, colour: '#d9cf8a' }] })
  const before = await looks()
  await page.keyboard.press('Alt+J')
  const panel = page.getByTestId('spread')
  const horizon = panel.getByLabel('horizon', { exact: true }).last()
  await expect(horizon).toHaveValue('0')
  const line = (await page.getByTestId('horizon').boundingBox())!
  const { width } = await desk.frame()
  await desk.drag({ x: line.x + 300, y: line.y + 12 }, { x: line.x + 300, y: line.y + 12 - width * 0.1 }, { steps: 5 })
  await expect(horizon).toHaveValue(/^0\.(09|1)/)
  await horizon.fill('0')
  await horizon.press('Enter')
  await panel.getByRole('button', { name: 'Take these depths' }).click()
  const now = await depths()
  const k = 50 / 36
  // Half and a quarter as far under the horizon are twice and four times as far away.
  expect([now.first, now.second, now.third].map((depth) => Number((depth! + k).toFixed(6)))).toEqual([k, 2 * k, 4 * k].map((z) => Number(z.toFixed(6))))
  expect(now.wide).toBe(6)
  expect(await looks()).toEqual(before)
  await expect(page.getByRole('button', { name: 'Undo depths from the drawing' })).toBeVisible()
})

test('a level is turned out of the picture by its knob: in the plan, and through the lens with Y or X held', async ({ page }) => {
  const { film, desk, row } = await open(page)
  const turn = async () => {
    await desk.savedNow()
    const { panDegrees, tiltDegrees, rollDegrees } = (await bodyOf(film)).levels.near
    return [panDegrees, tiltDegrees, rollDegrees]
  }
  await row('near').click()
  const pane = (await page.getByTestId('plan').boundingBox())!
  // The bar lies level; its knob stands past its right end.
  const knob = await page.getByTestId('plan').evaluate((element) => {
    const canvas = element as HTMLCanvasElement
    const context = canvas.getContext('2d')!
    const ratio = canvas.width / canvas.clientWidth
    const { data } = context.getImageData(0, 0, canvas.width, canvas.height)
    // The selected bar is the only thick blue stroke that runs level: its rightmost px, on the row that has most of it.
    let best = { row: 0, count: 0, right: 0 }
    for (let y = 0; y < canvas.height; y++) {
      let [count, right] = [0, 0]
      for (let x = 0; x < canvas.width; x++) {
        const at = 4 * (y * canvas.width + x)
        if (Math.abs(data[at]! - 0x2a) < 8 && Math.abs(data[at + 1]! - 0x6a) < 8 && Math.abs(data[at + 2]! - 0x99) < 8) {
          count++
          right = x
        }
      }
      if (count > best.count) best = { row: y, count, right }
    }
    return { x: best.right / ratio, y: best.row / ratio, length: best.count / ratio }
  })
  const at = { x: pane.x + knob.x - 1, y: pane.y + knob.y }
  await page.keyboard.down('Shift')
  await desk.drag(at, { x: at.x - 3, y: at.y + knob.length * 0.6 }, { steps: 6 })
  await page.keyboard.up('Shift')
  const [pan, tilt] = await turn()
  expect(pan! % 15).toBe(0)
  expect(pan).toBeGreaterThan(0)
  expect(tilt).toBe(0)
  await expect(page.getByRole('button', { name: 'Undo pan near' })).toBeVisible()
  await page.keyboard.press('Control+z')
  expect(await turn()).toEqual([0, 0, 0])
  // Through the lens.
  await page.keyboard.press('m')
  const grip = async () => {
    const { x, y, width, height } = (await page.locator('[data-handle=turn]').boundingBox())!
    return { x: x + width / 2, y: y + height / 2 }
  }
  for (const [key, to] of [['y', [100, 0]], ['x', [0, -50]]] as const) {
    const from = await grip()
    await page.mouse.move(from.x, from.y)
    await page.mouse.down()
    await page.keyboard.down(key)
    await page.mouse.move(from.x + to[0], from.y + to[1], { steps: 5 })
    await page.mouse.up()
    await page.keyboard.up(key)
    const now = await turn()
    // A tilt about the set's own axis, of a level that is panned, is some of all three.
    if (key === 'y') expect(now).toEqual([40, 0, 0])
    else expect(now.every((degrees) => Math.abs(degrees!) > 1)).toBe(true)
  }
})

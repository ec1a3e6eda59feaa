import { bodyOf, Desk, expect, makeFilm, test } from './desk'

const BOX = { id: 'near', colour: '#c2452d', box: [-0.1, -0.1, 0.1, 0.1] as const, depth: 0 }
interface Framing { readonly pose: { readonly x: number; readonly depth: number; readonly panDegrees: number; readonly rollDegrees: number }; readonly panelId: string }

/** Takes hold while it counts in, and drags to the right by so much of the frame once the film plays. */
async function operate(desk: Desk, by: number) {
  const { page } = desk
  const began = page.getByTestId('operate-bar').getByText('Operating camera A').waitFor()
  const [from, to] = [await desk.at(0, 0), await desk.at(by, 0)]
  await page.mouse.move(from.x, from.y)
  await page.mouse.down()
  await began
  for (let i = 1; i <= 12; i++) await page.mouse.move(from.x + ((to.x - from.x) * i) / 12, from.y)
  await page.mouse.up()
}
const framingsOf = async (film: Awaited<ReturnType<typeof makeFilm>>) => Object.values<Framing>((await bodyOf(film)).framings)

test('a camera is worked by hand while the film plays; a try is looked at, written as few framings, and undone', async ({ page }) => {
  const film = await makeFilm({ levels: [BOX], panels: [120, 120] })
  const desk = new Desk(page)
  await desk.open(film.projectId)
  await page.getByRole('button', { name: 'Operate…' }).click()
  await expect(page.getByTestId('operate')).toHaveText(/[321]/)
  await operate(desk, 0.3)
  await page.keyboard.press('Space')
  const bar = page.getByTestId('operate-bar')
  await expect(bar.getByTestId('operated')).toContainText(/\d+ framings, \d/)
  // A try is looked at, not written: the camera went to the right, so the box is seen to the left at its end.
  expect(await framingsOf(film)).toHaveLength(0)
  await desk.goTo(115)
  await bar.getByRole('button', { name: 'Preview' }).click()
  await expect(page.getByTestId('shot-frame')).toHaveText(/^115/)
  await bar.getByRole('button', { name: 'Write framings' }).click()
  await expect(bar).toHaveCount(0)
  await desk.savedNow()
  const written = await framingsOf(film)
  expect(written.length).toBeGreaterThan(1)
  expect(written.length).toBeLessThan(12)
  expect(Math.max(...written.map(({ pose }) => pose.x))).toBeCloseTo(0.3, 1)
  await page.getByRole('button', { name: 'Undo operate the camera' }).click()
  await desk.savedNow()
  expect(await framingsOf(film)).toHaveLength(0)
})

test('tries are kept beside each other; keys and the hand-wheel work it too; giving up and a locked camera leave nothing', async ({ page }) => {
  const film = await makeFilm({ levels: [BOX], panels: [240, 240] })
  const desk = new Desk(page)
  await desk.open(film.projectId)
  const bar = page.getByTestId('operate-bar')
  // Counting in is called off.
  await page.keyboard.press('Alt+Shift+A')
  await expect(bar).toContainText('Take hold of the picture')
  await page.keyboard.press('Escape')
  await expect(bar).toHaveCount(0)
  // Nothing was done: nothing is kept, and that is said.
  await page.keyboard.press('Alt+Shift+A')
  await expect(bar).toContainText('Operating camera A')
  await page.keyboard.press('Space')
  await expect(page.getByText('The camera was not moved').first()).toBeVisible()
  await expect(page.getByTestId('shot-frame')).toHaveText(/^0 /)
  await page.keyboard.press('Alt+Shift+A')
  await operate(desk, 0.2)
  await expect(page.getByTestId('shot-frame')).toHaveText(/^([7-9]\d|1\d\d) /)
  await page.keyboard.press('Space')
  await expect(bar.getByTestId('try')).toHaveCount(1)
  // Again over a part: it begins and ends there by itself.
  await bar.getByRole('textbox', { name: 'from' }).fill('5')
  await page.keyboard.press('Enter')
  await bar.getByRole('textbox', { name: 'to', exact: true }).fill('65')
  await page.keyboard.press('Enter')
  await bar.getByRole('button', { name: 'Again' }).click()
  await operate(desk, 0.1)
  await expect(bar.getByTestId('try')).toHaveCount(2)
  await expect(bar.getByTestId('try').nth(1)).toHaveAttribute('title', /frames 5 to 65/)
  await bar.getByRole('button', { name: 'Throw try 2 away' }).click()
  await expect(bar.getByTestId('try')).toHaveCount(1)
  await bar.getByRole('button', { name: 'Again' }).click()
  await expect(bar).toContainText('Operating camera A')
  await page.keyboard.down('ArrowRight')
  const crank = (await page.getByRole('button', { name: 'Pan crank' }).boundingBox())!
  const [x, y, r] = [crank.x + crank.width / 2, crank.y + crank.height / 2, crank.width / 3]
  await page.mouse.move(x + r, y)
  await page.mouse.down()
  for (let i = 1; i <= 18; i++) await page.mouse.move(x + r * Math.cos(i / 3), y + r * Math.sin(i / 3))
  await page.mouse.up()
  await page.keyboard.up('ArrowRight')
  await page.keyboard.press('Space')
  await expect(bar.getByTestId('try')).toHaveCount(2)
  await expect(bar.getByTestId('operated')).toContainText('framings')
  // Smoothing is changed afterwards, and only a part is written.
  await bar.getByLabel('Smoothing, frames').fill('0')
  await expect(bar.getByTestId('operated')).toContainText('framings')
  await bar.getByRole('button', { name: 'Write framings' }).click()
  await desk.savedNow()
  const written = await framingsOf(film)
  expect(Math.max(...written.map(({ pose }) => pose.panDegrees))).toBeGreaterThan(5)
  expect(Math.max(...written.map(({ pose }) => pose.rollDegrees))).toBeGreaterThan(1)
  // Tries are kept with the shot; the other one is thrown away, which undo takes back.
  await page.reload()
  await expect(page.getByTestId('lens-host').locator('canvas').filter({ visible: true }).first()).toBeVisible()
  await page.keyboard.press('Alt+Shift+A')
  await bar.getByTestId('try').first().click()
  await bar.getByRole('button', { name: 'Throw try 1 away' }).click()
  await expect(bar.getByTestId('try')).toHaveCount(1)
  await page.getByRole('button', { name: 'Undo throw try 1 away' }).click()
  await expect(bar.getByTestId('try')).toHaveCount(2)
  await bar.getByTestId('try').first().click()
  await expect(bar.getByTestId('operated')).toContainText('framings')
  await page.keyboard.press('Escape')
  await expect(bar).toHaveCount(0)
  await page.keyboard.press('Alt+l')
  await page.keyboard.press('Alt+Shift+A')
  await bar.getByRole('button', { name: 'Again' }).click()
  await expect(page.getByText('is locked. Unlock it').first()).toBeVisible()
})

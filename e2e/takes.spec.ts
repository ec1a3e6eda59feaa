import { address, Desk, expect, json, makeFilm, post, test } from './desk'

const BOX = { id: 'near', colour: '#c2452d', box: [-0.1, -0.1, 0.1, 0.1] as const, depth: 0 }
const RED = [0xc2, 0x45, 0x2d]
const near = (found: readonly number[], wanted: readonly number[]) => {
  for (const [i, channel] of wanted.entries()) expect(Math.abs(found[i]! - channel), `${found} for ${wanted}`).toBeLessThanOrEqual(3)
}
/** A shot whose take A sees the box in the middle, and whose circled take B sees it to the left. */
async function twoTakes(desk: Desk) {
  const { page } = desk
  const film = await makeFilm({ levels: [BOX], panels: [24, 24] })
  await desk.open(film.projectId)
  await page.keyboard.press('Alt+Shift+C')
  await expect(page.getByTestId('takes-open')).toHaveText('take B of 2')
  await desk.drag(await desk.at(0, 0), await desk.at(-0.3, 0))
  await expect.poll(() => desk.pixel(-0.3, 0)).toEqual([...RED, 255])
  return film
}

test('a new take is circled and worked on; the other is circled, named, deleted, and each step is undone', async ({ page }) => {
  const desk = new Desk(page)
  const film = await twoTakes(desk)
  await page.getByTestId('takes-open').click()
  const card = (letter: string) => page.locator(`[data-test=take-card][data-letter=${letter}]`)
  await expect(card('B').getByRole('button', { name: 'Take B, circled' })).toHaveAttribute('aria-pressed', 'true')
  await card('B').getByText('no name').dblclick()
  await page.getByLabel('Name of take B').fill('nearer the wall')
  await page.keyboard.press('Enter')
  await expect(card('B')).toContainText('nearer the wall')
  await card('A').getByRole('button', { name: 'Circle take A' }).click()
  await expect(page.getByTestId('takes-open')).toHaveText('take A of 2')
  near(await desk.pixel(0, 0), RED)
  await card('B').getByRole('button', { name: 'Delete take B' }).click()
  await expect(card('B')).toHaveCount(0)
  await expect(card('A').getByRole('button', { name: 'Delete take A' })).toBeDisabled()
  await page.keyboard.press('Escape')
  await page.getByRole('button', { name: 'Undo delete take B, nearer the wall' }).click()
  await page.getByRole('button', { name: 'Undo circle take A' }).click()
  await expect(page.getByTestId('takes-open')).toHaveText('take B of 2')
  near(await desk.pixel(-0.3, 0), RED)
  // All of it is kept, the name too, and it goes along into a copy of the film.
  await expect(page.getByTestId('save-state')).toContainText('Saved')
  await page.reload()
  await expect(page.getByTestId('takes-open')).toHaveText('take B of 2')
  const copy = await json(`/api/projects/${film.projectId}/duplicate`, { method: 'POST' })
  const { outline } = await json(`/api/projects/${copy.project.id}`)
  expect(Object.values<{ name?: string }>(outline.takes).map(({ name }) => name)).toContain('nearer the wall')
})

test('two takes are flipped while a key is held, wiped by an edge, and stand side by side under one playhead', async ({ page }) => {
  const desk = new Desk(page)
  await twoTakes(desk)
  const other = page.getByTestId('lens-other')
  const otherPixel = async (u: number, v: number) => {
    const { x, y } = await desk.at(u, v)
    return other.locator('canvas').first().evaluate((canvas: HTMLCanvasElement, [px, py]) => {
      const box = canvas.getBoundingClientRect()
      const copy = document.createElement('canvas')
      Object.assign(copy, { width: canvas.width, height: canvas.height })
      const pen = copy.getContext('2d')!
      pen.drawImage(canvas, 0, 0)
      return [...pen.getImageData(Math.round(((px - box.left) * canvas.width) / box.width), Math.round(((py - box.top) * canvas.height) / box.height), 1, 1).data].slice(0, 3)
    }, [x, y] as const)
  }
  await page.keyboard.down('Alt')
  await page.keyboard.down('y')
  await expect(other).toContainText('A')
  // What it shows is there at once, and is the other take's.
  await expect.poll(() => otherPixel(0, 0)).toEqual(RED)
  expect(await otherPixel(-0.3, 0)).toEqual([255, 255, 255])
  await page.keyboard.up('y')
  await page.keyboard.up('Alt')
  await expect(other).toHaveCount(0)
  await page.keyboard.press('Alt+Shift+Y')
  const edge = page.getByTestId('wipe-edge')
  const at = (await edge.boundingBox())!
  await page.mouse.move(at.x + at.width / 2, at.y + at.height / 2)
  await page.mouse.down()
  await page.mouse.move(at.x + 60, at.y + at.height / 2, { steps: 4 })
  await page.mouse.up()
  expect((await edge.boundingBox())!.x).toBeGreaterThan(at.x + 30)
  await page.keyboard.press('Alt+Shift+Y')
  await expect(other).toHaveCount(0)
  await page.getByTestId('takes-open').click()
  await page.getByRole('button', { name: 'Side by side' }).click()
  await page.keyboard.press('Escape')
  const beside = page.getByTestId('other-take').locator('.picture-host')
  await expect(beside).toHaveAttribute('data-take', 'A')
  await desk.goTo(30)
  await expect(beside).toHaveAttribute('data-frame', '30')
})

test('another take’s framing lies faint over the lens view; with one take there is none to compare', async ({ page }) => {
  const desk = new Desk(page)
  await twoTakes(desk)
  await page.getByTestId('takes-open').click()
  await page.getByLabel('Whose framings lie faint').click()
  await page.getByRole('option', { name: 'take A' }).click()
  await expect(page.getByTestId('lens-plan')).toHaveAttribute('aria-label', 'Framing of take A')
  await page.keyboard.press('Escape')
  const film = await makeFilm({ levels: [BOX] })
  await desk.open(film.projectId)
  await page.keyboard.press('Alt+Shift+Y')
  await expect(page.getByText('This shot has one take.').first()).toBeVisible()
})

test('a version’s framing lies faint over the lens view, and its picture stands in a second window under the same playhead', async ({ page, context }) => {
  const desk = new Desk(page)
  const film = await twoTakes(desk)
  await desk.savedNow()
  const { id } = await post(`/api/projects/${film.projectId}/versions`, { name: 'To the left', author: '', reason: 'hand' })
  await desk.drag(await desk.at(-0.3, 0), await desk.at(0, 0))
  await desk.savedNow()
  await page.getByTestId('takes-open').click()
  await page.getByLabel('Whose framings lie faint').click()
  // As long as a hand presses: the list is going by then, and what it was opened from stays.
  await page.getByRole('option', { name: 'To the left' }).click({ delay: 120 })
  await expect(page.getByTestId('lens-plan')).toHaveAttribute('aria-label', 'Framing of To the left')
  await expect(page.getByRole('button', { name: 'In a second window' })).toBeVisible()
  await page.keyboard.press('Escape')
  const second = await context.newPage()
  await second.goto(`${address()}/film/${film.projectId}/second?version=${id}`)
  await expect(second.getByText('version “To the left”')).toBeVisible()
  await page.bringToFront()
  await desk.goTo(30)
  await expect(second.getByTestId('lens-host')).toHaveAttribute('data-frame', '30')
  const there = new Desk(second)
  await expect.poll(async () => (await there.pixel(-0.3, 0)).slice(0, 3)).toEqual(RED)
  near(await desk.pixel(0, 0), RED)
})

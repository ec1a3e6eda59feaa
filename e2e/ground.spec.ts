import { bodyOf, Desk, expect, makeFilm, test } from './desk'
import { marksOf } from './paper'

test('the ground, its horizon and its vanishing points lie over the picture; a straight line is drawn towards them', async ({ page }) => {
  const film = await makeFilm({ framings: [{ frame: 0, pose: { panDegrees: 12 } }], levels: [{ id: 'near', colour: '#c2452d', box: [-0.02, -0.1, 0.02, 0.1], depth: 0 }] })
  const desk = new Desk(page)
  await desk.open(film.projectId)
  const ground = page.getByTestId('ground')
  await expect(ground).toBeHidden()
  await page.keyboard.press('Shift+U')
  await expect(ground).toBeVisible()
  await expect(ground.getByText('into depth')).toBeVisible()
  // The lens looks 12° to the right: depth goes away to the left of the middle, on the horizon.
  const point = (await ground.locator('.point path').first().boundingBox())!
  const meet = await desk.at(-(50 / 36) * Math.tan((12 * Math.PI) / 180), 0)
  expect(Math.hypot(point.x + point.width / 2 - meet.x, point.y + point.height / 2 - meet.y)).toBeLessThan(2)
  // It is set where the other guides are.
  await page.getByRole('button', { name: 'Safe areas, framings, matte, ground' }).click()
  const squares = () => ground.locator('.squares').getAttribute('d')
  const before = await squares()
  const field = page.getByLabel('ground at', { exact: true })
  await field.fill('-0.5')
  await field.press('Enter')
  await expect.poll(squares).not.toBe(before)
  await page.keyboard.press('Escape')
  // A line a few degrees off is drawn to the point.
  await page.locator('[data-level=near]').click()
  await page.keyboard.press('p')
  await page.keyboard.press('l')
  const from = await desk.at(0.2, -0.2)
  const [dx, dy] = [meet.x - from.x, meet.y - from.y]
  await desk.drag(from, { x: from.x + dx * 0.5 + 8, y: from.y + dy * 0.5 + 4 }, { steps: 8 })
  await desk.savedNow()
  const shown = (await bodyOf(film)).cells['near.p1'].drawingId
  const line = (await marksOf(film, shown)).find((mark) => mark.kind === 'stroke')
  const points = line?.kind === 'stroke' ? line.points : []
  const [x0, y0, x1, y1] = [points[0]!, points[1]!, points.at(-3)!, points.at(-2)!]
  // In a level that lies square to the set's depth the line goes to where the depth axis through the lens meets it: straight under the lens.
  expect((x1 - x0) * (0 - y0) - (y1 - y0) * (0 - x0)).toBeCloseTo(0, 3)
  await page.keyboard.press('Shift+U')
  await expect(ground).toBeHidden()
})

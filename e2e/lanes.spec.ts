import { compareOrdered } from '@rubato/core/document'
import { addLane } from '@rubato/core/edits'
import { Desk, expect, test } from './desk'
import { change, lane, outlineOf, twoShots } from './soundFilm'

const orderOf = async (projectId: string) => Object.values((await outlineOf(projectId)).lanes).sort(compareOrdered).map((each) => each.name)

test('lanes are ordered by carrying their heads, told where they would lie, and a click still opens what is behind the name', async ({ page }) => {
  await page.setViewportSize({ width: 1280, height: 1000 })
  const film = await twoShots()
  const { projectId } = film
  await change(projectId, ...(['Voices', 'Steps', 'Wind'] as const).map((name, i) => (f: Parameters<Parameters<typeof change>[1]>[0]) => addLane(f.outline, projectId, { ...lane(name, i === 0 ? 'voices' : 'effects') })))
  const desk = new Desk(page)
  await desk.open(projectId)
  const name = (of: string) => page.getByTestId('lane-head').getByRole('button', { name: of, exact: true })
  const middle = async (of: string) => {
    await name(of).scrollIntoViewIfNeeded()
    const box = (await name(of).boundingBox())!
    return { x: box.x + 20, y: box.y + 12 }
  }
  const place = page.getByTestId('lane-place')

  // Up over both.
  const [wind, voices] = [await middle('Wind'), await middle('Voices')]
  await desk.drag(wind, { x: wind.x, y: voices.y - 8 }, { hold: true })
  await expect(place).toBeVisible()
  await page.mouse.up()
  await expect(place).toHaveCount(0)
  await desk.savedNow()
  expect(await orderOf(projectId)).toEqual(['Wind', 'Voices', 'Steps'])
  await expect(page.getByRole('dialog')).toHaveCount(0)

  // Escape leaves it, and so does letting go where it lies.
  const top = await middle('Wind')
  await desk.drag(top, { x: top.x, y: (await middle('Steps')).y + 20 }, { hold: true })
  await page.keyboard.press('Escape')
  await expect(place).toHaveCount(0)
  await page.mouse.up()
  await desk.drag(top, { x: top.x, y: top.y + 9 })
  expect(await orderOf(projectId)).toEqual(['Wind', 'Voices', 'Steps'])

  // Below all, and back by undo, which says what it undoes.
  await desk.drag(top, { x: top.x, y: (await middle('Steps')).y + 40 })
  await desk.savedNow()
  expect(await orderOf(projectId)).toEqual(['Voices', 'Steps', 'Wind'])
  await page.getByRole('button', { name: 'Undo move lane Wind' }).click()
  await desk.savedNow()
  expect(await orderOf(projectId)).toEqual(['Wind', 'Voices', 'Steps'])

  await name('Steps').click()
  await expect(page.getByRole('textbox', { name: 'Name of the lane' })).toHaveValue('Steps')
  await page.getByRole('button', { name: 'Up', exact: true }).click()
  await desk.savedNow()
  expect(await orderOf(projectId)).toEqual(['Wind', 'Steps', 'Voices'])
})

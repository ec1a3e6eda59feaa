import { bodyOf, Desk, expect, json, makeFilm, test } from './desk'
import { Paper } from './paper'

const NEAR = { id: 'near', colour: '#c2452d', box: [-0.1, -0.1, 0.1, 0.1] as const, depth: 0, x: 2 }

test('a figure is put, changes its pose from a frame on, fades with all others, and is drawn over on a level that goes along', async ({ page }) => {
  const film = await makeFilm({ levels: [NEAR] })
  const desk = new Desk(page)
  await desk.open(film.projectId)
  const levels = async () => {
    await desk.savedNow()
    return Object.values<{ id: string; name: string; standIn?: boolean; facing?: string; x: number; scale: number; carrier?: { levelId: string } }>((await bodyOf(film)).levels)
  }
  const form = page.getByRole('form', { name: 'Stand-in' })
  await page.keyboard.press('Alt+Shift+e')
  await form.getByRole('button', { name: 'Figure' }).click()
  await form.getByRole('button', { name: 'side', exact: true }).click()
  await form.getByRole('button', { name: 'walking' }).click()
  await expect(form.getByText('A frame width is taken for 4 m.')).toBeVisible()
  expect(await form.locator('svg path').count()).toBeGreaterThan(20)
  await form.getByRole('button', { name: 'Put it' }).click()
  await expect(page.getByRole('button', { name: 'Undo put Figure 1' })).toBeVisible()
  await expect(form).toHaveCount(0)
  const figure = (await levels()).find(({ name }) => name === 'Figure 1')!
  expect(figure).toMatchObject({ standIn: true, facing: 'upright' })
  // Its feet are 0.2 under the middle, and 1.7 m of 4 m a frame width are 0.425.
  const isBlue = ([r, g, b]: number[]) => b! > r! + 8 && b! > g!
  await expect.poll(async () => isBlue(await desk.pixel(0, 0.05))).toBe(true)
  expect(isBlue(await desk.pixel(0, 0.26))).toBe(false)

  await desk.goTo(12)
  await page.getByRole('button', { name: 'Put a stand-in' }).click()
  await form.getByRole('button', { name: 'sitting' }).click()
  await form.getByRole('button', { name: 'Change Figure 1 here' }).click()
  await expect(page.getByRole('button', { name: 'Undo another pose of Figure 1' })).toBeVisible()
  await desk.savedNow()
  expect(Object.keys((await bodyOf(film)).cells).filter((id) => id.startsWith(figure.id)).sort()).toEqual([`${figure.id}.p1`, `${figure.id}.p1.12`])

  // All of them as one, in this browser alone.
  await page.getByRole('button', { name: 'Safe areas, framings, matte, ground' }).click()
  await page.getByRole('slider', { name: 'How strongly stand-ins show' }).fill('0')
  await page.keyboard.press('Escape')
  await expect.poll(async () => isBlue(await desk.pixel(0, -0.1))).toBe(false)
  await page.getByRole('button', { name: 'Safe areas, framings, matte, ground' }).click()
  await page.getByRole('slider', { name: 'How strongly stand-ins show' }).fill('1')
  await page.keyboard.press('Escape')
  await expect.poll(async () => isBlue(await desk.pixel(0, -0.1))).toBe(true)

  await page.keyboard.press('Alt+Shift+v')
  await expect(page.getByRole('button', { name: 'Undo draw over Figure 1' })).toBeVisible()
  const over = (await levels()).find(({ carrier }) => carrier?.levelId === figure.id)!
  expect(over.name).toBe('Figure 1 1')
  expect(over.standIn).toBeUndefined()
  const before = await desk.pixel(0, -0.1)
  await page.keyboard.press('d')
  const paper = new Paper(page)
  await expect(page.getByTestId('paper-host')).toHaveAttribute('data-resampling', 'exact')
  // Under the pen it lies fainter.
  await expect.poll(async () => (await paper.pixel(0, -0.1))[0]! > before[0]! + 15).toBe(true)
  await paper.stroke([-0.1, -0.1], [0.1, -0.1])
  await expect(page.getByRole('button', { name: 'Undo stroke on Figure 1 1' })).toBeVisible()
})

test('one length declares the scale: a box is put in metres, the plan tells them, and a movie leaves stand-ins out', async ({ page }) => {
  const film = await makeFilm({ levels: [{ ...NEAR, x: 0 }] })
  const desk = new Desk(page)
  await desk.open(film.projectId)
  const form = page.getByRole('form', { name: 'Stand-in' })
  await page.locator('[data-level=near]').click()
  await page.keyboard.press('Alt+Shift+e')
  const tall = form.getByLabel('near is')
  await tall.fill('0.5')
  await tall.press('Enter')
  await expect(page.getByRole('button', { name: 'Undo near is 0.5 m tall' })).toBeVisible()
  await expect(form.getByText('A frame width is 2.5 m.')).toBeVisible()
  await desk.savedNow()
  expect((await json(`/api/projects/${film.projectId}`)).outline.project[film.projectId].metresPerFw).toBeCloseTo(2.5, 9)
  await form.getByRole('button', { name: 'Box' }).click()
  for (const [name, value] of [['width', '0.5'], ['height', '0.4'], ['deep', '0.8']] as const) {
    await form.getByLabel(name, { exact: true }).fill(value)
    await form.getByLabel(name, { exact: true }).press('Enter')
  }
  await form.getByRole('button', { name: 'Put it' }).click()
  await expect(page.getByRole('button', { name: 'Undo put Box 1' })).toBeVisible()
  await expect(form).toHaveCount(0)
  await desk.savedNow()
  const levels = Object.values<{ name: string; standIn?: boolean; group?: string; id: string }>((await bodyOf(film)).levels).filter(({ group }) => group === 'Box 1')
  expect(levels).toHaveLength(6)
  expect(levels.every(({ standIn }) => standIn === true)).toBe(true)
  await page.keyboard.press('Control+z')
  await expect(page.getByRole('button', { name: 'Undo near is 0.5 m tall' })).toBeVisible()
  await page.keyboard.press('Control+Shift+z')
  await page.getByRole('button', { name: /^Hand over/ }).click()
  await expect(page.getByText('are left out').first()).toBeVisible()
})

test('in a room a figure stands on the floor that is seen, whole', async ({ page }) => {
  const film = await makeFilm({ levels: [{ ...NEAR, x: 5 }] })
  const desk = new Desk(page)
  await desk.open(film.projectId)
  await page.keyboard.press('Alt+f')
  await desk.drag(await desk.at(-0.3, -0.1), await desk.at(0.3, 0.2))
  await expect(page.getByRole('button', { name: 'Undo build a room' })).toBeVisible()
  await page.keyboard.press('Alt+Shift+e')
  await page.getByRole('form', { name: 'Stand-in' }).getByRole('button', { name: 'Put it' }).click()
  await expect(page.getByRole('button', { name: 'Undo put Figure 1' })).toBeVisible()
  await desk.savedNow()
  const levels = Object.values<{ name: string; y: number; depth: number }>((await bodyOf(film)).levels)
  const [figure, floor] = ['Figure 1', 'Floor'].map((name) => levels.find((level) => level.name === name)!)
  expect(figure!.y).toBeCloseTo(floor!.y, 9)
  // Its feet are seen where they were to be: 0.2 under the middle, so that much nearer than the far wall's foot is.
  expect((figure!.depth + 50 / 36) * 0.2).toBeCloseTo(-floor!.y * (50 / 36), 9)
})

import { goOn } from '../scripts/inPage.mjs'
import { outlineOf, twoShots } from './soundFilm'
import { address, bodyOf, compare, Desk, drawingsOf, expect, makeFilm, REST, test } from './desk'

test('from opening to reload: key a truck-in, push a level back, draw, reload, and all is there', async ({ page }) => {
  test.setTimeout(150_000)
  const desk = new Desk(page)
  await desk.open('salt-lantern')
  await page.getByRole('combobox', { name: 'Shot' }).click()
  await page.getByRole('option', { name: /030 Lamp room/ }).click()
  await expect(page.getByTestId('shot-frame')).toHaveText('0 / 88 f')

  // A truck-in: key the start, go to the last frame, truck, key.
  await page.keyboard.press('q')
  await page.keyboard.press('End')
  await expect(page.getByTestId('shot-frame')).toHaveText('87 / 88 f')
  await page.getByRole('button', { name: 'Auto-key' }).click()
  const centre = await desk.at(0, 0)
  await page.mouse.move(centre.x, centre.y)
  await page.mouse.wheel(0, -300)
  await desk.savedNow()
  await page.getByRole('button', { name: 'Auto-key' }).click()
  await page.keyboard.press('Home')
  await expect(page.getByLabel('Inspector')).toContainText(/truck in \d+ %/)

  // Push the lighthouse back; the picture does not change.
  await page.keyboard.press('Shift+M')
  await page.keyboard.press('Shift+M')
  const before = await desk.picture()
  await page.locator('[data-level=lighthouse]').click()
  const depth = page.getByTestId('level-depth').locator('input')
  await depth.fill('2.5')
  await depth.press('Enter')
  await expect(page.locator('[data-level=lighthouse]')).toContainText('+2.50 fw')
  const kept = await compare(page, before, await desk.picture(), 24)
  expect(kept.share).toBeLessThan(0.004)

  // A stroke on Oskar's level.
  await page.locator('[data-level=oskar]').click()
  await page.keyboard.press('p')
  await desk.drag(await desk.at(-0.3, 0), await desk.at(-0.1, 0.08), { steps: 12 })
  await expect(page.getByLabel('Undo stroke on Oskar')).toBeEnabled()
  await desk.savedNow()
  const ink = await desk.pixel(-0.2, 0.04)
  expect(ink[0]).toBeLessThan(120)

  await page.reload()
  await expect(page.getByTestId('shot-frame')).toHaveText('0 / 88 f')
  await expect(page.locator('[data-level=lighthouse]')).toContainText('+2.50 fw')
  await expect(page.getByLabel('Inspector')).toContainText(/truck in \d+ %/)
  await expect.poll(async () => (await desk.pixel(-0.2, 0.04))[0]).toBeLessThan(120)
})

test('playing keeps real time by the clock and loops the shot', async ({ page }) => {
  const film = await makeFilm({ framings: [{ frame: 0, pose: {} }, { frame: 47, pose: { x: 0.3 } }] })
  const desk = new Desk(page)
  await desk.open(film.projectId)
  await page.keyboard.press('Space')
  await expect(page.getByTestId('meter')).toBeVisible()
  const sample = () => page.evaluate(() => ({ frame: Number(document.querySelector<HTMLElement>('[data-test=lens-host]')!.dataset.frame), at: performance.now() }))
  const first = await sample()
  await page.waitForTimeout(1000)
  const second = await sample()
  const due = ((second.at - first.at) / 1000) * 24
  const went = (((second.frame - first.frame) % 48) + 48) % 48
  expect(Math.abs(went - (due % 48))).toBeLessThan(6)
  await page.waitForTimeout(1500)
  expect((await sample()).frame).toBeLessThan(48)
  await page.keyboard.press('Space')
  await expect(page.getByRole('button', { name: 'Play', exact: true })).toBeVisible()
  await expect(page.getByTestId('save-state')).toHaveText('Saved')
})

test('steps, Home and End go where they say', async ({ page }) => {
  const film = await makeFilm()
  const desk = new Desk(page)
  await desk.open(film.projectId)
  const frame = page.getByTestId('shot-frame')
  await page.keyboard.press('.')
  await page.keyboard.press('.')
  await expect(frame).toHaveText('2 / 48 f')
  await page.keyboard.press(',')
  await expect(frame).toHaveText('1 / 48 f')
  await page.keyboard.press('End')
  await expect(frame).toHaveText('47 / 48 f')
  await expect(page.getByTestId('timecode')).toHaveValue('00:00:01:23')
  await page.keyboard.press('Home')
  await expect(frame).toHaveText('0 / 48 f')
})

test('a reload comes back to the view and the shot, and the address names no other on the way', async ({ page }) => {
  const film = await twoShots()
  const { label } = (await outlineOf(film.projectId)).shots.second!
  const desk = new Desk(page)
  await desk.open(film.projectId)
  await page.keyboard.press('Shift+PageDown')
  await page.keyboard.press('Alt+2')
  const there = new RegExp(`view=draw&shot=${label}$`)
  await expect(page).toHaveURL(there)
  const named: string[] = []
  page.on('framenavigated', (frame) => named.push(frame.url()))
  for (let n = 0; n < 3; n++) {
    await page.reload()
    await expect(page.getByTestId('paper')).toBeVisible()
    await expect(page.getByRole('combobox', { name: 'Shot' })).toContainText(label)
  }
  expect(named.filter((url) => !there.test(url))).toEqual([])
  await page.keyboard.press('Alt+3')
  await expect(page).toHaveURL(new RegExp(`view=desk&shot=${label}$`))
})

test('a panel’s edge is dragged, live, and undo names it and brings it back', async ({ page }) => {
  const film = await makeFilm({ framings: [{ frame: 0, pose: {} }, { frame: 30, pose: { x: 0.3 } }] })
  const desk = new Desk(page)
  await desk.open(film.projectId)
  const edge = await desk.strip(24, 'panels')
  const to = await desk.strip(36, 'panels')
  await desk.drag(edge, to)
  await desk.savedNow()
  await expect(page.getByTestId('shot-frame')).toHaveText(/\/ 60 f/)
  const body = await bodyOf(film)
  expect(body.panels.p1.lengthFrames).toBe(36)
  expect(body.framings.f2).toMatchObject({ panelId: 'p2', offsetFrames: 6 })
  await page.getByLabel('Undo length of panel 1').click()
  await expect(page.getByTestId('shot-frame')).toHaveText(/\/ 48 f/)
  await page.keyboard.press('Control+Shift+Z')
  await expect(page.getByTestId('shot-frame')).toHaveText(/\/ 60 f/)
  await desk.savedNow()
})

test('a bead is dragged in time, copied, pasted and deleted', async ({ page }) => {
  const film = await makeFilm({ framings: [{ frame: 4, pose: {} }, { frame: 20, pose: { x: 0.3 } }] })
  const desk = new Desk(page)
  await desk.open(film.projectId)
  await desk.drag(await desk.strip(20, 'camera'), await desk.strip(30, 'camera'))
  await expect.poll(async () => (await bodyOf(film)).framings.f2).toMatchObject({ panelId: 'p2', offsetFrames: 6 })
  const bead = await desk.strip(4, 'camera')
  await page.mouse.click(bead.x, bead.y)
  await page.keyboard.press('Control+c')
  await desk.goTo(44)
  await page.keyboard.press('Control+v')
  await expect.poll(async () => Object.keys((await bodyOf(film)).framings).length).toBe(3)
  await expect(page.getByTestId('camera-x').locator('input')).toHaveValue('0')
  await page.keyboard.press('Delete')
  await expect.poll(async () => Object.keys((await bodyOf(film)).framings).length).toBe(2)
  await page.keyboard.press('Control+z')
  await expect(page.getByTestId('shot-frame')).toHaveText('44 / 48 f')
  await expect.poll(async () => Object.keys((await bodyOf(film)).framings).length).toBe(3)
})

test('the rack adds, renames, hides, locks, duplicates and deletes levels', async ({ page }) => {
  const film = await makeFilm()
  const desk = new Desk(page)
  await desk.open(film.projectId)
  const rack = page.getByLabel('Depth rack')
  await rack.getByRole('button', { name: 'New level', exact: true }).click()
  await expect(page.locator('[data-level]')).toHaveCount(3)
  await rack.getByText('Level 1').dblclick()
  await page.getByLabel('Name', { exact: true }).fill('Sky behind')
  await page.getByLabel('Name', { exact: true }).press('Enter')
  await expect(rack.getByText('Sky behind')).toBeVisible()
  const red = await desk.pixel(0, 0)
  await rack.getByLabel('Hide near').click()
  await expect.poll(() => desk.pixel(0, 0)).not.toEqual(red)
  await rack.getByLabel('Show near').click()
  await expect.poll(() => desk.pixel(0, 0)).toEqual(red)
  await rack.getByLabel('Lock near', { exact: true }).click()
  await page.locator('[data-level=near]').click()
  await page.keyboard.press('m')
  await desk.drag(await desk.at(0, 0), await desk.at(0.2, 0))
  await expect(page.getByText('near is locked.')).toBeVisible()
  await page.locator('[data-level=far]').hover()
  await rack.getByLabel('More for far').click()
  await page.getByRole('menuitem', { name: 'Duplicate' }).click()
  await expect(rack.getByText('far 1')).toBeVisible()
  await page.locator('[data-level=far]').hover()
  await rack.getByLabel('More for far', { exact: true }).click()
  await page.getByRole('menuitem', { name: 'Delete' }).click()
  await expect(page.locator('[data-level=far]')).toHaveCount(0)
  await desk.savedNow()
})

test('a rung is dragged: the picture stays with Keep the picture, and changes without', async ({ page }) => {
  const film = await makeFilm()
  const desk = new Desk(page)
  await desk.open(film.projectId)
  const before = await desk.picture()
  const rung = (await page.getByLabel(/^Depth of far/).boundingBox())!
  const grip = { x: rung.x + 11, y: rung.y + 12 }
  await desk.drag(grip, { x: grip.x, y: grip.y + 60 })
  await desk.savedNow()
  const far = (await bodyOf(film)).levels.far
  expect(far.depth).toBeGreaterThan(2.5)
  expect(far.scale).toBeCloseTo((far.depth - REST.depth) / (2 - REST.depth), 6)
  expect((await compare(page, before, await desk.picture(), 8)).share).toBeLessThan(0.004)
  await page.getByRole('button', { name: 'Keep the picture' }).click()
  const again = (await page.getByLabel(/^Depth of far/).boundingBox())!
  await desk.drag({ x: again.x + 11, y: again.y + 12 }, { x: again.x + 11, y: again.y - 90 })
  await expect.poll(async () => (await bodyOf(film)).levels.far.depth).toBeLessThan(far.depth)
  expect((await bodyOf(film)).levels.far.scale).toBe(far.scale)
})

test('the pencil draws under the pointer whatever the camera, the eraser takes it away, and undo goes stroke by stroke', async ({ page }) => {
  const film = await makeFilm({ framings: [{ frame: 0, pose: { x: 0.3, y: -0.1, depth: -0.8, rollDegrees: 20, focalLengthMm: 35 } }] })
  const desk = new Desk(page)
  await desk.open(film.projectId)
  await page.locator('[data-level=near]').click()
  await page.keyboard.press('p')
  for (let i = 0; i < 4; i++) await page.keyboard.press(']')
  const white = await desk.pixel(0.3, 0.2)
  await desk.drag(await desk.at(0.2, 0.2), await desk.at(0.4, 0.2), { steps: 10 })
  await expect.poll(async () => (await desk.pixel(0.3, 0.2))[0]).toBeLessThan(90)
  await page.keyboard.press('e')
  await desk.drag(await desk.at(0.3, 0.15), await desk.at(0.3, 0.25), { steps: 8 })
  await expect.poll(() => desk.pixel(0.3, 0.2)).toEqual(white)
  await page.keyboard.press('Control+z')
  await expect.poll(async () => (await desk.pixel(0.3, 0.2))[0]).toBeLessThan(90)
  await page.keyboard.press('Control+z')
  await expect.poll(() => desk.pixel(0.3, 0.2)).toEqual(white)
  await desk.savedNow()
})

test('drawing on a held level starts a new drawing there, and the panel before stays', async ({ page }) => {
  const film = await makeFilm()
  const desk = new Desk(page)
  await desk.open(film.projectId)
  await desk.goTo(30)
  await page.locator('[data-level=near]').click()
  await page.keyboard.press('p')
  await expect(page.getByText('near, a new drawing here')).toBeVisible()
  await desk.drag(await desk.at(-0.4, 0.2), await desk.at(-0.2, 0.2), { steps: 8 })
  await desk.savedNow()
  const body = await bodyOf(film)
  expect(body.cells['near.p1'].drawingId).toBe('d-near')
  const own = body.cells['near.p2'].drawingId
  const [drawing] = await drawingsOf(film.projectId, [own])
  expect(Object.values<{ kind: string }>(drawing.drawing.marks).map((mark) => mark.kind)).toEqual(['stroke'])
})

test('a pen’s pressure is kept with the stroke', async ({ page }) => {
  const film = await makeFilm()
  const desk = new Desk(page)
  await desk.open(film.projectId)
  await page.locator('[data-level=near]').click()
  await page.keyboard.press('p')
  const session = await page.context().newCDPSession(page)
  const send = async (type: string, u: number, force: number) => {
    const { x, y } = await desk.at(u, -0.08)
    await session.send('Input.dispatchMouseEvent', { type, x, y, button: 'left', buttons: type === 'mouseReleased' ? 0 : 1, clickCount: 1, pointerType: 'pen', force } as never)
  }
  await send('mousePressed', -0.4, 0.2)
  for (let i = 1; i <= 10; i++) await send('mouseMoved', -0.4 + i * 0.02, 0.2 + i * 0.07)
  await send('mouseReleased', -0.2, 0)
  await desk.savedNow()
  const [drawing] = await drawingsOf(film.projectId, ['d-near'])
  const stroke = Object.values<{ kind: string; points: number[] }>(drawing.drawing.marks).find((mark) => mark.kind === 'stroke')!
  const pressures = stroke.points.filter((_, i) => i % 3 === 2)
  expect(Math.min(...pressures)).toBeLessThan(0.35)
  expect(Math.max(...pressures)).toBeGreaterThan(0.8)
})

test('commands are found by name and run', async ({ page }) => {
  const film = await makeFilm()
  const desk = new Desk(page)
  await desk.open(film.projectId)
  await page.keyboard.press('Control+k')
  await page.getByLabel('Search commands').fill('thirds')
  await page.keyboard.press('Enter')
  await expect(page.locator('button', { hasText: 'Thirds' })).toHaveAttribute('aria-pressed', 'true')
  await page.keyboard.press('Control+k')
  await page.getByLabel('Search commands').fill('new shot')
  await page.keyboard.press('Enter')
  await expect(page.getByText('Shot 020')).toBeVisible()
  await desk.savedNow()
})

test('what was refused in one film is not told of in the next, where the same is told anew', async ({ page }) => {
  const [film, next] = [await makeFilm(), await makeFilm({ title: 'Next' })]
  const desk = new Desk(page)
  await desk.open(film.projectId)
  const told = page.getByText('“notes.png” was not placed')
  const refused = async () => {
    const chooser = page.waitForEvent('filechooser')
    await page.getByLabel('Place pictures on new levels').click()
    await (await chooser).setFiles({ name: 'notes.png', mimeType: 'image/png', buffer: Buffer.from('these are words') })
    await expect(told).toBeVisible()
  }
  await refused()
  await goOn(page, `${address()}/film/${next.projectId}?view=desk`)
  await expect(page.getByText('Next', { exact: true })).toBeVisible()
  // It would have stood there for some seconds more.
  await expect(told).toHaveCount(0, { timeout: 1500 })
  await refused()
})

test('a picture is placed by its bytes, and something else is refused by name', async ({ page }) => {
  const film = await makeFilm()
  const desk = new Desk(page)
  await desk.open(film.projectId)
  const png = Buffer.from(
    await page.evaluate(async () => {
      const canvas = new OffscreenCanvas(240, 135)
      const context = canvas.getContext('2d')!
      context.fillStyle = '#2a6a99'
      context.fillRect(0, 0, 240, 135)
      return [...new Uint8Array(await (await canvas.convertToBlob()).arrayBuffer())]
    }),
  )
  const choose = async (name: string, buffer: Buffer) => {
    const chooser = page.waitForEvent('filechooser')
    await page.getByLabel('Place pictures on new levels').click()
    await (await chooser).setFiles({ name, mimeType: 'image/png', buffer })
  }
  await choose('notes.png', Buffer.from('these are words'))
  await expect(page.getByText('“notes.png” was not placed')).toBeVisible()
  await choose('backdrop.png', png)
  await expect(page.getByLabel('Depth rack').getByText('backdrop')).toBeVisible()
  await desk.savedNow()
  const level = Object.values<{ id: string; name: string; kind: string }>((await bodyOf(film)).levels).find((entry) => entry.name === 'backdrop')!
  expect(level.kind).toBe('placed')
  // It stands at the picture plane behind the red square, which is listed nearer.
  await expect.poll(() => desk.pixel(0.2, 0.05)).toEqual([0x2a, 0x6a, 0x99, 255])
})

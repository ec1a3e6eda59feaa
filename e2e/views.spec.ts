import { address, bodyOf, Desk, expect, makeFilm, REST, test } from './desk'
import { cornersOf, framingOf, framingsOf, LIVE, middle, MOVE, openWith, STILL } from './framings'

test.describe('the table', () => {
  test('shows every framing, and each is dragged in place: moved, trucked, zoomed, rolled', async ({ page }) => {
    const film = await makeFilm({ framings: MOVE })
    const desk = await openWith(page, film, 'table', null, 'beside')
    await expect(page.locator('[data-framing]')).toHaveCount(2)
    const second = await cornersOf(page, STILL(2))
    const width = second[1]!.x - second[0]!.x
    const edge = { x: second[1]!.x, y: middle(second).y }
    // The playhead is on the first; the second is moved all the same.
    await desk.drag(edge, { x: edge.x + width * 0.2, y: edge.y + width * 0.1 })
    await desk.savedNow()
    const moved = (await framingOf(film, 'f2')).pose
    expect(moved.x).toBeCloseTo(0.6, 1)
    expect(moved.y).toBeCloseTo(-0.1, 1)
    await expect(page.getByLabel('Undo move framing 2')).toBeEnabled()

    const corner = (await cornersOf(page, LIVE))[2]!
    const centre = middle(await cornersOf(page, LIVE))
    const half = { x: centre.x + (corner.x - centre.x) / 2, y: centre.y + (corner.y - centre.y) / 2 }
    await desk.drag(corner, half)
    await desk.savedNow()
    expect((await framingOf(film, 'f1')).pose.depth).toBeCloseTo(REST.depth / 2, 1)
    expect((await framingOf(film, 'f1')).pose.focalLengthMm).toBe(50)
    await page.getByLabel('Undo truck framing 1').click()

    await page.keyboard.down('Alt')
    await desk.drag(corner, half)
    await page.keyboard.up('Alt')
    await desk.savedNow()
    expect((await framingOf(film, 'f1')).pose).toMatchObject({ depth: REST.depth })
    expect((await framingOf(film, 'f1')).pose.focalLengthMm).toBeGreaterThan(90)
    await page.getByLabel('Undo zoom framing 1').click()

    const live = await cornersOf(page, LIVE)
    const knob = { x: middle(live).x, y: live[2]!.y - 18 }
    await desk.drag(knob, { x: live[1]!.x + 40, y: middle(live).y })
    await desk.savedNow()
    expect((await framingOf(film, 'f1')).pose.rollDegrees).toBeCloseTo(90, 0)
  })

  test('keeps to one direction while X or Y is held, gives everything back at Escape, and refuses what is locked', async ({ page }) => {
    const film = await makeFilm({ framings: MOVE })
    const desk = await openWith(page, film, 'table', null, 'beside')
    const centre = middle(await cornersOf(page, LIVE))
    await page.mouse.move(centre.x, centre.y)
    await page.mouse.down()
    await page.mouse.move(centre.x + 60, centre.y + 50, { steps: 5 })
    await page.keyboard.down('y')
    await page.mouse.up()
    await page.keyboard.up('y')
    await desk.savedNow()
    const { x, y } = (await framingOf(film, 'f1')).pose
    expect(x).toBe(0)
    expect(y).toBeLessThan(-0.05)

    const before = await cornersOf(page, LIVE)
    await page.mouse.move(centre.x, centre.y + 40)
    await page.mouse.down()
    await page.mouse.move(centre.x + 80, centre.y, { steps: 5 })
    await page.keyboard.press('Escape')
    await page.mouse.up()
    expect(await cornersOf(page, LIVE)).toEqual(before)
    expect((await framingOf(film, 'f1')).pose).toMatchObject({ x, y })

    await page.keyboard.press('Alt+l')
    await expect(desk.mode).toHaveText('locked')
    await desk.savedNow()
    await desk.drag(middle(before), { x: middle(before).x + 70, y: middle(before).y })
    await expect(page.getByText('This camera is locked. Unlock it in the inspector')).toBeVisible()
    expect((await framingOf(film, 'f1')).pose).toMatchObject({ x, y })
  })

  test('a path is bent by its middle without changing its timing, made smooth, and straight again', async ({ page }) => {
    const film = await makeFilm({ framings: [...MOVE.slice(0, 1), { frame: 20, pose: { x: 0.4 } }, { frame: 40, pose: { x: 0.8, y: 0.3 } }] })
    const desk = await openWith(page, film, 'table', null, 'beside')
    await desk.goTo(10)
    await expect(page.getByTestId('camera-x').locator('input')).toHaveValue('0.2')
    const box = (await page.locator('[data-handle=middle]').first().boundingBox())!
    const diamond = { x: box.x + box.width / 2, y: box.y + box.height / 2 }
    const width = (await cornersOf(page, STILL(1)))[1]!.x - (await cornersOf(page, STILL(1)))[0]!.x
    await desk.drag(diamond, { x: diamond.x, y: diamond.y - width * 0.2 })
    await desk.savedNow()
    expect((await framingOf(film, 'f1')).move.path.kind).toBe('bent')
    // Half of its time is half of its way: the middle of the bow.
    await expect(page.getByTestId('camera-x').locator('input')).toHaveValue('0.2')
    await expect.poll(async () => Number(await page.getByTestId('camera-y').locator('input').inputValue())).toBeCloseTo(0.2, 1)

    await desk.goTo(20)
    await page.getByRole('group', { name: 'Where the path passes framing' }).getByRole('button', { name: 'Smooth' }).click()
    await desk.savedNow()
    const [a, b] = [(await framingOf(film, 'f1')).move.path, (await framingOf(film, 'f2')).move.path]
    if (a.kind !== 'bent' || b.kind !== 'bent') throw new Error('not bent')
    expect(a.arrive.x * b.leave.y - a.arrive.y * b.leave.x).toBeCloseTo(0, 6)
    await page.getByRole('group', { name: 'Path' }).getByRole('button', { name: 'Straight' }).click()
    await desk.savedNow()
    expect((await framingOf(film, 'f2')).move.path.kind).toBe('straight')
  })
})

test('from the side the camera is lifted, tilted by its knob, and its lens set by the edge of its field', async ({ page }) => {
  const film = await makeFilm()
  const desk = await openWith(page, film, 'side', null, 'beside')
  const box = (await page.getByTestId('side').boundingBox())!
  const pxPerFw = Math.min((box.width - 30) / 3.6, (box.height - 40) / 1)
  const px = (depth: number, y: number) => ({ x: box.x + box.width / 2 + (depth - 0.2) * pxPerFw, y: box.y + box.height / 2 - y * pxPerFw })
  const pose = async () => (await framingsOf(film))[0]!.pose
  const camera = px(REST.depth, 0)
  await desk.drag(camera, { x: camera.x + pxPerFw * 0.3, y: camera.y - pxPerFw * 0.1 })
  await desk.savedNow()
  expect((await pose()).y).toBeCloseTo(0.1, 1)
  expect((await pose()).depth).toBeCloseTo(REST.depth + 0.3, 1)
  await page.getByLabel(/^Undo/).click()
  await desk.savedNow()
  await desk.drag({ x: camera.x + 30, y: camera.y }, { x: camera.x + 100, y: camera.y - 100 })
  await desk.savedNow()
  expect((await pose()).tiltDegrees).toBeCloseTo(45, 0)
  await page.getByLabel(/^Undo/).click()
  await desk.savedNow()
  // The field's edge rises by half the frame's height over k: 0.28125 / 1.38889.
  const along = 0.8
  const edge = px(REST.depth + along, (along * 0.28125) / (50 / 36))
  await desk.drag(edge, { x: edge.x, y: camera.y - (camera.y - edge.y) * 2 })
  await desk.savedNow()
  expect((await pose()).focalLengthMm).toBeCloseTo(25, 0)
  await page.getByRole('application', { name: /^Side/ }).press('ArrowUp')
  await desk.savedNow()
  expect((await pose()).y).toBeCloseTo(0.01, 6)
})

test('looking around writes nothing', async ({ page }) => {
  const film = await makeFilm({ framings: MOVE })
  const desk = await openWith(page, film, 'around', null, 'beside')
  const around = page.getByTestId('around')
  await expect(around).toHaveAttribute('data-yaw', '38.0')
  const box = (await around.boundingBox())!
  await desk.drag({ x: box.x + 200, y: box.y + 100 }, { x: box.x + 300, y: box.y + 140 })
  await expect(around).not.toHaveAttribute('data-yaw', '38.0')
  await page.mouse.wheel(0, 300)
  await page.getByRole('button', { name: 'Above' }).click()
  await expect(around).toHaveAttribute('data-yaw', '0.0')
  await expect(page.getByLabel(/^Undo/)).toBeDisabled()
  expect((await framingsOf(film)).map(({ pose }) => pose.x)).toEqual([0, 0.4])
})

test('curves: a bead is dragged and typed, bumps are marked, and thinning shows what would go before it goes', async ({ page }) => {
  const film = await makeFilm({ framings: [{ frame: 0, pose: {} }, { frame: 12, pose: { x: 0.2 } }, { frame: 24, pose: { x: 0.4 } }, { frame: 40, pose: { x: 0.4 } }] })
  const desk = await openWith(page, film, 'curves', null, 'beside')
  const curves = page.getByTestId('curves')
  const box = (await curves.boundingBox())!
  const at = (frame: number, share: number) => ({ x: box.x + 46 + (frame / 47) * (box.width - 58), y: box.y + 18 + (box.height - 56) * (1 - share) })
  // x goes from 0 to 0.4, with 15 % of room over and under.
  const share = (x: number) => (x + 0.03) / 0.46
  await page.mouse.click(at(24, share(0.4)).x, at(24, share(0.4)).y)
  await expect(page.getByTestId('curve-frame').locator('input')).toHaveValue('24')
  await page.getByTestId('curve-value').locator('input').fill('0.5')
  await page.getByTestId('curve-value').locator('input').press('Enter')
  await desk.savedNow()
  expect((await framingOf(film, 'f3')).pose.x).toBe(0.5)
  await page.getByLabel(/^Undo/).click()
  const bead = at(24, share(0.4))
  await desk.drag(bead, { x: bead.x + (4 / 47) * (box.width - 58), y: bead.y })
  await desk.savedNow()
  expect((await framingOf(film, 'f3')).offsetFrames).toBe(4)
  await page.getByLabel(/^Undo/).click()

  await page.getByRole('button', { name: 'Thin…' }).click()
  await page.getByTestId('thin-px').locator('input').fill('12')
  await page.getByTestId('thin-px').locator('input').press('Enter')
  await expect(page.getByTestId('thin-found')).toContainText('of 4 crossed out')
  expect(await framingsOf(film)).toHaveLength(4)
  await page.getByRole('button', { name: 'Take out' }).click()
  await desk.savedNow()
  expect((await framingsOf(film)).length).toBeLessThan(4)
  await page.getByLabel(/^Undo thin/).click()
  await expect(page.getByTestId('bumps')).toHaveText('0 bumps')
})

test('a floor plan is drawn under the plan, and no picture has it', async ({ page }) => {
  const film = await makeFilm()
  const desk = await openWith(page, film, 'plan', null, null)
  const before = await desk.picture()
  const plan = (await page.getByTestId('plan').boundingBox())!
  await page.getByRole('button', { name: 'Draw under the plan', exact: true }).click()
  await desk.drag({ x: plan.x + 40, y: plan.y + 40 }, { x: plan.x + 160, y: plan.y + 60 })
  await desk.savedNow()
  const { grounds, framings } = await bodyOf(film)
  expect(grounds.ground).toMatchObject({ visible: true })
  expect(framings).toEqual({})
  expect(await desk.picture()).toBe(before)
  await page.getByRole('button', { name: 'Draw under the plan', exact: true }).click()
  await page.getByRole('button', { name: 'What lies under the plan' }).click()
  await page.getByRole('button', { name: 'Clear it' }).click()
  await desk.savedNow()
  expect((await bodyOf(film)).grounds).toEqual({})
})

test('a second window goes along with the first, plays in both, and hands on where it is put', async ({ page, context }) => {
  const film = await makeFilm({ framings: MOVE })
  const desk = new Desk(page)
  await desk.open(film.projectId)
  const row = page.locator('.words b').first()
  await row.click()
  await expect(page.getByText('no level selected')).toHaveCount(0)
  const second = await context.newPage()
  await second.goto(`${address()}/film/${film.projectId}/second`)
  await expect(second.getByTestId('lens-host').locator('canvas').first()).toBeVisible()
  await expect(second.getByText('no first window')).toHaveCount(0)
  // A window that has only just loaded the shot does not let go of what was chosen in the first.
  await page.bringToFront()
  await expect(page.getByText('no level selected')).toHaveCount(0)
  await desk.goTo(17)
  await expect(second.getByTestId('lens-host')).toHaveAttribute('data-frame', '17')
  // What is only looked at is seen there too.
  await desk.drag(await desk.at(0, 0), await desk.at(0.2, 0))
  await expect(desk.mode).toHaveText('not kept yet')
  await second.bringToFront()
  await second.getByRole('button', { name: 'Side' }).click()
  await expect(second.getByTestId('side')).toBeVisible()
  await second.getByRole('button', { name: 'Lens' }).click()
  await second.keyboard.press('.')
  await expect(page.getByTestId('shot-frame')).toContainText('18 /')
  await second.keyboard.press('Space')
  await expect(second.getByRole('button', { name: 'Pause' })).toBeVisible()
  await expect.poll(async () => second.getByTestId('lens-host').getAttribute('data-frame')).not.toBe('18')
  await second.keyboard.press('Space')
  await expect(second.getByRole('button', { name: 'Play' })).toBeVisible()
  const rest = await page.getByTestId('lens-host').getAttribute('data-frame')
  await expect(second.getByTestId('lens-host')).toHaveAttribute('data-frame', rest!)
  await page.close()
  await expect(second.getByText('no first window')).toBeVisible()
  await second.close()
})

test('views stand side by side or alone, and stay as they were put', async ({ page }) => {
  const film = await makeFilm({ framings: MOVE })
  const desk = new Desk(page)
  await desk.open(film.projectId)
  await page.keyboard.press('Alt+v')
  await expect(page.getByTestId('table')).toBeVisible()
  await expect(page.getByTestId('plan')).toBeVisible()
  await page.keyboard.press('Shift+W')
  await expect(page.getByTestId('table')).toHaveCount(0)
  await expect(page.getByTestId('plan')).toHaveCount(0)
  await page.reload()
  await expect(page.getByTestId('lens-host').locator('canvas').first()).toBeVisible()
  await expect(page.getByTestId('plan')).toHaveCount(0)
  await page.keyboard.press('Shift+W')
  await expect(page.getByTestId('plan')).toBeVisible()
})

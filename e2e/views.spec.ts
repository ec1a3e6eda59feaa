import type { Framing, Preset } from '@rubato/core/document'
import type { Page } from '@playwright/test'
import { address, bodyOf, Desk, expect, makeFilm, REST, test } from './desk'

const MOVE = [
  { frame: 0, pose: {} },
  { frame: 40, pose: { x: 0.4 } },
]
type Film = Awaited<ReturnType<typeof makeFilm>>
const framingsOf = async (film: Film) => Object.values<Framing>((await bodyOf(film)).framings)
const framingOf = async (film: Film, id: string): Promise<Framing> => (await bodyOf(film)).framings[id]

/** Opens a film with a kind of view beside the lens. */
async function openWith(page: Page, film: Film, beside: string, third: string | null = null, alone: string | null = null) {
  await page.addInitScript((views) => localStorage.getItem('rubato.views') ?? localStorage.setItem('rubato.views', views), JSON.stringify({ beside, third, alone }))
  const desk = new Desk(page)
  if (alone === null || alone === 'lens') await desk.open(film.projectId)
  else {
    await page.goto(`${address()}/film/${film.projectId}`)
    await expect(page.getByTestId(alone === 'beside' ? beside : third!)).toBeVisible()
    await page.waitForFunction(() => document.querySelectorAll('[data-level]').length > 0)
    await expect(page.getByTestId('save-state')).toHaveText(/^Saved/)
  }
  return desk
}

/** The corners of an outline on the table, from bottom left, in px of the page. */
async function cornersOf(page: Page, selector: string) {
  const box = (await page.getByTestId('table').boundingBox())!
  const d = (await page.locator(selector).getAttribute('d'))!
  return d.slice(1, -1).split('L').map((pair) => {
    const [x, y] = pair.split(' ').map(Number)
    return { x: box.x + x!, y: box.y + y! }
  })
}
const STILL = (number: number) => `[data-framing="${number}"] path.still`
const LIVE = '[data-test=table-live]'
const middle = (corners: readonly { x: number; y: number }[]) => ({ x: (corners[0]!.x + corners[2]!.x) / 2, y: (corners[0]!.y + corners[2]!.y) / 2 })

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

test.describe('framings by key', () => {
  test('are keyed where panel and shot begin and end; a drift and its change are one step; a pause leaves the rest', async ({ page }) => {
    const film = await makeFilm({ framings: MOVE.slice(0, 1) })
    const desk = new Desk(page)
    await desk.open(film.projectId)
    await desk.goTo(5)
    await page.keyboard.press('Alt+Shift+PageDown')
    await desk.savedNow()
    expect((await framingsOf(film)).map(({ panelId, offsetFrames }) => `${panelId}+${offsetFrames}`).sort()).toEqual(['p1+0', 'p1+23'])
    await expect(page.getByTestId('shot-frame')).toContainText('23 /')

    await page.keyboard.press('Shift+E')
    await expect(page.getByTestId('shot-frame')).toContainText('47 /')
    await desk.drag(await desk.at(0, 0), await desk.at(-0.1, 0))
    await desk.savedNow()
    const ended = (await framingsOf(film)).find(({ panelId, offsetFrames }) => panelId === 'p2' && offsetFrames === 23)!
    expect(ended.pose.x).toBeCloseTo(0.1, 2)

    await desk.goTo(30)
    await page.keyboard.press('Alt+w')
    await desk.savedNow()
    expect(await framingsOf(film)).toHaveLength(4)
    await desk.goTo(28)
    await expect(page.getByTestId('camera-x').locator('input')).toHaveValue('0')
    await page.getByLabel('Undo hold until here').click()
    await page.getByLabel('Undo drift').click()
    await desk.savedNow()
    expect(await framingsOf(film)).toHaveLength(2)
    await desk.goTo(47)
    await page.keyboard.press('Alt+w')
    await expect(page.getByText('The camera rests here already')).toBeVisible()
  })

  test('kept on number keys, called back, renamed and let go', async ({ page }) => {
    const film = await makeFilm()
    const desk = new Desk(page)
    await desk.open(film.projectId)
    await page.keyboard.press('3')
    await expect(page.getByText('Nothing is kept on 3')).toBeVisible()
    await desk.drag(await desk.at(0, 0), await desk.at(-0.2, 0))
    await page.keyboard.press('Control+Alt+3')
    await desk.savedNow()
    expect((await bodyOf(film)).presets['3']).toMatchObject({ name: 'Framing 3' } satisfies Partial<Preset>)
    await desk.drag(await desk.at(0, 0), await desk.at(0.3, 0.1))
    await page.keyboard.press('3')
    await desk.savedNow()
    expect((await framingsOf(film))[0]!.pose.x).toBeCloseTo(0.2, 2)
    expect((await framingsOf(film))[0]!.pose.y).toBe(0)
    const open = page.getByRole('button', { name: 'Framings on number keys' })
    await open.click()
    await page.getByLabel('Name of framing 3').fill('Wide')
    await page.getByLabel('Name of framing 3').press('Enter')
    await expect(page.getByRole('group', { name: 'Framings on number keys' }).getByRole('button', { name: /3\s+Wide/ })).toBeVisible()
    const letGo = page.getByRole('button', { name: 'Let go' })
    // The panel closes when what it stands beside is laid out anew.
    await expect(async () => {
      if (!(await letGo.isVisible())) await open.click()
      await letGo.click({ timeout: 1500 })
    }).toPass()
    await desk.savedNow()
    expect((await bodyOf(film)).presets).toEqual({})
  })
})

test('a move is pasted reversed and mirrored, seen before it is taken, and told where it does not fit', async ({ page }) => {
  const film = await makeFilm({ framings: MOVE })
  const desk = new Desk(page)
  await desk.open(film.projectId)
  await page.keyboard.press('Alt+p')
  await expect(page.getByText('No move has been copied yet')).toBeVisible()
  await page.keyboard.press('Alt+c')
  await desk.goTo(20)
  await page.keyboard.press('Alt+p')
  const dialog = page.getByRole('dialog', { name: 'Paste the move' })
  // 41 frames in the 28 that are left: it is scaled, unless the artist says not.
  await expect(dialog.getByLabel('scaled, to end with this shot')).toBeChecked()
  await dialog.getByLabel('scaled, to end with this shot').uncheck()
  await expect(dialog).toContainText('from here the shot has 28')
  await expect(dialog.getByRole('button', { name: 'Paste' })).toBeDisabled()
  await dialog.getByRole('button', { name: 'Cancel' }).click()
  await expect(dialog).toHaveCount(0)
  await expect(page.getByLabel(/^Undo/)).toBeDisabled()
  await desk.goTo(0)
  await page.keyboard.press('Alt+p')
  await dialog.getByLabel(/reversed/).check()
  await dialog.getByLabel(/mirrored/).check()
  await expect(page.getByTestId('camera-x').locator('input')).toHaveValue('−0.4')
  await dialog.getByRole('button', { name: 'Paste' }).click()
  await desk.savedNow()
  const placed = (await framingsOf(film)).sort((a, b) => a.panelId.localeCompare(b.panelId) || a.offsetFrames - b.offsetFrames)
  expect(placed.map(({ panelId, offsetFrames, pose }) => [panelId, offsetFrames, pose.x])).toEqual([['p1', 0, -0.4], ['p2', 16, 0]])
  await expect(page.getByLabel('Undo paste move')).toBeEnabled()
})

test('a ready-made move is tried in the lens view and put in as ordinary framings, or not at all', async ({ page }) => {
  const film = await makeFilm()
  const desk = new Desk(page)
  await desk.open(film.projectId)
  await page.keyboard.press('Alt+r')
  const dialog = page.getByRole('dialog', { name: 'Ready-made move' })
  await dialog.getByRole('button', { name: 'Arc' }).click()
  await expect(page.getByTestId('move-name')).toHaveText('arc right 30°')
  await dialog.getByRole('button', { name: 'Cancel' }).click()
  await expect(dialog).toHaveCount(0)
  await expect(page.getByTestId('move-name')).toHaveCount(0)
  expect(await framingsOf(film)).toHaveLength(0)

  await page.keyboard.press('Alt+r')
  await dialog.getByRole('button', { name: 'Push-in' }).click()
  await dialog.getByTestId('ready-amount').locator('input').fill('40')
  await dialog.getByTestId('ready-amount').locator('input').press('Enter')
  await dialog.getByRole('button', { name: 'to the shot’s end' }).click()
  await dialog.getByRole('button', { name: 'Put in' }).click()
  await desk.savedNow()
  await expect(page.getByTestId('move-name')).toHaveText('truck in 40 %')
  const [a, b] = (await framingsOf(film)).sort((x, y) => x.pose.depth - y.pose.depth)
  expect(b!.pose.depth).toBeCloseTo(a!.pose.depth * 0.6, 6)
})

test.describe('composing', () => {
  const LEVELS = [
    { id: 'left', colour: '#c2452d', box: [-0.1, -0.1, 0.1, 0.1] as const, x: -1, depth: 0 },
    { id: 'right', colour: '#2e7a68', box: [-0.2, -0.1, 0.2, 0.1] as const, x: 1.2, depth: 1, panDegrees: 35 },
  ]
  const choose = (page: Page, level: string, more = false) => page.locator(`[data-level="${level}"]`).click(more ? { modifiers: ['Control'] } : {})

  test('frame this brings what is selected into view; a turned level is squared up to; several fit together', async ({ page }) => {
    const film = await makeFilm({ levels: LEVELS })
    const desk = new Desk(page)
    await desk.open(film.projectId)
    await page.keyboard.press('o')
    await expect(page.getByText('Nothing is selected to be framed')).toBeVisible()
    await choose(page, 'left')
    await page.keyboard.press('o')
    await desk.savedNow()
    const pose = async () => (await framingsOf(film))[0]!.pose
    expect((await pose()).x).toBeCloseTo(-1, 6)
    // 0.2 fw high in 76 % of a frame that is 0.5625 of its width high: k · 0.2 / z = 0.4275.
    expect((await pose()).depth).toBeCloseTo(-(50 / 36) * (0.2 / (0.5625 * 0.76)), 4)
    await choose(page, 'right')
    await page.keyboard.press('o')
    await desk.savedNow()
    expect(await pose()).toMatchObject({ panDegrees: 35 })
    await page.getByRole('button', { name: 'untouched camera' }).click()
    await choose(page, 'left', true)
    await page.keyboard.press('o')
    await desk.savedNow()
    expect((await pose()).panDegrees).toBe(0)
    expect((await pose()).depth).toBeLessThan(REST.depth)
  })

  test('travels from one subject to the next in two presses', async ({ page }) => {
    const film = await makeFilm({ levels: LEVELS })
    const desk = new Desk(page)
    await desk.open(film.projectId)
    await choose(page, 'left')
    await page.keyboard.press('Alt+Shift+O')
    await choose(page, 'right')
    await page.keyboard.press('Alt+t')
    await desk.savedNow()
    const framings = (await framingsOf(film)).sort((a, b) => a.offsetFrames - b.offsetFrames)
    expect(framings.map(({ panelId, offsetFrames }) => [panelId, offsetFrames])).toEqual([['p1', 0], ['p1', 23]])
    expect(framings[0]!.pose.x).toBeCloseTo(-1, 6)
    expect(framings[1]!.pose.panDegrees).toBe(35)
    await page.getByLabel('Undo travel to this').click()
    await desk.savedNow()
    expect(await framingsOf(film)).toHaveLength(1)
  })

  test('a region drawn in the lens view fills it', async ({ page }) => {
    const film = await makeFilm({ levels: LEVELS })
    const desk = new Desk(page)
    await desk.open(film.projectId)
    await page.keyboard.press('Shift+O')
    await desk.drag(await desk.at(0.1, 0.1), await desk.at(0.3, -0.0125))
    await desk.savedNow()
    const { x, y, depth } = (await framingsOf(film))[0]!.pose
    expect(x).toBeCloseTo(0.2, 2)
    expect(y).toBeCloseTo(0.04375, 2)
    expect(depth).toBeCloseTo(REST.depth * 0.2, 1)
  })

  test('counter-zoom keeps the picture plane’s size while the camera comes nearer', async ({ page }) => {
    const film = await makeFilm({ framings: [{ frame: 0, pose: {} }, { frame: 40, pose: {} }] })
    const desk = new Desk(page)
    await desk.open(film.projectId)
    await desk.goTo(40)
    await page.keyboard.press('Alt+z')
    const field = page.getByTestId('camera-depth').locator('input')
    await field.fill('-0.7')
    await field.press('Enter')
    await desk.savedNow()
    const { pose } = await framingOf(film, 'f2')
    expect(pose.focalLengthMm / -pose.depth).toBeCloseTo(50 / -REST.depth, 6)
    expect((await framingOf(film, 'f1')).move.evenness).toEqual({ kind: 'screen', subjectDepth: 0 })
    await field.fill('0.5')
    await field.press('Enter')
    await expect(page.getByText('The plane that keeps its size must be before the lens')).toBeVisible()
  })
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
  const second = await context.newPage()
  await second.goto(`${address()}/film/${film.projectId}/second`)
  await expect(second.getByTestId('lens-host').locator('canvas').first()).toBeVisible()
  await expect(second.getByText('no first window')).toHaveCount(0)
  await page.bringToFront()
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

import type { Page } from '@playwright/test'
import { bodyOf, Desk, expect, makeFilm, test } from './desk'
import { marksOf, Paper } from './paper'

const TREE = { id: 'tree', colour: '#c2452d', box: [-0.05, -0.1, 0.05, 0.1] as const, depth: 6, x: 3 }

async function open(page: Page) {
  const film = await makeFilm({ levels: [TREE] })
  const desk = new Desk(page)
  await desk.open(film.projectId)
  await page.keyboard.press('Alt+f')
  const mode = (name: string) => page.getByRole('group', { name: 'What is drawn' }).getByRole('button', { name, exact: true })
  const draw = async (from: readonly [number, number], to: readonly [number, number], hold = false) => desk.drag(await desk.at(...from), await desk.at(...to), { hold })
  const levels = async () => {
    await desk.savedNow()
    return Object.values<{ id: string; name: string; carrier?: { levelId: string }; visible: boolean; group?: string; x: number; y: number; depth: number }>((await bodyOf(film)).levels)
  }
  return { film, desk, mode, draw, levels }
}

test('a far wall drawn in the picture makes a room of six, one step that is undone; its near wall is hidden', async ({ page }) => {
  const { desk, draw, levels } = await open(page)
  await draw([-0.25, -0.1], [0.25, 0.15], true)
  await expect(page.getByRole('status').filter({ hasText: 'deep; the far wall 2.43 fw off' })).toBeVisible()
  expect((await page.getByTestId('walls-drawn').locator('path').getAttribute('d'))!.length).toBeGreaterThan(60)
  await page.mouse.up()
  await expect(page.getByRole('button', { name: 'Undo build a room' })).toBeVisible()
  const walls = (await levels()).filter(({ name }) => name !== 'tree')
  expect(walls.map(({ name }) => name).sort()).toEqual(['Ceiling', 'Far wall', 'Left wall', 'Floor', 'Near wall', 'Right wall'].sort())
  expect(walls.filter(({ visible }) => !visible).map(({ name }) => name)).toEqual(['Near wall'])
  expect(new Set(walls.map(({ group }) => group))).toEqual(new Set(['Room 1']))
  const named = (name: string) => walls.find((wall) => wall.name === name)!
  expect(named('Ceiling').carrier!.levelId).toBe(named('Far wall').id)
  expect(named('Far wall').carrier!.levelId).toBe(named('Floor').id)
  // Each side in its own tone, where it is seen.
  const places = [[0, 0], [-0.4, 0], [0.4, 0], [0, -0.22], [0, 0.25]] as const
  const toneAt = async ([u, v]: readonly [number, number]) => `#${(await desk.pixel(u, v)).slice(0, 3).map((n) => n.toString(16).padStart(2, '0')).join('')}`
  await expect.poll(() => Promise.all(places.map(toneAt))).toEqual(['#ece8de', '#ddd8cc', '#e3ded3', '#cfc9bc', '#f4f1e9'])
  await page.keyboard.press('Control+z')
  expect((await levels()).map(({ name }) => name)).toEqual(['tree'])
})

test('walls are drawn along the ground, hinged where they meet; two edges make a corner; what is over the horizon is refused', async ({ page }) => {
  const { desk, mode, draw, levels } = await open(page)
  await mode('Wall').click()
  await draw([-0.3, -0.12], [0.1, -0.12])
  await expect(page.getByRole('button', { name: 'Undo stand a wall' })).toBeVisible()
  // The second begins at the foot of the first.
  await draw([0.1, -0.12], [0.25, -0.2])
  await expect(page.getByRole('button', { name: 'Undo stand a wall on Wall 1' })).toBeVisible()
  const [first, second] = ['Wall 1', 'Wall 2'].map((name) => levels().then((all) => all.find((each) => each.name === name)!))
  expect((await second!).carrier).toEqual({ kind: 'level', levelId: (await first!).id, turn: true, size: true })
  // It stands at the edge: in the first one's own axes, at its right foot.
  const { x, y, depth } = await second!
  expect(x).toBeGreaterThan(0.1)
  expect(y).toBeCloseTo(0, 2)
  expect(depth).toBeCloseTo(0, 2)
  // Opened like a door, it turns about that edge and nothing else does.
  await page.locator('[data-level]').filter({ hasText: 'Wall 2' }).click()
  const opens = page.getByTestId('opens').locator('input')
  await expect(opens).not.toHaveValue('0')
  await opens.fill('0')
  await opens.press('Enter')
  const flat = (await levels()).find(({ name }) => name === 'Wall 2')!
  expect([flat.x, flat.y, flat.depth]).toEqual([x, y, depth])
  await expect(opens).toHaveValue('0')

  await mode('Corner').click()
  await draw([-0.45, -0.15], [-0.2, -0.15])
  await expect(page.getByText('now the other edge')).toBeVisible()
  await page.keyboard.press('Escape')
  await expect(page.getByText('now the other edge')).toHaveCount(0)
  await draw([-0.45, -0.15], [-0.2, -0.15])
  await draw([-0.45, -0.15], [-0.5, -0.25])
  await expect(page.getByRole('button', { name: 'Undo build a corner' })).toBeVisible()
  expect((await levels()).filter(({ group }) => group === 'Corner 1').map(({ name }) => name).sort()).toEqual(['Far wall', 'Floor', 'Left wall'])

  await mode('Floor').click()
  await draw([-0.3, 0.15], [0.2, 0.1])
  await expect(page.getByText('That is over the horizon, where there is no ground.')).toBeVisible()
  await page.getByRole('button', { name: 'Close' }).first().click()
  await draw([-0.3, -0.22], [0.2, -0.1])
  await expect(page.getByRole('button', { name: 'Undo lay a floor' })).toBeVisible()
  await mode('Ceiling').click()
  await draw([-0.2, 0.25], [0.2, 0.15])
  await expect(page.getByRole('button', { name: 'Undo hang a ceiling' })).toBeVisible()
  await expect(desk.page.locator('[data-level]')).toHaveCount(8)
})

test('a wall is drawn on square on, and a room folded open, on whichever wall the pen is put down; looking writes nothing', async ({ page }) => {
  const { film, desk, draw, levels } = await open(page)
  await draw([-0.25, -0.12], [0.25, 0.13])
  const walls = await levels()
  await page.keyboard.press('d')
  const paper = new Paper(page)
  const settled = () => expect(page.getByTestId('paper-host')).toHaveAttribute('data-resampling', 'exact')
  await paper.level(walls.find(({ name }) => name === 'Right wall')!.id).click()
  await page.keyboard.press('Alt+q')
  await expect(page.getByTestId('face-on')).toContainText('Right wall, square on')
  await settled()
  const cells = (await bodyOf(film)).cells
  const drawingOf = (name: string) => cells[`${walls.find((wall) => wall.name === name)!.id}.p1`].drawingId
  const marksOn = async (name: string) => {
    await desk.savedNow()
    return marksOf(film, drawingOf(name))
  }
  // The wall fills the frame, from edge to edge at its own proportions; a level line stays level on it.
  await paper.stroke([-0.4, 0], [0, 0], [0.4, 0])
  await expect.poll(async () => (await marksOn('Right wall')).length).toBe(3)
  const { points } = (await marksOn('Right wall'))[2]!
  const [x0, y0, x1, y1] = [points[0]!, points[1]!, points.at(-3)!, points.at(-2)!]
  expect(Math.abs(y0 - y1)).toBeLessThan(1e-6)
  // The far wall is 1.75 times as far off as the picture plane, and the floor is out of the frame at 0.12 / 0.28125 of that.
  const long = 1.75 * (50 / 36) * (1 - 0.12 / 0.28125)
  expect(Math.abs(x1 - x0)).toBeCloseTo((long * 0.8) / 0.86, 1)

  await page.keyboard.press('Alt+e')
  await expect(page.getByTestId('face-on')).toContainText('Folded open around Floor')
  await settled()
  // The middle of the floor is in the middle of what lies across; the ceiling is at the top.
  await paper.stroke([0, 0.2], [0.01, 0.22])
  await expect(page.getByRole('button', { name: 'Undo stroke on Ceiling' })).toBeVisible()
  await expect.poll(async () => (await marksOn('Ceiling')).length).toBe(3)
  await page.getByTestId('face-on').getByRole('button', { name: 'In the picture' }).click()
  await expect(page.getByTestId('face-on')).toHaveCount(0)
  expect(await levels()).toEqual(walls)
})

test('in Around a level is turned by the ring that it is taken at; given up, it stands as it stood', async ({ page }) => {
  const { film, desk } = await open(page)
  await page.keyboard.press('c')
  await page.locator('[data-level=tree]').click()
  await page.getByRole('button', { name: 'Around', exact: true }).first().click()
  const level = async () => {
    await desk.savedNow()
    return (await bodyOf(film)).levels.tree as { panDegrees: number; tiltDegrees: number; rollDegrees: number }
  }
  const pull = async (ring: string, dx: number, dy: number, hold = false) => {
    const box = (await page.getByTestId(`ring-${ring}`).boundingBox())!
    await desk.drag({ x: box.x + box.width / 2, y: box.y + box.height / 2 }, { x: box.x + box.width / 2 + dx, y: box.y + box.height / 2 + dy }, { hold })
  }
  await pull('roll', 14, 6)
  await expect(page.getByRole('button', { name: 'Undo roll tree' })).toBeVisible()
  const rolled = await level()
  expect(rolled.rollDegrees).toBeGreaterThan(5)
  expect([rolled.panDegrees, rolled.tiltDegrees]).toEqual([0, 0])
  await pull('pan', -14, 0, true)
  await expect(page.getByRole('status').filter({ hasText: /^pan by -?\d+\.\d°$/ })).toBeVisible()
  await page.keyboard.press('Escape')
  await page.mouse.up()
  expect(await level()).toEqual(rolled)
  await pull('pan', -14, 0)
  await expect(page.getByRole('button', { name: 'Undo pan tree' })).toBeVisible()
  const panned = await level()
  expect(Math.abs(panned.panDegrees)).toBeGreaterThan(3)
  expect(panned.rollDegrees).toBe(rolled.rollDegrees)
})

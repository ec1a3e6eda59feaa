import type { Page } from '@playwright/test'
import { readFile } from 'node:fs/promises'
import { unzipSync } from 'fflate'
import { PDFDocument } from 'pdf-lib'
import { arrive } from './day'
import { address, bodyOf, Desk, expect, makeFilm, post, test } from './desk'
import { cornersOf, middle, openWith, STILL } from './framings'

/** Fills the frame at the first frame; the camera goes 0.4 fw to the right and needs 1.5 fw of it, with a margin of 5 % at each side. */
const WALL = { id: 'wall', colour: '#2e7a68', box: [-1, -1, 0.75, 1] as const, depth: 0 }
const POST = { id: 'post', colour: '#c2452d', box: [-0.05, -0.1, 0.05, 0.1] as const, depth: -0.2 }
const WAY = [{ frame: 0, pose: { x: 0 } }, { frame: 40, pose: { x: 0.4 } }]
const PX = 480

async function open(page: Page, key: string, framings = WAY) {
  const film = await makeFilm({ levels: [WALL, POST], framings })
  const desk = new Desk(page)
  await desk.open(film.projectId)
  await page.keyboard.press(key)
  const choose = (id: string) => page.locator(`[data-level=${id}]`).click()
  return { film, desk, choose }
}

test('the art that all moves need is told in px, becomes the paper’s size, and lies around the art in Table and Draw', async ({ page }) => {
  const { film, desk, choose } = await open(page, 'Alt+Shift+r')
  const panel = page.getByTestId('needed')
  await expect(panel).toContainText('Choose a level in the rack')
  await choose('wall')
  await expect(panel.getByTestId('needed-px')).toHaveText(`${1.5 * PX} × ${Math.ceil((0.5625 + 0.1) * PX)} px`)
  await expect(panel).toContainText('1.50 × 0.66 fw of its art')
  await expect(panel).toContainText('It has to fill the frame')
  await expect(panel).toContainText('frames 0–47')
  // No margin, and back to the usual.
  const margin = panel.getByLabel('margin')
  await margin.fill('0')
  await margin.press('Enter')
  await expect(panel.getByTestId('needed-px')).toHaveText(`${1.4 * PX} × 270 px`)
  await margin.fill('5')
  await margin.press('Enter')
  await panel.getByRole('button', { name: 'Paper to size' }).click()
  await expect(page.getByRole('button', { name: 'Undo paper to size: wall' })).toBeVisible()
  await expect(panel).toContainText('Its paper is 1.50 × 0.66 fw.')
  await expect(panel.getByRole('button', { name: 'Paper to size' })).toBeDisabled()
  await desk.savedNow()
  const { paper } = (await bodyOf(film)).levels.wall
  expect([paper.left, paper.right, paper.bottom, paper.top].map((value: number) => Number(value.toFixed(6)))).toEqual([-0.55, 0.95, -0.33125, 0.33125])
  // What stands in the picture needs no more than is seen of it.
  await choose('post')
  await expect(panel).toContainText('It stands in the picture')
  const [width] = (await panel.getByTestId('needed-px').textContent())!.split(' ')
  expect(Number(width)).toBe(Math.ceil((0.1 * PX * 1.3888888) / (1.3888888 - 0.2)))
  await choose('wall')
  await panel.getByRole('button', { name: 'Draw on it' }).click()
  await expect(page.getByTestId('face-on')).toContainText('wall, square on')
  await expect(page.getByTestId('need')).toHaveCount(1)
  await expect(page.getByTestId('level-paper')).toHaveCount(1)
  await page.getByRole('button', { name: 'Outline of the art needed' }).click()
  await expect(page.getByTestId('need-outline')).toHaveCount(0)
  await page.getByRole('button', { name: 'Outline of the art needed' }).click()
  await expect(page.getByTestId('need-px')).toHaveText(`${1.5 * PX} × 318 px`)
  await page.getByRole('button', { name: 'Undo paper to size: wall' }).click()
  await expect(page.getByTestId('level-paper')).toHaveCount(0)
})

test('in the Table the outline grows while a framing is dragged, and is as it was when that is given up', async ({ page }) => {
  const film = await makeFilm({ levels: [WALL], framings: WAY })
  await openWith(page, film, 'table', null, 'beside')
  await page.locator('[data-level=wall]').click()
  const px = page.getByTestId('need-px')
  await expect(px).toHaveText(`${1.5 * PX} × 318 px`)
  const second = await cornersOf(page, STILL(2))
  const edge = { x: second[1]!.x, y: middle(second).y }
  const width = second[1]!.x - second[0]!.x
  await page.mouse.move(edge.x, edge.y)
  await page.mouse.down()
  await page.mouse.move(edge.x + width * 0.1, edge.y, { steps: 4 })
  await page.mouse.move(edge.x + width * 0.2, edge.y, { steps: 4 })
  await expect.poll(async () => Number((await px.textContent())!.split(' ')[0])).toBeGreaterThan(1.65 * PX)
  await page.keyboard.press('Escape')
  await page.mouse.up()
  await expect(px).toHaveText(`${1.5 * PX} × 318 px`)
  await expect(page.getByRole('button', { name: 'Undo move framing 2' })).toHaveCount(0)
})

test('a piece of a set needs what all shots of the set see of it; a set tells it piece by piece', async ({ page }) => {
  const film = await makeFilm({ levels: [WALL, { ...POST, depth: 0 }], framings: WAY })
  const desk = new Desk(page)
  await desk.open(film.projectId)
  await page.locator('[data-level=wall]').click()
  await page.locator('[data-level=post]').click({ modifiers: ['Control'] })
  await page.keyboard.press('Alt+Shift+u')
  await expect(page.getByRole('button', { name: 'Undo make a set of 2 levels' })).toBeVisible()
  await page.getByRole('button', { name: 'New shot after this one' }).click()
  await page.getByRole('button', { name: 'Sets', exact: true }).last().click()
  await page.getByRole('group', { name: 'Sets' }).getByRole('button', { name: 'Put Set 1 into this shot' }).click()
  await page.keyboard.press('Alt+Shift+r')
  const panel = page.getByTestId('needed')
  await expect(panel.getByRole('row')).toHaveCount(2)
  await expect(panel.getByRole('row').filter({ hasText: 'wall' })).toContainText(`${1.5 * PX} × 318 px`)
  await page.keyboard.press('Alt+Shift+p')
  await page.locator('[data-level$="~wall"]').click()
  await expect(panel.getByTestId('needed-px')).toHaveText(`${1.5 * PX} × 318 px`)
  await expect(panel.getByRole('listitem')).toHaveCount(2)
  await panel.getByRole('button', { name: 'Paper to size' }).click()
  await desk.savedNow()
  await panel.getByRole('listitem').filter({ hasText: '010' }).getByRole('button').click()
  await expect(page.getByTestId('shot-frame')).toHaveText(/^0 /)
})

test('a background sheet is one page of lines and words, as PDF or SVG; a set has a page of the whole before those of its pieces', async ({ page }) => {
  const { choose } = await open(page, 'Alt+Shift+r')
  const panel = page.getByTestId('needed')
  const file = async (name: 'PDF' | 'SVG') => {
    const [download] = await Promise.all([page.waitForEvent('download'), panel.getByRole('button', { name, exact: true }).click()])
    return { name: download.suggestedFilename(), bytes: await readFile((await download.path())!) }
  }
  await choose('wall')
  await expect(panel.getByTestId('needed-px')).toHaveText(`${1.5 * PX} × 318 px`)
  const svg = await file('SVG')
  expect(svg.name).toBe('Shapes – wall.svg')
  const text = svg.bytes.toString('utf8')
  expect(text.includes(`${1.5 * PX} × 318 px · 1.500 × 0.662 fw · 5 % margin`)).toBe(true)
  for (const said of ['010 A', 'f 0–47', '010 A 1 · f 0', '010 A 2 · f 40']) expect([said, text.includes(`>${said}</text>`)]).toEqual([said, true])
  expect(text.match(/<image /g)).toHaveLength(2)
  await panel.getByRole('button', { name: 'A3' }).click()
  const pdf = await file('PDF')
  expect(pdf.name).toBe('Shapes – wall.pdf')
  const read = await PDFDocument.load(pdf.bytes)
  expect(read.getPages().map((each) => Object.values(each.getSize()).map(Math.round))).toEqual([[1191, 842]])
  await expect(panel.getByText('One page saved.')).toBeVisible()
  await page.locator('[data-level=post]').click({ modifiers: ['Control'] })
  await page.keyboard.press('Alt+Shift+u')
  await expect(page.getByRole('button', { name: 'Undo make a set of 2 levels' })).toBeVisible()
  await expect(panel.getByRole('row').filter({ hasText: 'wall' })).toContainText(`${1.5 * PX} × 318 px`)
  expect((await PDFDocument.load((await file('PDF')).bytes)).getPageCount()).toBe(3)
  const many = await file('SVG')
  expect(many.name).toBe('Shapes – Set 1.zip')
  expect(Object.keys(unzipSync(many.bytes)).sort()).toEqual(['01 Set 1.svg', expect.stringMatching(/^02 /), expect.stringMatching(/^03 /)])
})

test('speed on screen is drawn, what strobes is told with what is safe, and frames put in slow it down', async ({ page }) => {
  const { film, desk, choose } = await open(page, 'Alt+Shift+m')
  const panel = page.getByTestId('speed')
  await expect(panel.getByTestId('speed-chart').locator('.main-svg').first()).toBeVisible()
  await expect(panel.getByTestId('strobes').getByRole('listitem')).toHaveCount(2)
  await expect(panel.getByTestId('strobes')).toContainText(/wall strobes/)
  await expect(panel.getByTestId('strobes')).toContainText('safe to 0.14 fw/s')
  // post is nearer: (1.3889) / (1.3889 − 0.2) times as fast.
  await choose('post')
  await expect(panel.getByTestId('parallax')).toHaveText('post goes 1.17 × as fast as wall.')
  // A click on a line goes to its frame, and the playhead's line is there.
  const chart = (await panel.getByTestId('speed-chart').boundingBox())!
  await page.mouse.move(chart.x + chart.width * 0.5, chart.y + chart.height * 0.5)
  await expect(panel.getByText(/Under the pointer, at frame \d+/)).toBeVisible()
  await page.mouse.click(chart.x + chart.width * 0.5, chart.y + chart.height * 0.5)
  await expect(page.getByTestId('shot-frame')).toHaveText(/^2\d /)
  await page.mouse.move(5, 5)
  const wall = panel.getByTestId('strobes').getByRole('listitem').filter({ hasText: 'wall' })
  await wall.getByRole('button', { name: 'Take longer' }).click()
  await expect(page.getByTestId('slower-trial')).toContainText(/\d+ frames more/)
  await page.keyboard.press('Escape')
  await expect(page.getByTestId('slower-trial')).toHaveCount(0)
  await wall.getByRole('button', { name: 'Take longer' }).click()
  const more = Number(/\d+/.exec((await page.getByTestId('slower-trial').textContent())!)![0])
  await page.getByRole('button', { name: 'Take it' }).click()
  await expect(page.getByRole('button', { name: `Undo slower: wall, ${more} frames more` })).toBeVisible()
  await expect(wall).toHaveCount(0)
  await desk.savedNow()
  const body = await bodyOf(film)
  expect(body.panels.p1.lengthFrames + body.panels.p2.lengthFrames).toBe(48 + more)
  await page.getByRole('button', { name: `Undo slower: wall, ${more} frames more` }).click()
  await expect(wall).toHaveCount(1)
  // What is allowed is a setting.
  const limit = panel.getByLabel('a frame’s width in')
  await limit.fill('1')
  await limit.press('Enter')
  await expect(panel).toContainText('Nothing strobes: all goes slower than 1.00 fw/s.')
})

test('in a shot where nothing is drawn the checks say so', async ({ page }) => {
  const { project } = await post('/api/projects', { title: 'A film whose name is as long as names of films are at the most where somebody names them with care', rate: { numerator: 24, denominator: 1 }, widthPx: PX, heightPx: 270, filmBackMm: 36, baseLensMm: 50, defaultPanelFrames: 24 })
  await arrive(page, `${address()}/film/${project.id}`)
  await page.getByRole('button', { name: 'Desk', exact: true }).click()
  await expect(page.locator('[data-level]').first()).toBeVisible()
  await page.keyboard.press('Alt+Shift+i')
  await expect(page.getByTestId('edges')).toContainText('Nothing is drawn in this shot yet that could run out')
  await page.keyboard.press('Alt+Shift+q')
  await expect(page.getByRole('alert').first()).toContainText('nothing is drawn yet')
  await page.keyboard.press('Alt+Shift+m')
  await expect(page.getByTestId('speed')).toContainText('Nothing goes over the screen in this shot.')
})

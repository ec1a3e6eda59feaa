import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { randomUUID } from 'node:crypto'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { unzipSync } from 'fflate'
import { colourAt, exportAs } from './exporting'
import { address, bodyOf, Desk, expect, makeFilm, post, REST, test } from './desk'

const RED = [0xc2, 0x45, 0x2d]
const BOX = { id: 'near', colour: '#c2452d', box: [-0.1, -0.1, 0.1, 0.1] as const, depth: 0 }

/** Camera A sees the box in the middle, B sees it to the left; from frame 24 on B is live, over a dissolve of 8 frames. */
async function twoCameras() {
  const film = await makeFilm({ levels: [BOX], panels: [24, 24] })
  const body = await bodyOf(film)
  const move = { timing: { kind: 'even' }, path: { kind: 'straight' }, evenness: { kind: 'set' } }
  const first = Object.keys(body.cameras)[0]!
  const changes = {
    cameras: { b: { before: null, after: { id: 'b', order: 'b00', letter: 'B', locked: false } } },
    framings: { fb: { before: null, after: { id: 'fb', cameraId: 'b', panelId: 'p1', offsetFrames: 0, pose: { ...REST, x: 0.3 }, move, locked: false } } },
    cuts: {
      c1: { before: null, after: { id: 'c1', cameraId: first, panelId: 'p1', offsetFrames: 0, dissolveFrames: 0 } },
      c2: { before: null, after: { id: 'c2', cameraId: 'b', panelId: 'p2', offsetFrames: 0, dissolveFrames: 8 } },
    },
  }
  await post(`/api/projects/${film.projectId}/edits`, { changes: [{ id: randomUUID(), label: 'cameras', edits: [{ kind: 'setup', unit: { kind: 'take', id: film.takeId }, changes }] }], base: { [`take:${film.takeId}`]: 2 } })
  return film
}
/** Of the red box and white paper, so much of the box. */
const mixed = (share: number) => RED.map((channel) => 255 + (channel - 255) * share)
const near = (found: readonly number[], wanted: readonly number[], by = 3) => {
  for (const [i, channel] of wanted.entries()) expect(Math.abs(found[i]! - channel), `${found} for ${wanted}`).toBeLessThanOrEqual(by)
}

test('a shot that cuts from camera to camera shows each in its time, and both while one dissolves into the other', async ({ page }) => {
  const film = await twoCameras()
  const desk = new Desk(page)
  await desk.open(film.projectId)
  const lens = page.getByLabel('Through the lens')
  await desk.goTo(10)
  await expect(lens).toContainText('A at work · live')
  near(await desk.pixel(0, 0), RED)
  near(await desk.pixel(-0.3, 0), mixed(0))
  await desk.goTo(40)
  await expect(lens).toContainText('B at work · live')
  near(await desk.pixel(0, 0), mixed(0))
  near(await desk.pixel(-0.3, 0), RED)
  // Frames 20 to 27 are the dissolve: of 24 five ninths are over.
  await desk.goTo(24)
  near(await desk.pixel(0, 0), mixed(4 / 9))
  near(await desk.pixel(-0.3, 0), mixed(5 / 9))
  await desk.goTo(19)
  near(await desk.pixel(-0.3, 0), mixed(0))
})

test('what is done to the camera at a frame is done to the one that is live there', async ({ page }) => {
  const film = await twoCameras()
  const desk = new Desk(page)
  await desk.open(film.projectId)
  await desk.goTo(40)
  await desk.drag(await desk.at(0.1, 0.1), await desk.at(0.2, 0.1))
  await desk.savedNow()
  const { framings } = await bodyOf(film)
  expect(Object.values(framings)).toMatchObject([{ id: 'fb', cameraId: 'b' }])
  expect(framings.fb.pose.x).toBeCloseTo(0.2, 2)
  await page.keyboard.press('Control+z')
  await desk.goTo(10)
  await desk.drag(await desk.at(0.1, 0.1), await desk.at(0.2, 0.1))
  await desk.savedNow()
  const now = (await bodyOf(film)).framings
  expect(now.fb.pose.x).toBe(0.3)
  expect(Object.values<{ cameraId: string }>(now).filter(({ cameraId }) => cameraId !== 'b')).toHaveLength(1)
})

test('a film with camera cuts is handed over as it plays', async ({ page }) => {
  const film = await twoCameras()
  const desk = new Desk(page)
  await desk.open(film.projectId)
  const { path } = await exportAs(page, { format: 'Numbered pictures (PNG, zipped)' })
  const files = unzipSync(readFileSync(path))
  const folder = mkdtempSync(join(tmpdir(), 'rubato-cameras-'))
  try {
    for (const [frame, share] of [[10, 0], [20, 1 / 9], [24, 5 / 9], [27, 8 / 9], [40, 1]] as const) {
      const picture = join(folder, `${frame}.png`)
      writeFileSync(picture, files[`Shapes-010_${String(frame).padStart(4, '0')}.png`]!)
      near(colourAt(picture, 240, 134), mixed(1 - share))
      near(colourAt(picture, 240 - Math.round(0.3 * 480), 134), mixed(share))
    }
  } finally {
    rmSync(folder, { recursive: true, force: true })
  }
})

interface Cut { readonly cameraId: string; readonly panelId: string; readonly offsetFrames: number; readonly dissolveFrames: number }
/** Each as panel, offset, letter and dissolve, in time. */
async function cutsOf(film: { projectId: string; takeId: string }) {
  const body = await bodyOf(film)
  return Object.values<Cut>(body.cuts).sort((a, b) => a.panelId.localeCompare(b.panelId) || a.offsetFrames - b.offsetFrames).map(({ cameraId, panelId, offsetFrames, dissolveFrames }) => `${panelId}+${offsetFrames} ${body.cameras[cameraId].letter}${dissolveFrames > 0 ? ` ~${dissolveFrames}` : ''}`)
}

test('a new camera from here is looked through while the other is live, cut to, dragged, dissolved and taken out, one step each', async ({ page }) => {
  const film = await makeFilm()
  const desk = new Desk(page)
  await desk.open(film.projectId)
  await desk.goTo(10)
  await expect(page.getByTestId('cameras').locator('.chip')).toHaveCount(0)
  await page.keyboard.press('Alt+Shift+n')
  const chips = page.getByTestId('cameras').locator('.chip')
  await expect(chips).toHaveText(['A live', 'B at work'])
  await expect(page.getByText('You look through B; A is live')).toBeVisible()
  // What is done to the camera is done to B alone.
  const red = await desk.pixel(0, 0)
  await desk.drag(await desk.at(0, 0), await desk.at(-0.3, 0))
  await desk.savedNow()
  const lens = await desk.pixel(0, 0)
  expect(lens).not.toEqual(red)
  const body = await bodyOf(film)
  const letters = Object.values<{ cameraId: string }>(body.framings).map(({ cameraId }) => body.cameras[cameraId].letter)
  expect(letters).toEqual(['B'])
  await page.getByRole('button', { name: 'go to it' }).click()
  await expect(chips).toHaveText(['A at work · live', 'B'])
  expect(await desk.pixel(0, 0)).toEqual(red)
  await chips.nth(1).click()
  await page.keyboard.press('Alt+x')
  await expect(chips).toHaveText(['A', 'B at work · live'])
  await desk.savedNow()
  expect(await cutsOf(film)).toEqual(['p1+0 A', 'p1+10 B'])
  await desk.drag(await desk.strip(10, 'cuts'), await desk.strip(30, 'cuts'))
  await desk.savedNow()
  expect((await cutsOf(film))[1]).toMatch(/^p2\+[567] B$/)
  await page.getByTestId('cut-panel').getByRole('button', { name: 'dissolve' }).click()
  await page.getByTestId('dissolve-frames').locator('input').fill('8')
  await page.keyboard.press('Enter')
  await desk.savedNow()
  expect((await cutsOf(film))[1]).toMatch(/ B ~8$/)
  // One end of the dissolve dragged out: half of it lies on each side.
  const cut = 24 + Number(/\+(\d+)/.exec((await cutsOf(film))[1]!)![1])
  await desk.drag(await desk.strip(cut + 4, 'cuts'), await desk.strip(cut + 6, 'cuts'))
  await desk.savedNow()
  expect((await cutsOf(film))[1]).toMatch(/ B ~12$/)
  await page.keyboard.press('Delete')
  await desk.savedNow()
  expect(await cutsOf(film)).toEqual([])
  await page.keyboard.press('Control+z')
  await desk.savedNow()
  expect(await cutsOf(film)).toHaveLength(2)
  // Deleting says what goes along, in the step's name.
  await chips.nth(1).click()
  await page.getByRole('button', { name: 'Cameras', exact: true }).click()
  await page.getByRole('menuitem', { name: 'Delete camera B' }).click()
  await expect(page.getByRole('button', { name: 'Undo' })).toHaveAttribute('title', /delete camera B with 1 framing and 1 camera cut/)
  await desk.savedNow()
  expect([Object.keys((await bodyOf(film)).cameras), await cutsOf(film)]).toEqual([[expect.any(String)], []])
})

test('cameras are cut live by number keys while it plays, in one step; given up, nothing is written', async ({ page }) => {
  const film = await makeFilm({ panels: [72, 72] })
  const desk = new Desk(page)
  await desk.open(film.projectId)
  await desk.goTo(0)
  await page.keyboard.press('Alt+Shift+n')
  await desk.savedNow()
  await page.keyboard.press('Alt+Shift+x')
  await expect(page.getByText('Live cut: press 1 for A, 2 for B')).toBeVisible()
  const reached = (frame: number) => expect.poll(async () => Number(await page.getByTestId('lens-host').getAttribute('data-frame'))).toBeGreaterThan(frame)
  await reached(12)
  await page.keyboard.press('2')
  await reached(36)
  await page.keyboard.press('1')
  await reached(48)
  await page.keyboard.press('Space')
  await expect(page.getByText('Live cut: press')).toHaveCount(0)
  await desk.savedNow()
  const cuts = await cutsOf(film)
  expect(cuts.map((cut) => cut.slice(-1))).toEqual(['A', 'B', 'A'])
  await page.keyboard.press('Control+z')
  await desk.savedNow()
  expect(await cutsOf(film)).toEqual([])
  await page.keyboard.press('Alt+Shift+x')
  await reached(12)
  await page.keyboard.press('2')
  await page.keyboard.press('Escape')
  await expect(page.getByText('Live cut: press')).toHaveCount(0)
  await page.waitForTimeout(300)
  expect(await cutsOf(film)).toEqual([])
})

test('the wall has every camera’s picture; a click looks through one, and in a live cut cuts to it', async ({ page }) => {
  const film = await makeFilm({ panels: [96, 96] })
  const desk = new Desk(page)
  await desk.open(film.projectId)
  await page.getByRole('button', { name: 'Wall', exact: true }).click()
  const wall = page.getByTestId('wall')
  await expect(wall).toContainText('This shot has one camera.')
  await wall.getByRole('button', { name: 'New camera from here' }).click()
  await desk.drag(await desk.at(0, 0), await desk.at(-0.25, 0))
  await expect(wall.getByRole('button')).toHaveCount(2)
  await wall.getByRole('button', { name: 'Camera A, live' }).click()
  await expect(page.getByTestId('cameras').locator('.chip')).toHaveText(['A at work · live', 'B'])
  // Both are seen at once: the box in A's middle is on the left in B.
  const middle = (name: RegExp) =>
    wall.getByRole('button', { name }).locator('canvas').filter({ visible: true }).last().evaluate((canvas: HTMLCanvasElement) => {
      const copy = document.createElement('canvas')
      copy.width = copy.height = 1
      const context = copy.getContext('2d')!
      context.drawImage(canvas, canvas.width / 2, canvas.height / 2, 1, 1, 0, 0, 1, 1)
      return [...context.getImageData(0, 0, 1, 1).data].slice(0, 3)
    })
  await expect.poll(() => middle(/Camera A/)).toEqual(RED)
  await expect.poll(() => middle(/Camera B/)).not.toEqual(RED)
  await desk.savedNow()
  await page.keyboard.press('Alt+Shift+x')
  await expect.poll(async () => Number(await page.getByTestId('lens-host').getAttribute('data-frame'))).toBeGreaterThan(6)
  await wall.getByRole('button', { name: /Camera B/ }).click()
  await expect(wall.getByRole('button', { name: 'Camera B, live' })).toBeVisible()
  await page.keyboard.press('Space')
  await desk.savedNow()
  expect((await cutsOf(film)).map((cut) => cut.slice(-1))).toEqual(expect.arrayContaining(['A', 'B']))
})

test('a second window looks through the camera that the first looks through, and sees what a hand does with it', async ({ page, context }) => {
  const film = await twoCameras()
  const desk = new Desk(page)
  await desk.open(film.projectId)
  await desk.goTo(5)
  const second = await context.newPage()
  await second.goto(`${address()}/film/${film.projectId}/second`)
  await expect(second.getByTestId('lens-host').locator('canvas').filter({ visible: true }).first()).toBeVisible()
  await page.bringToFront()
  await page.locator('body').press('Alt+d')
  await expect(second.getByLabel('Through the lens')).toContainText('You look through B; A is live')
  await page.locator('body').press('Alt+Shift+d')
  await expect(second.getByLabel('Through the lens')).not.toContainText('You look through')
})

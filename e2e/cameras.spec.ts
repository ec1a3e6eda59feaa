import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { randomUUID } from 'node:crypto'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { unzipSync } from 'fflate'
import { colourAt, exportAs } from './exporting'
import { bodyOf, Desk, expect, makeFilm, post, REST, test } from './desk'

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
  await expect(lens).toContainText('Camera A')
  near(await desk.pixel(0, 0), RED)
  near(await desk.pixel(-0.3, 0), mixed(0))
  await desk.goTo(40)
  await expect(lens).toContainText('Camera B')
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

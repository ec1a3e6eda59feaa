import { execFileSync } from 'node:child_process'
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { unzipSync } from 'fflate'
import { colourAt, exportAs } from './exporting'
import { Desk, expect, makeFilm, test } from './desk'

const ACROSS = [
  { frame: 0, pose: { x: -0.2 } },
  { frame: 23, pose: { x: 0.2 } },
]

test('a movie has every frame, the rate, the size and the colours, as an independent tool reads it', async ({ page }) => {
  const film = await makeFilm({ panels: [12, 12], framings: ACROSS, rate: { numerator: 24000, denominator: 1001 } })
  const desk = new Desk(page)
  await desk.open(film.projectId)
  const { name, path } = await exportAs(page)
  expect(name).toBe('Shapes-010.webm')
  await expect(page.getByTestId('export-done')).toContainText('24 frames')
  const probe = JSON.parse(
    execFileSync('ffprobe', ['-v', 'error', '-count_frames', '-show_streams', '-show_format', '-of', 'json', path]).toString(),
  ) as { streams: Record<string, string>[]; format: Record<string, string> }
  const [video] = probe.streams
  expect(video).toMatchObject({ codec_name: 'vp9', width: 480, height: 270, nb_read_frames: '24', pix_fmt: 'yuv420p', color_range: 'tv', color_space: 'bt709' })
  const [n, d] = video!.r_frame_rate!.split('/').map(Number)
  expect(n! / d!).toBeCloseTo(24000 / 1001, 2)
  expect(Number(probe.format.duration)).toBeCloseTo((24 * 1001) / 24000, 1)

  // Frame 23: the camera stands at x 0.2, so the red square's middle is at u −0.2.
  const last = colourAt(path, Math.round(480 * 0.3), 134, 23)
  for (const [i, wanted] of [0xc2, 0x45, 0x2d].entries()) expect(Math.abs(last[i]! - wanted)).toBeLessThanOrEqual(4)
  const first = colourAt(path, Math.round(480 * 0.7), 134, 0)
  for (const [i, wanted] of [0xc2, 0x45, 0x2d].entries()) expect(Math.abs(first[i]! - wanted)).toBeLessThanOrEqual(4)
})

test('numbered pictures are the frames of the lens view, all of them', async ({ page }) => {
  const film = await makeFilm({
    panels: [6, 6],
    framings: [{ frame: 0, pose: { x: -0.2 } }, { frame: 11, pose: { x: 0.2, depth: -1 } }],
    levels: [
      { id: 'ring', colour: '#27241e', box: [-0.2, -0.14, 0.2, 0.18], depth: 0, ring: true },
      { id: 'near', colour: '#c2452d', box: [-0.1, -0.1, 0.1, 0.1], depth: 0 },
      { id: 'far', colour: '#2e7a68', box: [-0.6, -0.4, 0.3, 0.4], depth: 2 },
    ],
  })
  const desk = new Desk(page)
  await desk.open(film.projectId)
  const { name, path } = await exportAs(page, { format: 'Numbered pictures (PNG, zipped)' })
  expect(name).toBe('Shapes-010.zip')
  const files = unzipSync(readFileSync(path))
  expect(Object.keys(files)).toEqual(Array.from({ length: 12 }, (_, i) => `Shapes-010_${String(i).padStart(4, '0')}.png`))
  const folder = mkdtempSync(join(tmpdir(), 'rubato-png-'))
  await page.getByRole('button', { name: 'Close', exact: true }).last().click()
  try {
    for (const frame of [0, 7, 11]) {
      const picture = join(folder, `${frame}.png`)
      writeFileSync(picture, files[`Shapes-010_${String(frame).padStart(4, '0')}.png`]!)
      await desk.goTo(frame)
      for (const [u, v] of [[0, 0.02], [-0.25, 0.1], [0.27, -0.06], [0.45, 0.2], [0.2, 0], [0.15, 0.08], [-0.12, -0.1]] as const) {
        const inFile = colourAt(picture, Math.round((0.5 + u) * 480) - 1, Math.round(135 - v * 480) - 1)
        expect((await desk.pixel(u, v)).slice(0, 3)).toEqual(inFile)
      }
    }
  } finally {
    rmSync(folder, { recursive: true, force: true })
  }
})

test('half size is made even, and a whole film has all its shots', async ({ page }) => {
  const film = await makeFilm({ panels: [3], widthPx: 482, heightPx: 270 })
  const desk = new Desk(page)
  await desk.open(film.projectId)
  await page.keyboard.press('Alt+n')
  await expect(page.getByText('Shot 020')).toBeVisible()
  const { path } = await exportAs(page, { what: 'Whole film', size: '242 × 136' })
  const [video] = JSON.parse(execFileSync('ffprobe', ['-v', 'error', '-count_frames', '-show_streams', '-of', 'json', path]).toString()).streams
  expect(video).toMatchObject({ width: 242, height: 136, nb_read_frames: '27' })
})

test('Cancel stops the export, hands nothing over, and it can be made again', async ({ page }) => {
  const film = await makeFilm({ panels: [3000], framings: [{ frame: 0, pose: {} }, { frame: 2999, pose: { x: 0.5 } }] })
  const desk = new Desk(page)
  await desk.open(film.projectId)
  let downloads = 0
  page.on('download', () => downloads++)
  await page.getByRole('button', { name: 'Hand over…' }).click()
  const dialog = page.getByRole('dialog')
  await dialog.getByRole('button', { name: 'Make it' }).click()
  await expect(dialog.getByText(/frame \d+ of 3000/)).toBeVisible()
  await expect(dialog.getByText(/(left|left…)$/)).toBeVisible()
  await page.getByTestId('export-cancel').click()
  await expect(dialog.getByRole('button', { name: 'Make it' })).toBeVisible()
  expect(downloads).toBe(0)
  const left = await page.evaluate(async () => {
    const folder = await (await navigator.storage.getDirectory()).getDirectoryHandle('rubato-exports')
    const names: string[] = []
    for await (const name of (folder as unknown as { keys(): AsyncIterable<string> }).keys()) names.push(name)
    return names
  })
  expect(left).toEqual([])
})

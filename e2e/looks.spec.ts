import { execFileSync } from 'node:child_process'
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { unzipSync } from 'fflate'
import type { Locator, Page } from '@playwright/test'
import sharp from 'sharp'
import { Desk, expect, makeFilm, test } from './desk'
import { onlyFormat } from './exporting'

const PICTURES = 'Numbered pictures (PNG, zipped)'
const LEVELS = 'Each level as numbered pictures (PNG and JSON, zipped)'

async function opened(page: Page, format: string): Promise<Locator> {
  await page.getByRole('button', { name: 'Hand over…' }).click()
  const dialog = page.getByRole('dialog')
  await onlyFormat(dialog, format)
  return dialog
}
async function pick(page: Page, dialog: Locator, label: string, option: string) {
  await dialog.getByRole('combobox', { name: label }).click()
  await page.getByRole('option', { name: option, exact: true }).click()
}
async function made(page: Page, dialog: Locator) {
  const download = page.waitForEvent('download', { timeout: 80_000 })
  await dialog.getByRole('button', { name: 'Make it' }).click()
  const files = unzipSync(readFileSync((await (await download).path())!))
  await dialog.getByRole('button', { name: 'Close' }).first().click()
  return files
}
const rgba = async (png: Uint8Array) => {
  const { data, info } = await sharp(png).ensureAlpha().raw().toBuffer({ resolveWithObject: true })
  return { data, width: info.width, height: info.height, at: (x: number, y: number) => [...data.subarray((y * info.width + x) * 4, (y * info.width + x) * 4 + 4)] }
}

test('levels that come one by one are the picture again when they are laid over each other, whole or cut down', async ({ page }) => {
  const film = await makeFilm({ panels: [6, 6] })
  await new Desk(page).open(film.projectId)
  const whole = await made(page, await opened(page, PICTURES))
  const names = Object.keys(whole)
  expect(names).toHaveLength(12)
  for (const trimmed of [false, true]) {
    const dialog = await opened(page, LEVELS)
    await dialog.getByLabel('cut down to what is seen').setChecked(trimmed)
    const files = await made(page, dialog)
    const table = JSON.parse(Buffer.from(files['levels.json']!).toString()) as { shot: string; frames: { frame: number; layers: { file: string; name: string; order: number; depthFw: number; box: { left: number; top: number; width: number } }[] }[] }
    expect([table.shot, table.frames.map(({ frame }) => frame)]).toEqual(['010', names.map((_, i) => i)])
    const [far, near] = table.frames[3]!.layers
    expect([far!.name, near!.name, far!.depthFw > near!.depthFw, far!.order, near!.order]).toEqual(['far', 'near', true, 0, 1])
    expect(near!.box.width < 480).toBe(trimmed)
    const picture = await rgba(whole[names[3]!]!)
    const laid = await sharp({ create: { width: picture.width, height: picture.height, channels: 4, background: '#ffffff' } })
      .composite(table.frames[3]!.layers.map(({ file, box }) => ({ input: Buffer.from(files[file]!), left: box.left, top: box.top })))
      .raw()
      .toBuffer()
    let most = 0
    for (let i = 0; i < laid.length; i++) most = Math.max(most, Math.abs(laid[i]! - picture.data[i]!))
    expect(most).toBeLessThanOrEqual(3)
  }
})

test('pictures may be see-through where nothing is drawn', async ({ page }) => {
  const film = await makeFilm({ panels: [2] })
  await new Desk(page).open(film.projectId)
  const dialog = await opened(page, PICTURES)
  await dialog.getByLabel('see-through in pictures').check()
  const [png] = Object.values(await made(page, dialog))
  const picture = await rgba(png!)
  expect(picture.at(2, 2)[3]).toBe(0)
  expect(picture.at(240, 135)).toEqual([0xc2, 0x45, 0x2d, 255])
})

test('slate, card, another shape, grey and what is written are seen before they are made, and are so then', async ({ page }) => {
  const film = await makeFilm({ panels: [4] })
  await new Desk(page).open(film.projectId)
  const dialog = await opened(page, PICTURES)
  const preview = dialog.getByTestId('handover-preview')
  await expect(preview).toHaveAttribute('data-ready', 'true')
  await pick(page, dialog, 'Inside a frame of', '1 : 1')
  await pick(page, dialog, 'Tone', 'In grey')
  await dialog.getByLabel('Slate, frames').fill('3')
  await dialog.getByLabel('Title card', { exact: true }).fill('Shapes\na reel')
  await dialog.getByLabel('Title card, frames').fill('2')
  await dialog.getByLabel('timecode', { exact: true }).check()
  // In its corner it is dragged into the middle.
  const box = (await preview.boundingBox())!
  const scale = box.height / 480
  expect(Math.abs(box.width / box.height - 1)).toBeLessThan(0.02)
  await page.mouse.move(box.x + box.width - 60 * scale, box.y + box.height - 20 * scale)
  await page.mouse.down()
  await page.mouse.move(box.x + box.width / 2, box.y + box.height / 2, { steps: 6 })
  await page.mouse.up()
  await expect(dialog.getByRole('button', { name: 'Put back' })).toBeVisible()
  await dialog.getByRole('button', { name: 'Slate', exact: true }).click()
  const files = Object.values(await made(page, dialog))
  expect(files).toHaveLength(9)
  const [slate, card, picture] = await Promise.all([files[0]!, files[3]!, files[5]!].map(rgba))
  expect([picture!.width, picture!.height]).toEqual([480, 480])
  // Bars over and under, the picture in grey between, the timecode’s dark ground in the middle.
  expect(picture!.at(240, 20)).toEqual([0, 0, 0, 255])
  const [r, g, b] = picture!.at(240, 212)
  expect([r === g, g === b, r! > 0 && r! < 255]).toEqual([true, true, true])
  expect(picture!.at(180, 240)[0]).toBeLessThan(90)
  for (const lead of [slate!, card!]) expect(lead.at(4, 4)).toEqual([0x14, 0x12, 0x0f, 255])
  expect(Buffer.compare(slate!.data, card!.data)).not.toBe(0)
  expect(Buffer.compare(Buffer.from(files[0]!), Buffer.from(files[2]!))).toBe(0)
})

test('a file for each shot has handles, in which other shots are not seen', async ({ page }) => {
  const film = await makeFilm({ panels: [4] })
  await new Desk(page).open(film.projectId)
  const dialog = await opened(page, 'Movie (WebM)')
  await pick(page, dialog, 'As one file or several', 'A file for each shot')
  await dialog.getByLabel('Handles, frames').fill('3')
  await expect(dialog).toContainText('10 frames')
  const download = page.waitForEvent('download', { timeout: 80_000 })
  await dialog.getByRole('button', { name: 'Make it' }).click()
  const path = (await (await download).path())!
  const folder = mkdtempSync(join(tmpdir(), 'rubato-looks-'))
  writeFileSync(join(folder, 'shot.webm'), readFileSync(path))
  expect(execFileSync('ffprobe', ['-v', 'error', '-count_packets', '-select_streams', 'v', '-show_entries', 'stream=nb_read_packets', '-of', 'csv=p=0', join(folder, 'shot.webm')]).toString().trim()).toBe('10')
  rmSync(folder, { recursive: true })
})

import { execFileSync } from 'node:child_process'
import type { Locator, Page } from '@playwright/test'

/** What was chosen for the film before is put aside. */
export async function onlyFormat(dialog: Locator, format: string) {
  const formats = dialog.getByRole('group', { name: 'As' })
  for (const box of await formats.getByRole('checkbox').all()) await box.uncheck()
  await formats.getByLabel(format, { exact: true }).check()
}

/** Hands over what is chosen, and gives the file. */
export async function exportAs(page: Page, choose: { format?: string; size?: string; what?: string; picture?: string } = {}) {
  await page.getByRole('button', { name: 'Hand over…' }).click()
  const dialog = page.getByRole('dialog')
  await onlyFormat(dialog, choose.format ?? 'Movie (WebM)')
  const pick = async (label: string, option: string | undefined) => {
    if (option === undefined) return
    await dialog.getByRole('combobox', { name: label }).click()
    await page.getByRole('option', { name: option }).click()
  }
  await pick('What', choose.what)
  await pick('Picture', choose.picture)
  await pick('Size', choose.size)
  const download = page.waitForEvent('download', { timeout: 80_000 })
  await dialog.getByRole('button', { name: 'Make it' }).click()
  const file = await download
  return { name: file.suggestedFilename(), path: (await file.path())! }
}

/** The colour at a place of a picture file, by ffmpeg: [r, g, b]. */
export function colourAt(path: string, x: number, y: number, frame = 0): number[] {
  const raw = execFileSync('ffmpeg', ['-v', 'error', '-i', path, '-vf', `select=eq(n\\,${frame}),format=rgb24,crop=2:2:${x}:${y}`, '-frames:v', '1', '-f', 'rawvideo', '-'])
  return [...raw.subarray(0, 3)]
}

/** The sound of a file, by ffmpeg: one channel, 48 kHz. */
export function soundOf(path: string): Float32Array {
  const raw = execFileSync('ffmpeg', ['-v', 'error', '-i', path, '-f', 'f32le', '-ac', '1', '-ar', '48000', '-'], { maxBuffer: 1 << 28 })
  return new Float32Array(raw.buffer.slice(raw.byteOffset, raw.byteOffset + raw.byteLength))
}
/** Where it becomes loud, seconds. */
export function onsets(wave: Float32Array, limit = 0.2): number[] {
  const found: number[] = []
  for (let i = 0; i < wave.length; i++) if (Math.abs(wave[i]!) > limit && (found.length === 0 || i / 48_000 - found.at(-1)! > 0.3)) found.push(i / 48_000)
  return found
}
/** When each frame of a movie is shown and how bright it is, by ffmpeg and ffprobe. */
export function framesOf(path: string): { readonly at: number; readonly grey: number }[] {
  const times = execFileSync('ffprobe', ['-v', 'error', '-select_streams', 'v', '-show_entries', 'packet=pts_time', '-of', 'csv=p=0', path], { maxBuffer: 1 << 26 }).toString().trim().split('\n').map((line) => parseFloat(line)).sort((a, b) => a - b)
  const grey = execFileSync('ffmpeg', ['-v', 'error', '-i', path, '-vf', 'scale=1:1,format=gray', '-fps_mode', 'passthrough', '-f', 'rawvideo', '-'], { maxBuffer: 1 << 26 })
  if (grey.length !== times.length) throw new Error(`${grey.length} frames are decoded, ${times.length} are in the file`)
  return times.map((at, i) => ({ at, grey: grey[i]! }))
}

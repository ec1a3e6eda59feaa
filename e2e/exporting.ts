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

import { readFileSync, writeFileSync } from 'node:fs'
import type { Page } from '@playwright/test'
import { onlyFormat } from './exporting'
import { address, Desk, expect, test } from './desk'
import { outlineOf, twoShots } from './soundFilm'

/** The files of what is chosen, by name. */
async function handOver(page: Page, formats: readonly string[]): Promise<ReadonlyMap<string, string>> {
  await page.getByRole('button', { name: 'Hand over…' }).click()
  const dialog = page.getByRole('dialog')
  await onlyFormat(dialog, formats[0]!)
  for (const format of formats.slice(1)) await dialog.getByRole('group', { name: 'As' }).getByLabel(format, { exact: true }).check()
  const files = new Map<string, string>()
  const all = formats.length
  const made = new Promise<void>((resolve) => page.on('download', async (file) => {
    files.set(file.suggestedFilename(), (await file.path())!)
    if (files.size === all) resolve()
  }))
  await dialog.getByRole('button', { name: all === 1 ? 'Make it' : `Make ${all} files` }).click()
  await made
  await expect(page.getByTestId('export-done')).toHaveCount(all)
  await dialog.getByRole('button', { name: 'Close' }).first().click()
  return files
}
async function conformTo(page: Page, path: string) {
  const chooser = page.waitForEvent('filechooser')
  await page.waitForTimeout(300)
  await page.keyboard.press('Control+Shift+E')
  await (await chooser).setFiles(path)
}
interface Timeline { tracks: { children: { children: { OTIO_SCHEMA: string; name: string; source_range: { start_time: { value: number }; duration: { value: number } } }[] }[] } }

test('a cut goes out in several files at once, comes back changed, is seen before and after, and taken line by line', async ({ page }, info) => {
  const film = await twoShots()
  const desk = new Desk(page)
  await desk.open(film.projectId)
  const files = await handOver(page, ['Timeline (OpenTimelineIO)', 'Edit list of the pictures (CMX 3600)'])
  const names = [...files.keys()]
  expect(names.map((name) => name.split('.').at(-1))).toEqual(['otio', 'edl'])
  expect(readFileSync(files.get(names[1]!)!, 'utf8')).toContain('* FROM CLIP NAME: 010')

  // As it went out it asks for nothing.
  const path = info.outputPath('cut.otio')
  const timeline = JSON.parse(readFileSync(files.get(names[0]!)!, 'utf8')) as Timeline
  writeFileSync(path, JSON.stringify(timeline))
  await conformTo(page, path)
  await expect(page.getByRole('dialog').getByText('cut just so already')).toBeVisible()
  await page.getByRole('dialog').getByRole('button', { name: 'Close', exact: true }).last().click()

  // The second shot first and shorter at its head, and a new one between.
  const [track] = timeline.tracks.children
  const [first, second] = track!.children.filter(({ OTIO_SCHEMA }) => OTIO_SCHEMA !== 'Transition.1')
  second!.source_range.start_time.value += 6
  second!.source_range.duration.value -= 6
  track!.children = [second!, { ...first!, OTIO_SCHEMA: 'Clip.1', name: 'Storm', metadata: {}, children: [], markers: [] } as never, first!]
  writeFileSync(path, JSON.stringify(timeline))
  await conformTo(page, path)
  const lines = page.getByTestId('cut-line')
  await expect(lines).toHaveCount(3)
  await expect(page.getByTestId('cut-strips')).toBeVisible()
  await expect(lines.filter({ hasText: '6 frames fewer at its head' })).toHaveCount(1)
  await expect(lines.filter({ hasText: 'Storm' })).toContainText('an empty shot after 020')
  await lines.filter({ hasText: 'Storm' }).getByRole('checkbox').uncheck()
  await page.getByRole('button', { name: 'Take 2 of 3' }).click()
  await expect(page.getByTestId('conform-done')).toContainText('2 lines are taken')
  await page.getByRole('dialog').getByRole('button', { name: 'Close', exact: true }).last().click()
  await expect(page.getByRole('button', { name: 'Undo conform to cut.otio' })).toBeVisible()
  await desk.savedNow()
  const labels = async () => Object.values((await outlineOf(film.projectId)).shots).sort((a, b) => (a.order < b.order ? -1 : 1)).map(({ label }) => label)
  expect(await labels()).toEqual(['020', '010'])
  const versions = (await (await fetch(`${address()}/api/projects/${film.projectId}/versions`)).json()) as { name: string }[]
  expect(versions.map(({ name }) => name)).toContain('Before it was conformed to cut.otio')
  await expect(page.getByRole('dialog')).toHaveCount(0)
  await page.keyboard.press('Control+z')
  await expect.poll(labels).toEqual(['010', '020'])

  writeFileSync(path, JSON.stringify(timeline).slice(0, 900))
  await conformTo(page, path)
  await expect(page.getByRole('alert')).toContainText('cut short, or not JSON. Nothing has been changed.')
})

test('a shot goes into the tray and comes back where it was; a choice under a name is there for the next time', async ({ page }) => {
  const film = await twoShots()
  const desk = new Desk(page)
  await desk.open(film.projectId)
  await page.keyboard.press('Alt+1')
  await page.locator('.head [aria-haspopup=menu]').first().click()
  await page.getByRole('menuitem', { name: 'Into the tray' }).click()
  const tray = page.getByTestId('shot-tray')
  await expect(tray.getByTestId('tray-shot')).toContainText('010')
  await expect(page.getByText(/^1 shots? ·/)).toBeVisible()
  await page.keyboard.press('Control+z')
  await expect(tray).toHaveCount(0)
  await page.keyboard.press('Control+Shift+z')
  await tray.getByRole('button', { name: 'Put shot 010 back' }).click()
  await expect(tray).toHaveCount(0)

  await page.getByRole('button', { name: 'Hand over…' }).click()
  const dialog = page.getByRole('dialog')
  await onlyFormat(dialog, 'Numbered pictures (PNG, zipped)')
  await dialog.getByRole('button', { name: 'Keep this choice…' }).click()
  await dialog.getByLabel('Name of the choice').fill('For the studio')
  await dialog.getByRole('button', { name: 'Keep', exact: true }).click()
  await onlyFormat(dialog, 'Movie (WebM)')
  await page.reload()
  await page.getByRole('button', { name: 'Hand over…' }).click()
  await expect(dialog.getByLabel('Movie (WebM)')).toBeChecked()
  await dialog.getByRole('combobox', { name: 'Kept choices' }).click()
  await page.getByRole('option', { name: 'For the studio' }).click()
  await expect(dialog.getByLabel('Numbered pictures (PNG, zipped)')).toBeChecked()
  await expect(dialog.getByLabel('Movie (WebM)')).not.toBeChecked()
})

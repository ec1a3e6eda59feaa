import type { Page } from '@playwright/test'
import { readFile } from 'node:fs/promises'
import { strFromU8, strToU8, unzipSync, zipSync, type Zippable } from 'fflate'
import sharp from 'sharp'
import { bodyOf, Desk, drawingsOf, expect, makeFilm, test } from './desk'

/** Fills the frame at the first frame; the camera goes 0.4 fw to the right and needs 1.5 fw of it, with a margin of 5 % at each side. */
const WALL = { id: 'wall', colour: '#2e7a68', box: [-1, -1, 0.75, 1] as const, depth: 0 }
const SHED = { id: 'shed', colour: '#c2452d', box: [-0.9, -0.9, 0.9, 0.9] as const, depth: 0.5 }
const WAY = [{ frame: 0, pose: { x: 0 } }, { frame: 40, pose: { x: 0.4 } }]
const BLUE = { r: 42, g: 106, b: 153, alpha: 1 }
const png = async (width: number, height: number, background: object) => new Uint8Array(await sharp({ create: { width, height, channels: 4, background } }).png().toBuffer())

async function open(page: Page) {
  const film = await makeFilm({ levels: [WALL, SHED], framings: WAY })
  const desk = new Desk(page)
  await desk.open(film.projectId)
  await page.keyboard.press('Alt+Shift+r')
  await page.locator('[data-level=wall]').click()
  return { film, desk }
}
/** The file that goes out of what is chosen: its layers by name, and its entries. */
async function out(page: Page) {
  const panel = page.getByTestId('needed')
  await expect(panel.getByRole('button', { name: 'Out to paint' })).toBeEnabled()
  const [download] = await Promise.all([page.waitForEvent('download'), panel.getByRole('button', { name: 'Out to paint' }).click()])
  const bytes = await readFile((await download.path())!)
  const entries = unzipSync(bytes)
  const xml = strFromU8(entries['stack.xml']!)
  const [, w, h] = /<image version="0.0.6" w="(\d+)" h="(\d+)"/.exec(xml)!
  return { name: download.suggestedFilename(), first: strFromU8(bytes.subarray(30, 38)), entries, xml, width: Number(w), height: Number(h), layers: [...xml.matchAll(/<layer name="([^"]*)" src="([^"]*)"/g)].map(([, name, src]) => ({ name: name!, src: src! })) }
}
const packed = (xml: string, pictures: Record<string, Uint8Array>) => {
  const files: Zippable = { mimetype: [strToU8('image/openraster'), { level: 0 }], 'stack.xml': strToU8(xml) }
  for (const [name, bytes] of Object.entries(pictures)) files[name] = [bytes, { level: 0 }]
  return Buffer.from(zipSync(files)).toString('base64')
}
const drop = (page: Page, name: string, base64: string) =>
  page.evaluate(
    ([called, text]) => {
      const transfer = new DataTransfer()
      transfer.items.add(new File([Uint8Array.from(atob(text!), (letter) => letter.charCodeAt(0))], called!, { type: 'image/openraster' }))
      window.dispatchEvent(new DragEvent('drop', { dataTransfer: transfer, bubbles: true, cancelable: true }))
    },
    [name, base64],
  )
const marksOf = async (film: { projectId: string }, id: string) => Object.values<{ kind: string; x: number; y: number; widthFw: number; widthPx: number; heightPx: number }>((await drawingsOf(film.projectId, [id]))[0].drawing.marks)

test('a level goes out as layers of just the needed size; painted at twice the resolution under another name it lands in its place, the rough under it', async ({ page }) => {
  const { film, desk } = await open(page)
  const file = await out(page)
  expect([file.name, file.first]).toEqual(['Shapes – wall.ora', 'mimetype'])
  expect([file.width, file.height]).toEqual([720, 318])
  expect(file.layers.map(({ name }) => name.replace(/ \{rubato (\w+).*\}/, ' [$1]'))).toEqual(['wall, guide [guide]', 'wall [t]', 'wall, rough [rough]'])
  for (const src of [...file.layers.map((layer) => layer.src), 'mergedimage.png']) expect(await sharp(file.entries[src]!).metadata()).toMatchObject({ width: 720, height: 318, format: 'png' })
  const alpha = async (src: string) => (await sharp(file.entries[src]!).stats()).channels[3]!.max
  expect(await Promise.all(file.layers.map(({ src }) => alpha(src)))).toEqual([255, 0, 255])
  await expect(page.getByTestId('needed')).toContainText('720 × 318 px saved.')

  // Not painted on it is told so, and nothing is brought back.
  await drop(page, 'untouched.ora', packed(file.xml, file.entries))
  const dialog = page.getByTestId('bring-in')
  await expect(dialog.getByTestId('finds-back')).toContainText('wall stays out: nothing was painted on it.')
  await expect(dialog.getByRole('button', { name: 'Bring in' })).toBeDisabled()
  await dialog.getByRole('button', { name: 'Cancel' }).click()

  const art = file.layers[1]!.src
  // A shadow was put in over it, hidden ones are not meant.
  const twice = file.xml
    .replace('w="720" h="318"', 'w="1440" h="636"')
    .replace(/(<layer name="wall \{)/, '<layer name="Sketch" src="data/x.png" visibility="hidden"/><layer name="Dirt" src="data/dirt.png" x="1400" y="600" composite-op="svg:multiply"/>$1')
  await drop(page, 'renamed by hand.ora', packed(twice, { [art]: await png(1440, 636, BLUE), 'data/dirt.png': await png(40, 36, { r: 128, g: 128, b: 128, alpha: 1 }), 'data/x.png': await png(9, 9, BLUE), 'data/1-guide.png': await png(1440, 636, { r: 0, g: 0, b: 0, alpha: 0.5 }) }))
  await expect(dialog.getByTestId('finds-back')).toHaveText(/wall\s+→ “wall” of shot 010\s+with Dirt/)
  await expect(dialog.getByRole('radio')).toHaveCount(0)
  await dialog.getByRole('button', { name: 'Bring in' }).click()
  await expect(page.getByRole('button', { name: 'Undo painted: wall' })).toBeVisible()
  await desk.savedNow()
  const body = await bodyOf(film)
  const drawingId = Object.values<{ levelId: string; drawingId: string }>(body.cells).find(({ levelId }) => levelId === 'wall')!.drawingId
  const [mark, ...more] = await marksOf(film, drawingId)
  expect([mark!.kind, more.length, mark!.widthPx, mark!.heightPx]).toEqual(['picture', 0, 1440, 636])
  const [needLeft, needTop, needWidth] = [-0.55, 0.33125, 1.5]
  const tall = (mark!.widthFw * mark!.heightPx) / mark!.widthPx
  for (const [is, ought] of [[mark!.x - mark!.widthFw / 2, needLeft], [mark!.x + mark!.widthFw / 2, needLeft + needWidth], [mark!.y + tall / 2, needTop], [mark!.y - tall / 2, needTop - (needWidth * 318) / 720]] as const) expect(Math.abs(is - ought)).toBeLessThan(1e-6)
  // It is seen, and the rough, which lies under it in the rack, is not in the picture.
  await expect.poll(() => desk.pixel(0.2, 0.1)).toEqual([42, 106, 153, 255])
  const rough = Object.values<{ id: string; kind: string; name: string; carrier: object; locked: boolean }>(body.levels).find(({ kind }) => kind === 'reference')!
  expect(rough).toMatchObject({ name: 'wall, rough', locked: true, carrier: { kind: 'level', levelId: 'wall', turn: true, size: true } })
  const under = Object.values<{ levelId: string; drawingId: string }>(body.cells).find(({ levelId }) => levelId === rough.id)!
  expect((await marksOf(film, under.drawingId)).map(({ kind }) => kind)).not.toContain('picture')
  await expect(page.locator('.p-dialog')).toHaveCount(0)
  await page.keyboard.press('Control+z')
  await expect(page.getByRole('button', { name: 'Undo painted: wall' })).toHaveCount(0)
  await expect(page.locator(`[data-level="${rough.id}"]`)).toHaveCount(0)
  await expect.poll(() => desk.pixel(0.2, 0.1)).toEqual([46, 122, 104, 255])
})

test('several levels go out in one file, a set’s pieces too, and come back each to its own; one that is locked or cut is told', async ({ page }) => {
  const { film, desk } = await open(page)
  await page.locator('[data-level=shed]').click({ modifiers: ['Control'] })
  await page.keyboard.press('Alt+Shift+u')
  await expect(page.getByRole('button', { name: 'Undo make a set of 2 levels' })).toBeVisible()
  const file = await out(page)
  const arts = file.layers.filter(({ name }) => name.includes('{rubato s.'))
  // As they lie over each other.
  expect(arts.map(({ name }) => name.split(' ')[0])).toEqual(['wall', 'shed'])
  // The canvas was cut: where it lies can't be told.
  const dialog = page.getByTestId('bring-in')
  await drop(page, 'cut.ora', packed(file.xml.replace(/w="\d+" h="\d+"/, 'w="300" h="300"'), { [arts[0]!.src]: await png(300, 300, BLUE) }))
  await expect(dialog.getByTestId('finds-back')).toContainText(`the canvas went out with ${file.width} × ${file.height} px and came back as 300 × 300`)
  await dialog.getByRole('button', { name: 'Cancel' }).click()
  await drop(page, 'both.ora', packed(file.xml, { [arts[0]!.src]: await png(file.width, file.height, BLUE), [arts[1]!.src]: await png(file.width, file.height, { r: 119, g: 71, b: 111, alpha: 1 }) }))
  await expect(dialog.getByTestId('finds-back').getByRole('listitem')).toHaveText([/“wall” of the set “Set 1”, in all its shots/, /“shed” of the set “Set 1”, in all its shots/])
  await dialog.getByLabel('keep what was drawn there under it').uncheck()
  await dialog.getByRole('button', { name: 'Bring in' }).click()
  await expect(page.getByRole('button', { name: 'Undo painted: 2 levels' })).toBeVisible()
  await expect.poll(() => desk.pixel(0.2, 0.1)).toEqual([42, 106, 153, 255])
  await desk.savedNow()
  // Another film knows nothing of them: they are layers there like any.
  const other = await makeFilm({ levels: [WALL] })
  await desk.open(other.projectId)
  await drop(page, 'both.ora', packed(file.xml.replaceAll('{rubato s.', '{rubato s.x'), { [arts[0]!.src]: await png(file.width, file.height, BLUE) }))
  await expect(dialog.getByTestId('finds-back')).toContainText('it is not of this film, or its shot was taken out')
  await expect(dialog.getByTestId('outcome')).toContainText('1 level')
  await dialog.getByRole('button', { name: 'Cancel' }).click()
  expect(Object.keys((await bodyOf(film)).levels)).toHaveLength(1)
})

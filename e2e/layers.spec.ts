import { readFileSync, writeFileSync } from 'node:fs'
import { strFromU8, unzipSync, zipSync, type Zippable } from 'fflate'
import sharp from 'sharp'
import { exportAs } from './exporting'
import { bodyOf, Desk, drawingsOf, expect, makeFilm, test } from './desk'
import type { Page } from '@playwright/test'

const LEVELS = [
  { id: 'near', colour: '#c2452d', box: [-0.1, -0.1, 0.1, 0.1] as const, depth: 0, opacity: 0.5 },
  { id: 'far', colour: '#2e7a68', box: [-0.9, -0.6, 0.9, 0.6] as const, depth: 1 },
  { id: 'door', colour: '#b27b1b', box: [-0.3, -0.1, -0.15, 0.1] as const, depth: 0.2, panDegrees: 30 },
]
const drop = (page: Page, name: string, bytes: Uint8Array, type: string) =>
  page.evaluate(
    ([called, text, kind]) => {
      const transfer = new DataTransfer()
      transfer.items.add(new File([Uint8Array.from(atob(text!), (letter) => letter.charCodeAt(0))], called!, { type: kind! }))
      window.dispatchEvent(new DragEvent('drop', { dataTransfer: transfer, bubbles: true, cancelable: true }))
    },
    [name, Buffer.from(bytes).toString('base64'), type],
  )
const marksOf = async (film: { readonly projectId: string; readonly takeId: string }, levelId: string) => {
  const cell = Object.values<{ levelId: string; drawingId: string }>((await bodyOf(film)).cells).find((each) => each.levelId === levelId)!
  return (await drawingsOf(film.projectId, [cell.drawingId]))[0].drawing.marks as { readonly kind: string; readonly x: number; readonly y: number; readonly widthFw: number; readonly widthPx: number; readonly heightPx: number; readonly mode?: string; readonly points?: number[]; readonly outlines?: number[][]; readonly colour?: string }[]
}

test('panels go out as layered pictures; what was painted on comes back in place, and the rest stays drawn', async ({ page }) => {
  const film = await makeFilm({ panels: [24, 24], levels: LEVELS })
  const desk = new Desk(page)
  await desk.open(film.projectId)
  const { name, path } = await exportAs(page, { format: 'Panels as layers (OpenRaster, one each, zipped)' })
  expect(name).toBe('Shapes-ora.zip')
  const files = unzipSync(readFileSync(path))
  expect(Object.keys(files)).toEqual(['Shapes-010-1.ora', 'Shapes-010-2.ora'])
  const entries = unzipSync(files['Shapes-010-1.ora']!)
  expect(strFromU8(files['Shapes-010-1.ora']!.subarray(38, 54))).toBe('image/openraster')
  const xml = strFromU8(entries['stack.xml']!)
  const layers = [...xml.matchAll(/<layer name="([^"]*)" src="([^"]*)" x="([-\d]+)" y="([-\d]+)" opacity="([\d.]+)"/g)].map(([, named, src, x, y, opacity]) => ({ name: named!.replace(/ \{rubato (\w+).*\}/, ' [$1]'), src: src!, x: Number(x), y: Number(y), opacity: Number(opacity) }))
  expect(layers.map(({ name: named }) => named)).toEqual(['Frame [guide]', 'near [t]', 'door, as seen [seen]', 'far [t]'])
  // A tenth of a fw of 480 px each way from the middle of 270 px.
  expect([layers[1]!.x, layers[1]!.y, layers[1]!.opacity]).toEqual([192, 87, 0.5])
  expect(await sharp(entries[layers[1]!.src]!).metadata()).toMatchObject({ width: 96, height: 96 })
  // Beyond the frame there is art as well: it goes along.
  expect(layers[3]!.x).toBeLessThan(0)
  const merged = await sharp(entries['mergedimage.png']!).removeAlpha().raw().toBuffer({ resolveWithObject: true })
  expect([merged.info.width, merged.info.height]).toEqual([480, 270])
  const at = (135 * 480 + 240) * 3
  expect([...merged.data.subarray(at, at + 3)]).toEqual((await desk.pixel(0, 0)).slice(0, 3))

  const dialog = page.getByRole('dialog', { name: 'Hand over' })
  await dialog.getByRole('button', { name: 'Close' }).first().click()
  await expect(dialog).toBeHidden()
  const painted: Zippable = { mimetype: [entries.mimetype!, { level: 0 }] }
  for (const [entry, bytes] of Object.entries(entries)) if (entry !== 'mimetype') painted[entry] = [bytes, { level: 0 }]
  const { width, height } = await sharp(entries[layers[3]!.src]!).metadata()
  painted[layers[3]!.src] = [new Uint8Array(await sharp({ create: { width: width!, height: height!, channels: 4, background: { r: 42, g: 106, b: 153, alpha: 1 } } }).png().toBuffer()), { level: 0 }]
  await drop(page, 'any name.ora', zipSync(painted), 'image/openraster')
  const back = page.getByTestId('bring-in')
  await expect(back.getByTestId('finds-back').getByRole('listitem')).toHaveText([/near\s+stays out: it is as it went out/, /far\s+→ “far” of shot 010/])
  const drawnBefore = await marksOf(film, 'near')
  await back.getByRole('button', { name: 'Bring in' }).click()
  await expect(page.getByRole('button', { name: 'Undo painted: far' })).toBeVisible()
  await desk.savedNow()
  expect(await marksOf(film, 'near')).toEqual(drawnBefore)
  const [picture] = await marksOf(film, 'far')
  // The box reached from −0.9 to 0.9 fw of its own art.
  expect([picture!.kind, picture!.x, picture!.y]).toEqual(['picture', expect.closeTo(0, 2), expect.closeTo(0, 2)])
  expect(picture!.widthFw).toBeCloseTo(1.8, 1)
  await expect.poll(() => desk.pixel(-0.4, 0.2)).toEqual([42, 106, 153, 255])

  // All levels of the shot in one file.
  const whole = await exportAs(page, { format: 'Levels of a shot as layers (OpenRaster)' })
  expect(whole.name).toBe('Shapes-010.ora')
  expect(strFromU8(unzipSync(readFileSync(whole.path))['stack.xml']!).match(/<layer /g)).toHaveLength(4)

  // The panel at the playhead, alone.
  await page.getByRole('dialog').getByRole('button', { name: 'Close' }).first().click()
  await expect(page.locator('.p-dialog')).toHaveCount(0)
  await desk.goTo(30)
  await page.keyboard.press('Control+k')
  await page.keyboard.type('Save this panel as layers')
  const [alone] = await Promise.all([page.waitForEvent('download'), page.keyboard.press('Enter')])
  expect(alone.suggestedFilename()).toBe('Shapes-010-2.ora')
  expect(Object.keys(unzipSync(readFileSync(await alone.path())))).toContain('stack.xml')
})

test('a drawing goes out as SVG, is changed elsewhere and comes back: its lines are lines still', async ({ page }, info) => {
  const film = await makeFilm({ levels: LEVELS.slice(0, 2) })
  const desk = new Desk(page)
  await desk.open(film.projectId)
  await page.locator('[data-level=near]').click()
  await page.keyboard.press('d')
  await expect(page.getByTestId('paper-host')).toHaveAttribute('data-resampling', 'exact')
  await page.keyboard.press('2')
  const frame = (await page.getByTestId('paper-frame').boundingBox())!
  const at = (u: number, v: number) => [frame.x + frame.width * (0.5 + u), frame.y + frame.height / 2 - v * frame.width] as const
  await page.mouse.move(...at(-0.3, 0.1))
  await page.mouse.down()
  await page.mouse.move(...at(-0.1, 0.15), { steps: 6 })
  await page.mouse.up()
  await expect(page.getByRole('button', { name: 'Undo stroke on near' })).toBeVisible()
  await desk.savedNow()
  const before = await marksOf(film, 'near')
  const { name, path } = await exportAs(page, { format: 'Drawings as lines (SVG, zipped)' })
  expect(name).toBe('Shapes-svg.zip')
  const files = unzipSync(readFileSync(path))
  expect(Object.keys(files).sort()).toEqual(['Shapes-010-far.svg', 'Shapes-010-near.svg'])
  await page.getByRole('dialog').getByRole('button', { name: 'Close' }).first().click()
  const svg = strFromU8(files['Shapes-010-near.svg']!)
  const file = info.outputPath('near.svg')
  writeFileSync(file, svg)
  // Any program that knows SVG shows it.
  expect((await sharp(file).metadata()).format).toBe('svg')

  // As it went out it changes nothing.
  const text = (words: string) => new TextEncoder().encode(words)
  const dialog = page.getByTestId('bring-in')
  await drop(page, 'near.svg', text(svg), 'image/svg+xml')
  await expect(dialog.getByTestId('lines-back')).toHaveText(/near\s+stays out: it is as it went out/)
  // It is no new art either, unless one says so.
  await expect(dialog.getByRole('button', { name: 'Bring in' })).toBeDisabled()
  await dialog.getByRole('button', { name: 'Cancel' }).click()
  await expect(dialog).toBeHidden()
  await desk.savedNow()
  expect(await marksOf(film, 'near')).toEqual(before)

  // Moved as a whole 48 px to the right, the area in another tone, and a line and a text drawn beside.
  const changed = svg.replace(/(<\/title>)/, '$1<g transform="translate(48 0)">').replace('fill="#c2452d"', 'fill="#2a6a99"').replace('</svg>', '</g><path d="M10 10h100c0 20 20 20 20 40" fill="none" stroke="#123456" stroke-width="4.8"/><text x="5" y="5">hm</text></svg>')
  await drop(page, 'changed.svg', text(changed), 'image/svg+xml')
  await expect(dialog.getByText('As lines, left out: a text: turn it to paths first.')).toBeVisible()
  await dialog.getByText('Lines stay lines').click()
  await expect(dialog.getByTestId('lines-back')).toHaveText(/near\s+→ “near” of shot 010/)
  await dialog.getByRole('button', { name: 'Bring in' }).click()
  await expect(page.getByRole('button', { name: 'Undo lines of near' })).toBeVisible()
  await desk.savedNow()
  const [area, stroke, line, ...more] = await marksOf(film, 'near')
  expect([area!.kind, area!.colour, stroke!.kind, line!.kind, line!.colour, more.length]).toEqual(['fill', '#2a6a99', 'stroke', 'stroke', '#123456', 0])
  expect(area!.outlines![0]![0]! - before[0]!.outlines![0]![0]!).toBeCloseTo(0.1, 4)
  stroke!.points!.forEach((value, i) => expect(value).toBeCloseTo(before[1]!.points![i]! + (i % 3 === 0 ? 0.1 : 0), 4))
  expect((line as unknown as { widthFw: number }).widthFw).toBeCloseTo(0.01, 5)
  await page.keyboard.press('Control+z')
  await desk.savedNow()
  expect(await marksOf(film, 'near')).toEqual(before)

  // An area put between the area and the line lies there; one under all lies behind all.
  const own = [...svg.matchAll(/<path [^>]*\/>/g)].map(([path]) => path)
  expect(own).toHaveLength(2)
  const between = svg.replace(own[1]!, `<rect x="5" y="5" width="40" height="20" fill="#112233"/>${own[1]}`).replace(own[0]!, `<circle cx="9" cy="9" r="7" fill="#445566"/>${own[0]}`)
  await drop(page, 'between.svg', text(between), 'image/svg+xml')
  await dialog.getByRole('button', { name: 'Bring in' }).click()
  await expect(page.getByRole('button', { name: 'Undo lines of near' })).toBeVisible()
  await desk.savedNow()
  expect((await marksOf(film, 'near')).map(({ colour, mode }) => [colour, mode])).toEqual([['#c2452d', 'ink'], ['#112233', 'ink'], [before[1]!.colour, 'ink'], ['#445566', 'behind']])

  // As a new level of its own, where it is wanted as lines and not back in place.
  await page.keyboard.press('d')
  await expect(page.getByTestId('lens-host').locator('canvas').first()).toBeVisible()
  await drop(page, 'foreign.svg', text('<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 480 270"><g transform="translate(240 135)"><circle r="24" fill="#77476f"/></g></svg>'), 'image/svg+xml')
  await expect(dialog.getByText('to be drawn on: 1 mark')).toBeVisible()
  await dialog.getByRole('button', { name: 'Bring in' }).click()
  await expect(page.getByRole('button', { name: 'Undo bring in foreign' })).toBeVisible()
  await expect.poll(() => desk.pixel(0.03, 0.03)).toEqual([0x77, 0x47, 0x6f, 255])
})

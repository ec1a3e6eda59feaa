import { compareOrdered } from '@rubato/core/document'
import { readFileSync } from 'node:fs'
import type { Page } from '@playwright/test'
import { strToU8, zipSync } from 'fflate'
import { getDocument } from 'pdfjs-dist/legacy/build/pdf.mjs'
import sharp from 'sharp'
import { arrive } from './day'
import { address, expect, makeFilm, test } from './desk'

const SCRIPT = `Title: Marsh

INT. TOWER - DAY

Oskar trims the wick.

OSKAR
That's the last of the good oil, and the night is long.

EXT. TOWER - NIGHT

Wind.

EXT. BOARDWALK - DUSK

Tilda runs.

TILDA
Wait!
`

async function openBoards(page: Page, projectId: string) {
  await arrive(page, `${address()}/film/${projectId}?view=boards`)
  await expect(page.getByTestId('board-page')).toBeVisible()
  await expect(page.getByTestId('panel-card').first()).toBeVisible()
}
const cards = (page: Page) => page.getByTestId('panel-card')
const heads = (page: Page) => page.getByTestId('shot-head')
const labels = (page: Page) => heads(page).evaluateAll((list) => list.map((head) => (head as HTMLElement).dataset.shot))
const actions = (page: Page) => cards(page).evaluateAll((list) => list.map((card) => card.querySelector('.action')?.textContent?.trim()))
const saved = (page: Page) => expect(page.getByTestId('save-state')).toHaveText(/^Saved \d\d:\d\d$/)

async function bringScript(page: Page, text: string) {
  const dialog = page.getByTestId('script-dialog')
  await dialog.getByLabel('The script as text').fill(text)
  await dialog.getByRole('button', { name: 'Read it' }).click()
  await expect(dialog.getByText('passages,')).toBeVisible()
  return dialog
}

test('a script becomes sequences, passages become shots and panels, and a later script tells which words changed', async ({ page }) => {
  const { projectId } = await makeFilm({ panels: [24] })
  await openBoards(page, projectId)
  await page.getByRole('button', { name: 'Write or paste…' }).click()
  const dialog = await bringScript(page, SCRIPT)
  // The second scene is in the same place as the first, so it goes with it until told otherwise.
  await expect(dialog.getByText('2 new sequences')).toBeVisible()
  await dialog.getByRole('textbox', { name: /INT. TOWER/ }).fill('The tower')
  await dialog.getByRole('button', { name: 'Bring it in' }).click()
  await expect(page.getByTestId('sequence')).toHaveCount(3)
  await expect(page.getByTestId('sequence').nth(1)).toContainText('The tower')
  await expect(page.getByTestId('not-yet')).toHaveText('5 not yet boarded')

  await page.getByTestId('passage').filter({ hasText: 'Oskar trims' }).click()
  await page.getByTestId('passage').filter({ hasText: 'the last of the good oil' }).click({ modifiers: ['Shift'] })
  await page.getByTestId('script').press('Enter')
  await expect(heads(page)).toHaveCount(2)
  await expect(page.getByTestId('not-yet')).toHaveText('3 not yet boarded')
  const card = cards(page).filter({ hasText: 'Oskar trims the wick.' })
  await expect(card).toContainText('OSKAR: That’s'.replace('’', "'"))
  // Twelve words at 150 a minute and a breath: 4.8 + 0.5 s, 127.2 frames.
  await expect(card).toContainText('128 f')
  // Under the hand is what comes next.
  await expect(page.getByTestId('passage').and(page.locator('[aria-selected=true]'))).toContainText('Wind.')
  await page.getByTestId('script').press('Shift+Enter')
  await expect(cards(page).filter({ hasText: 'Wind.' })).toBeVisible()
  await saved(page)

  await page.getByRole('button', { name: 'Script and subtitles' }).click()
  await page.getByRole('menuitem', { name: 'Edit the script…' }).click()
  const again = await bringScript(page, SCRIPT.replace('Oskar trims the wick.', 'Oskar trims the last wick.').replace('Tilda runs.\n', ''))
  await expect(again).toContainText('0 new, 1 edited (1 on the boards), 1 gone')
  await again.getByRole('button', { name: 'Accept the changes' }).click()
  const changed = cards(page).filter({ hasText: 'Script changed' })
  await expect(changed).toHaveCount(1)
  await changed.getByRole('button', { name: 'Take' }).click()
  await expect(cards(page).filter({ hasText: 'Oskar trims the last wick.' })).toBeVisible()
  await expect(cards(page).filter({ hasText: 'Script changed' })).toHaveCount(0)
  await page.getByRole('button', { name: 'Undo words from the script' }).click()
  await expect(cards(page).filter({ hasText: 'Script changed' })).toHaveCount(1)
  await saved(page)
  await page.reload()
  await expect(cards(page).filter({ hasText: 'Script changed' })).toHaveCount(1)
})

test('what is no script is refused with the reason', async ({ page }) => {
  const { projectId } = await makeFilm({ panels: [24] })
  await openBoards(page, projectId)
  const give = async (name: string, bytes: Buffer) => {
    const chooser = page.waitForEvent('filechooser')
    await page.getByTestId('script-dialog').getByRole('button', { name: 'Choose a file…' }).click()
    await (await chooser).setFiles({ name, mimeType: 'text/plain', buffer: bytes })
  }
  await page.getByRole('button', { name: 'Write or paste…' }).click()
  await give('script.pdf', Buffer.from('%PDF-1.7 …'))
  await expect(page.getByRole('alert')).toContainText('This is a PDF')
  await give('script.txt', Buffer.from([1, 0, 2, 0, 3]))
  await expect(page.getByRole('alert')).toContainText('not a text file')
  await page.getByTestId('script-dialog').getByRole('button', { name: 'Read it' }).click()
  await expect(page.getByRole('alert')).toContainText('no text yet')
  // Western text from before UTF-8 is read, and that is said.
  await give('script.txt', Buffer.from('INT. CAF\xc9 - DAY\n\nLamp.\n', 'latin1'))
  await expect(page.getByTestId('script-dialog')).toContainText('INT. CAFÉ - DAY')
  await expect(page.getByTestId('script-dialog')).toContainText('not UTF-8')
})

test('panels are added, duplicated, split, joined and deleted, and all of it is undone', async ({ page }) => {
  const { projectId } = await makeFilm({ panels: [24, 30] })
  await openBoards(page, projectId)
  await cards(page).first().click()
  await page.keyboard.press('n')
  await expect(cards(page)).toHaveCount(3)
  await page.keyboard.press('Control+d')
  await expect(cards(page)).toHaveCount(4)
  await page.keyboard.press('k')
  await expect(cards(page)).toHaveCount(5)
  await cards(page).nth(3).click({ modifiers: ['Shift'] })
  await cards(page).nth(2).click()
  await cards(page).nth(3).click({ modifiers: ['Shift'] })
  await page.keyboard.press('j')
  await expect(cards(page)).toHaveCount(4)
  await page.keyboard.press('Delete')
  await expect(cards(page)).toHaveCount(3)
  await saved(page)
  for (const count of [4, 5, 4, 3, 2]) {
    await page.keyboard.press('Control+z')
    await expect(cards(page)).toHaveCount(count)
  }
  await expect(cards(page).nth(0)).toContainText('24 f')
  await expect(cards(page).nth(1)).toContainText('30 f')
})

test('captions are typed one after the other with Tab, a length is typed on the card', async ({ page }) => {
  const { projectId } = await makeFilm({ panels: [24, 24] })
  await openBoards(page, projectId)
  await cards(page).first().click()
  await page.keyboard.press('Enter')
  await page.keyboard.type('Tilda sets off.')
  await page.keyboard.press('Tab')
  await page.keyboard.type('TILDA: Wait!')
  await page.keyboard.press('Tab')
  await page.keyboard.type('Brisket follows.')
  await page.keyboard.press('Enter')
  await expect(cards(page).first()).toContainText('TILDA: Wait!')
  expect(await actions(page)).toEqual(['Tilda sets off.', 'Brisket follows.'])
  // Escape leaves what was there.
  await page.keyboard.press('Enter')
  await page.keyboard.type('nothing')
  await page.keyboard.press('Escape')
  expect(await actions(page)).toEqual(['Tilda sets off.', 'Brisket follows.'])
  await cards(page).first().getByRole('button', { name: '24 f' }).click()
  await page.keyboard.type('40')
  await page.keyboard.press('Enter')
  await expect(cards(page).first()).toContainText('40 f')
})

test('shots are numbered between, cut, joined, moved, renumbered; a label that is taken is refused', async ({ page }) => {
  await page.goto(`${address()}/`)
  const { projectId } = await makeFilm({ panels: [10, 20, 30] })
  await openBoards(page, projectId)
  await cards(page).nth(1).click()
  await page.keyboard.press('Shift+K')
  await expect(heads(page)).toHaveCount(2)
  expect(await labels(page)).toEqual(['010', '020'])
  await heads(page).first().click()
  await page.keyboard.press('Alt+n')
  await expect(heads(page)).toHaveCount(3)
  expect(await labels(page)).toEqual(['010', '015', '020'])
  await heads(page).nth(1).locator('b').dblclick()
  await page.keyboard.type('020')
  await page.keyboard.press('Enter')
  await expect(page.getByText('There is already a shot 020')).toBeVisible()
  await heads(page).nth(1).locator('b').dblclick()
  await page.keyboard.type('012')
  await page.keyboard.press('Enter')
  await expect.poll(() => labels(page)).toEqual(['010', '012', '020'])
  // Dragged by its name before the first.
  await heads(page).nth(2).dragTo(heads(page).nth(0), { targetPosition: { x: 300, y: 3 } })
  await expect.poll(() => labels(page)).toEqual(['020', '010', '012'])
  await page.getByRole('button', { name: 'More for shot 010' }).click()
  await page.getByRole('menuitem', { name: 'Renumber the whole film' }).click()
  await expect.poll(() => labels(page)).toEqual(['010', '020', '030'])
  await heads(page).nth(0).click()
  await heads(page).nth(1).click({ modifiers: ['Shift'] })
  await page.keyboard.press('j')
  await expect(heads(page)).toHaveCount(2)
  await expect(cards(page)).toHaveCount(4)
  await saved(page)
})

test('panels are dragged within a shot and into another', async ({ page }) => {
  const { projectId } = await makeFilm({ panels: [10, 20, 30] })
  await openBoards(page, projectId)
  for (const [i, words] of ['One', 'Two', 'Three'].entries()) {
    await cards(page).nth(i).click()
    await page.keyboard.press('Enter')
    await page.keyboard.type(words)
    await page.keyboard.press('Enter')
  }
  const box = (await cards(page).first().boundingBox())!
  await cards(page).nth(2).dragTo(cards(page).nth(0), { targetPosition: { x: 8, y: box.height / 2 } })
  await expect.poll(() => actions(page)).toEqual(['Three', 'One', 'Two'])
  await cards(page).nth(2).click()
  await page.keyboard.press('Shift+K')
  await expect(heads(page)).toHaveCount(2)
  await expect.poll(() => actions(page)).toEqual(['Three', 'One', 'Two'])
  await cards(page).nth(0).dragTo(cards(page).nth(2), { targetPosition: { x: box.width - 8, y: box.height / 2 } })
  await expect.poll(() => actions(page)).toEqual(['One', 'Two', 'Three'])
  await page.keyboard.press('Control+z')
  await expect.poll(() => actions(page)).toEqual(['Three', 'One', 'Two'])
  await saved(page)
})

test('words are found all over the film, and replaced as one change', async ({ page }) => {
  await openBoards(page, 'salt-lantern')
  await page.keyboard.press('Control+f')
  await page.getByLabel('Find in captions').fill('brisket')
  // Four panels say it, one shot is called it.
  await expect(page.getByTestId('found')).toHaveText('5 found')
  await page.keyboard.press('Enter')
  await expect(page.getByTestId('found')).toHaveText('1 of 5')
  await expect(cards(page).and(page.locator('[aria-selected=true]'))).toContainText('Brisket follows')
  await page.getByLabel('Replace with').fill('Goose (B.)')
  await page.getByRole('button', { name: 'Replace all' }).click()
  await expect(page.getByTestId('found')).toHaveText('1 found')
  await expect(cards(page).filter({ hasText: 'Goose (B.) follows' })).toBeVisible()
  await page.getByRole('button', { name: 'Undo replace in 4 panels' }).click()
  await expect(cards(page).filter({ hasText: 'Brisket follows' })).toBeVisible()
  await saved(page)
})

const picture = (widthPx: number, heightPx: number, colour: string) => sharp({ create: { width: widthPx, height: heightPx, channels: 4, background: colour } }).png().toBuffer()

async function layered(): Promise<Buffer> {
  const xml = `<?xml version="1.0"?><image w="400" h="200"><stack><layer name="Goose" src="data/a.png" x="100" y="50" opacity="0.5"/><stack name="Set"><layer name="Marsh" src="data/b.png"/><layer name="Rain" src="data/a.png" visibility="hidden"/></stack></stack></image>`
  return Buffer.from(zipSync({ mimetype: [strToU8('image/openraster'), { level: 0 }], 'stack.xml': strToU8(xml), 'data/a.png': new Uint8Array(await picture(100, 100, '#c2452d')), 'data/b.png': new Uint8Array(await picture(400, 200, '#2e7a68')) }))
}

async function bringIn(page: Page, files: { name: string; mimeType: string; buffer: Buffer }[]) {
  const chooser = page.waitForEvent('filechooser')
  await page.getByRole('button', { name: 'Bring in…' }).click()
  await (await chooser).setFiles(files)
  await expect(page.getByTestId('outcome')).toBeVisible()
  return page.getByTestId('bring-in')
}

test('pictures come in by name as panels, bad ones are named and left out; layered files keep their layers', async ({ page }) => {
  const { projectId } = await makeFilm({ panels: [24] })
  await openBoards(page, projectId)
  const png = (name: string, buffer: Buffer) => ({ name, mimeType: 'image/png', buffer })
  const svg = Buffer.from('<svg xmlns="http://www.w3.org/2000/svg" width="16" height="9" onload="x()"><script>x()</script><rect width="16" height="9" fill="#2a6a99"/></svg>')
  const dialog = await bringIn(page, [png('10.png', await picture(160, 90, '#222222')), png('2.png', await picture(160, 90, '#888888')), png('bad.png', Buffer.from('nothing')), { name: '3.svg', mimeType: 'image/svg+xml', buffer: svg }])
  await expect(dialog.locator('ol li')).toHaveText([/^\s*2\.png/, /3\.svg/, /10\.png/])
  await expect(dialog.getByRole('alert')).toContainText('“bad.png”')
  await expect(page.getByTestId('outcome')).toContainText('3 panels of 24 frames')
  // What was looked at first is gone, and the button that had the focus with it.
  await expect(dialog.getByRole('radio').first()).toBeFocused()
  await dialog.getByRole('button', { name: 'Bring in' }).click()
  await expect(heads(page)).toHaveCount(2)
  await expect(cards(page)).toHaveCount(4)
  await expect(page.getByText('Left out: “bad.png”')).toBeVisible()
  // The lines' blue is on the card.
  const colour = () =>
    cards(page)
      .nth(2)
      .locator('canvas')
      .evaluate((canvas: HTMLCanvasElement) => [...canvas.getContext('2d')!.getImageData(canvas.width / 2, canvas.height / 2, 1, 1).data])
  await expect.poll(colour).toEqual([42, 106, 153, 255])
  await page.keyboard.press('Control+z')
  await expect(cards(page)).toHaveCount(1)

  await cards(page).first().click()
  const second = await bringIn(page, [{ name: 'set.ora', mimeType: 'image/openraster', buffer: await layered() }])
  await expect(page.getByTestId('outcome')).toContainText('3 levels')
  await second.getByRole('button', { name: 'Bring in' }).click()
  await expect(page.getByRole('button', { name: 'Undo bring in 3 levels' })).toBeEnabled()
  await page.waitForTimeout(300)
  await saved(page)
  const [{ body }] = await (await fetch(`${address()}/api/projects/${projectId}/takes?ids=${await cards(page).first().getAttribute('data-take')}`)).json()
  const brought = Object.values<{ name: string; order: string; opacity: number; visible: boolean; kind: string; id: string }>(body.levels).filter((level) => level.kind === 'placed').sort(compareOrdered)
  expect(brought.map(({ name, opacity, visible }) => [name, opacity, visible])).toEqual([['Goose', 0.5, true], ['Marsh', 1, true], ['Rain', 1, false]])
  const cell = Object.values<{ levelId: string; drawingId: string }>(body.cells).find((each) => each.levelId === brought[0]!.id)!
  const [{ drawing }] = await (await fetch(`${address()}/api/projects/${projectId}/drawings?ids=${cell.drawingId}`)).json()
  // The canvas is as wide as the frame; the goose's middle is at (150, 100) of 400 × 200.
  expect(Object.values<object>(drawing.marks)[0]).toMatchObject({ x: -0.125, y: 0, widthFw: 0.25 })
})

test('files are dropped anywhere; a script among them is read as one', async ({ page }) => {
  const { projectId } = await makeFilm({ panels: [24] })
  await openBoards(page, projectId)
  const drop = (name: string, bytes: number[]) =>
    page.evaluate(
      ([fileName, content]) => {
        const transfer = new DataTransfer()
        transfer.items.add(new File([new Uint8Array(content as number[])], fileName as string))
        for (const kind of ['dragover', 'drop']) document.querySelector('[data-test=sequence]')!.dispatchEvent(new DragEvent(kind, { dataTransfer: transfer, bubbles: true, cancelable: true }))
      },
      [name, bytes] as const,
    )
  await drop('1.png', [...(await picture(64, 36, '#b27b1b'))])
  await expect(page.getByTestId('outcome')).toContainText('1 level')
  await page.getByLabel(/A new shot after/).check()
  await page.getByTestId('bring-in').getByRole('button', { name: 'Bring in' }).click()
  await expect(heads(page)).toHaveCount(2)
  await drop('marsh.fountain', [...Buffer.from(SCRIPT)])
  await expect(page.getByTestId('script-dialog').getByText('2 new sequences')).toBeVisible()
})

test('bringing in can be given up, and nothing is left behind', async ({ page }) => {
  const { projectId } = await makeFilm({ panels: [24] })
  await openBoards(page, projectId)
  // The third picture never gets through, so that there is something to give up.
  let parts = 0
  await page.route('**/api/uploads/*/parts/*', (route) => (++parts > 2 ? undefined : route.continue()))
  const hashes: string[] = []
  page.on('response', async (response) => {
    if (response.url().endsWith('/finish')) hashes.push(((await response.json()) as { hash: string }).hash)
  })
  const files = await Promise.all([31, 32, 33, 34].map(async (n) => ({ name: `${n}.png`, mimeType: 'image/png', buffer: await picture(n, n, '#010203') })))
  const dialog = await bringIn(page, files)
  await dialog.getByRole('button', { name: 'Bring in' }).click()
  await expect.poll(() => hashes.length).toBe(2)
  await dialog.getByRole('button', { name: 'Cancel' }).click()
  await expect(dialog).toBeHidden()
  await expect(cards(page)).toHaveCount(1)
  for (const hash of hashes) await expect.poll(async () => (await fetch(`${address()}/api/pictures/${hash}`)).status).toBe(404)
})

test('boards are printed with real text, in order, with numbers', async ({ page }) => {
  await openBoards(page, 'salt-lantern')
  await page.getByRole('button', { name: 'Print boards…' }).click()
  const dialog = page.getByTestId('print-dialog')
  await dialog.getByLabel('3', { exact: true }).check()
  await dialog.getByLabel('portrait').check()
  const download = page.waitForEvent('download')
  await dialog.getByRole('button', { name: 'Print', exact: true }).click()
  const file = await (await download).path()
  await expect(page.getByTestId('printed')).toContainText('12 panels on 5 pages')
  const pdf = await getDocument({ data: new Uint8Array(readFileSync(file)), verbosity: 0 }).promise
  const text = async (number: number) => (await (await pdf.getPage(number)).getTextContent()).items.map((item) => ('str' in item ? item.str : '')).join(' ').replace(/\s+/g, ' ')
  expect(pdf.numPages).toBe(5)
  const first = await text(1)
  for (const words of ['Salt Lantern', '02 Boardwalk', '030 – 1', '48 f', 'Dusk. The lamp gutters.', 'OSKAR: Mind the lamp.', 'Page 1 / 5']) expect(first).toContain(words)
  expect(await text(2)).toContain('TILDA: It’s going out!')
  const { width, height } = (await pdf.getPage(1)).getViewport({ scale: 1 })
  expect([Math.round(width), Math.round(height)]).toEqual([595, 842])
})

test('dialogue goes out as subtitles at its times, and the boards as a screenplay', async ({ page }) => {
  await openBoards(page, 'salt-lantern')
  const out = async (item: string) => {
    await page.getByRole('button', { name: 'Script and subtitles' }).click()
    const download = page.waitForEvent('download')
    await page.getByRole('menuitem', { name: item }).click()
    return readFileSync(await (await download).path(), 'utf8')
  }
  // Oskar speaks from frame 48 to 88 of 24 a second.
  expect(await out('Dialogue as subtitles (SRT)')).toMatch(/^1\n00:00:02,000 --> 00:00:03,667\nMind the lamp\.\n/)
  expect(await out('Dialogue as subtitles (WebVTT)')).toContain('<v TILDA>It’s going out!</v>')
  expect(await out('Boarded words as Fountain')).toContain('EXT. SALT MARSH - DUSK\n\n[[Shot 030]]\n\nDusk. The lamp gutters.')
})

test('sequences are added, named, given targets, and taken out', async ({ page }) => {
  const { projectId } = await makeFilm({ panels: [48] })
  await openBoards(page, projectId)
  await page.getByRole('button', { name: 'New sequence', exact: true }).click()
  await page.keyboard.type('Kite')
  await page.keyboard.press('Enter')
  await expect(page.getByTestId('sequence')).toHaveCount(2)
  const kite = page.getByTestId('sequence').nth(1)
  await expect(kite).toContainText('Kite')
  const first = page.getByTestId('sequence').first()
  await first.locator('.time').dblclick()
  await page.keyboard.type('0:01')
  await page.keyboard.press('Enter')
  await expect(first).toContainText('0:02/0:01')
  await expect(first.getByRole('img', { name: 'Over its target' })).toBeVisible()
  await heads(page).first().dragTo(kite)
  await expect(kite).toContainText('0:02')
  await first.hover()
  await first.getByRole('button', { name: /More for sequence/ }).click()
  await page.getByRole('menuitem', { name: 'Delete sequence and its shots' }).click()
  await expect(page.getByTestId('sequence')).toHaveCount(1)
  await saved(page)
})

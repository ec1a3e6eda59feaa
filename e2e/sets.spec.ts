import { randomUUID } from 'node:crypto'
import { readFile, writeFile } from 'node:fs/promises'
import { bodyOf, Desk, expect, json, makeFilm, test } from './desk'
import { Paper } from './paper'

const LEVELS = [
  { id: 'tilda', colour: '#c2452d', box: [-0.45, -0.1, -0.3, 0.1] as const, depth: 0, order: 'a1' },
  { id: 'hut', colour: '#2e7a68', box: [-0.1, -0.1, 0.1, 0.1] as const, depth: 0.5, order: 'a2' },
  { id: 'fence', colour: '#2a6a99', box: [0.2, -0.1, 0.3, 0.1] as const, depth: 0.5, order: 'a3' },
]
type Film = Awaited<ReturnType<typeof makeFilm>>
type SetBody = { readonly pieces: Record<string, { readonly id: string; readonly name: string; readonly x: number; readonly carrier?: object }>; readonly art: Record<string, { readonly drawingId: string }> }

/** A film of two shots, the hut and the fence of the first made a set. */
async function twoShots(desk: Desk): Promise<{ readonly film: Film; readonly other: string; readonly setId: string }> {
  const film = await makeFilm({ levels: LEVELS })
  await desk.open(film.projectId)
  const { page } = desk
  await page.locator('[data-level=hut]').click()
  await page.locator('[data-level=fence]').click({ modifiers: ['Control'] })
  await page.keyboard.press('Alt+Shift+u')
  await expect(page.getByRole('button', { name: 'Undo make a set of 2 levels' })).toBeVisible()
  await page.getByRole('button', { name: 'New shot after this one' }).click()
  await desk.savedNow()
  const { outline } = await json(`/api/projects/${film.projectId}`)
  const other = Object.keys(outline.takes).find((id) => id !== film.takeId)!
  return { film, other, setId: Object.keys(outline.sets)[0]! }
}
const setOf = async (film: Film, id: string): Promise<SetBody> => (await json(`/api/projects/${film.projectId}/sets?ids=${id}`))[0].body
const takeOf = async (film: Film, id: string) => (await json(`/api/projects/${film.projectId}/takes?ids=${id}`))[0].body
const setsIn = async (film: Film, id: string) => Object.values<{ kind: string }>((await takeOf(film, id)).levels).filter(({ kind }) => kind === 'set')
const GREEN = [46, 122, 104]
const PAPER = [255, 255, 255]
const near = (a: readonly number[], b: readonly number[], by = 12) => a.slice(0, 3).every((value, i) => Math.abs(value - b[i]!) < by)

test('levels are made a set in place, put into another shot, and changed in all its shots at once', async ({ page }) => {
  const desk = new Desk(page)
  const { film, other, setId } = await twoShots(desk)
  expect(Object.values((await setOf(film, setId)).pieces).map(({ name }) => name).sort()).toEqual(['fence', 'hut'])
  expect(Object.values<{ kind: string }>((await bodyOf(film)).levels).map(({ kind }) => kind).sort()).toEqual(['drawn', 'set'])

  // Into the second shot, where it stands in the first.
  await page.getByRole('button', { name: 'Sets', exact: true }).last().click()
  const panel = page.getByRole('group', { name: 'Sets' })
  await expect(panel.getByText('in 1 shot')).toBeVisible()
  await panel.getByRole('button', { name: 'Put Set 1 into this shot' }).click()
  await expect(page.getByRole('button', { name: 'Undo put Set 1' })).toBeVisible()
  await expect(panel).toHaveCount(0)
  await expect.poll(async () => near(await desk.pixel(0, 0), GREEN)).toBe(true)

  // Opened there it says who else sees it, and its pieces can be taken.
  await page.keyboard.press('Alt+Shift+p')
  const bar = page.getByTestId('set-bar')
  await expect(bar).toContainText('what is changed here shows in shot 010')
  await page.locator('[data-level$="~hut"]').click()
  await page.keyboard.press('m')
  await desk.drag(await desk.at(0, 0), await desk.at(0, 0.2))
  await expect(page.getByRole('button', { name: 'Undo move hut' })).toBeVisible()
  await expect.poll(async () => near(await desk.pixel(0, 0.2), GREEN)).toBe(true)
  await desk.savedNow()
  expect(await setsIn(film, other)).toHaveLength(1)
  await bar.getByRole('button', { name: '010' }).click()
  await expect.poll(async () => near(await desk.pixel(0, 0.2), GREEN)).toBe(true)
  expect(near(await desk.pixel(0, 0), PAPER)).toBe(true)
  await page.keyboard.press('Control+z')
  await expect.poll(async () => near(await desk.pixel(0, 0), GREEN)).toBe(true)
})

test('a piece is hidden in one shot, made that shot’s own in place, drawn on in the set, and refuses what needs time', async ({ page }) => {
  const desk = new Desk(page)
  const { film, setId } = await twoShots(desk)
  await page.getByRole('combobox', { name: 'Shot' }).click()
  await page.getByRole('option', { name: '010' }).click()
  await page.getByRole('button', { name: 'Open the set Set 1' }).click()
  await expect(page.getByTestId('set-bar')).toContainText('only this shot stands in it')
  const hut = page.locator('[data-level$="~hut"]')
  await hut.getByLabel('Hide hut').click()
  await expect(page.getByRole('button', { name: 'Undo hide hut here' })).toBeVisible()
  await expect.poll(async () => near(await desk.pixel(0, 0), PAPER)).toBe(true)
  await desk.savedNow()
  expect(Object.values<{ hidden?: string[] }>((await bodyOf(film)).levels).find(({ hidden }) => hidden !== undefined)!.hidden).toEqual(['hut'])
  await page.getByLabel('Undo hide hut here').click()
  await expect.poll(async () => near(await desk.pixel(0, 0), GREEN)).toBe(true)

  // A set has no time.
  await hut.click()
  await page.keyboard.press('m')
  await page.keyboard.press('q')
  await expect(page.getByText('A set has no time: its pieces stand still')).toBeVisible()

  // Drawn on, from the second panel: one drawing, in all panels.
  await desk.goTo(30)
  await page.keyboard.press('d')
  const paper = new Paper(page)
  await expect(page.getByTestId('paper-host')).toHaveAttribute('data-resampling', 'exact')
  await expect(page.getByTestId('set-bar')).toBeVisible()
  await page.getByRole('listbox', { name: 'Levels, near to far' }).getByText('hut').click()
  await paper.stroke([-0.05, 0], [0.05, 0])
  await expect(page.getByRole('button', { name: 'Undo stroke on hut' })).toBeVisible()
  await desk.savedNow()
  const { art } = await setOf(film, setId)
  const [{ drawing }] = await json(`/api/projects/${film.projectId}/drawings?ids=${art.hut!.drawingId}`)
  expect(drawing.marks).toHaveLength(2)
  await page.keyboard.press('d')

  // Its own: the set is closed, the copy chosen, the picture as it was.
  await hut.click()
  await expect(page.getByTestId('lens-host')).toHaveAttribute('data-resampling', 'exact')
  // Across the stroke: the set's bar takes a line of the view, so that the stroke's edges fall on pixels otherwise.
  const across = async () => {
    const pixels: number[][] = []
    for (let row = -6; row <= 6; row++) pixels.push(await desk.pixel(0, row * 0.0014))
    return [0, 1, 2].map((channel) => pixels.reduce((sum, pixel) => sum + pixel[channel]!, 0) / pixels.length)
  }
  const before = await across()
  expect(near(before, GREEN, 6)).toBe(false)
  await page.getByRole('button', { name: 'This shot’s own' }).click()
  await expect(page.getByRole('button', { name: 'Undo make hut this shot’s own' })).toBeVisible()
  await expect(page.getByTestId('set-bar')).toHaveCount(0)
  await expect.poll(async () => near(await across(), before, 3)).toBe(true)
  await desk.savedNow()
  const own = Object.values<{ name: string; id: string; carrier?: { levelId: string } }>((await bodyOf(film)).levels).find(({ name }) => name === 'hut')!
  expect(own.carrier).toBeDefined()
  await expect(page.locator(`[data-level="${own.id}"]`)).toHaveClass(/selected/)
  // What is added while no set is open stands in the shot.
  await page.keyboard.press('Shift+L')
  await desk.savedNow()
  expect(Object.values((await setOf(film, setId)).pieces)).toHaveLength(2)
})

test('what is added while a set is open becomes a piece, where it stands; another window sees it at once', async ({ page }) => {
  const desk = new Desk(page)
  const { film, setId } = await twoShots(desk)
  await page.getByRole('combobox', { name: 'Shot' }).click()
  await page.getByRole('option', { name: '010' }).click()
  await page.getByRole('button', { name: 'Open the set Set 1' }).click()
  const theirs = new Desk(await page.context().newPage())
  await theirs.open(film.projectId)
  await expect(theirs.page.getByRole('button', { name: 'Open the set Set 1' })).toBeVisible()
  await page.bringToFront()
  await page.locator('[data-level$="~hut"]').click()
  await page.keyboard.press('Control+d')
  await expect(page.getByRole('button', { name: 'Undo duplicate hut' })).toBeVisible()
  await page.keyboard.press('m')
  await desk.drag(await desk.at(0, 0), await desk.at(0, -0.18))
  await desk.savedNow()
  const { pieces } = await setOf(film, setId)
  expect(Object.keys(pieces)).toHaveLength(3)
  await expect.poll(async () => near(await theirs.pixel(0, -0.18), GREEN)).toBe(true)
  // A new level, drawn on, is the set's too.
  await page.keyboard.press('Shift+L')
  await expect.poll(async () => (await desk.savedNow(), Object.keys((await setOf(film, setId)).pieces).length)).toBe(4)
  await page.getByTestId('set-close').click()
  await expect(page.locator('[data-level$="~hut"]')).toHaveCount(0)
})

test('the page of sets shows the cameras of all its shots, goes to them, renames, saves as a file and brings it in', async ({ page }) => {
  const desk = new Desk(page)
  const { film, setId } = await twoShots(desk)
  await page.keyboard.press('Alt+0')
  await expect(page.getByRole('heading', { name: 'Set 1' })).toBeVisible()
  await page.getByRole('button', { name: /^Put into/ }).click()
  await expect(page.getByRole('button', { name: 'Undo put Set 1' })).toBeVisible()
  await page.keyboard.press('Alt+0')
  await expect(page.getByTestId('set-shot')).toHaveCount(2)
  await expect(page.getByTestId('set-plan')).toHaveAttribute('aria-label', 'The set from above, with 2 cameras')
  await expect(page.getByTestId('set-around').locator('canvas').first()).toBeVisible()
  await expect(page.getByRole('button', { name: 'Delete', exact: true })).toBeDisabled()
  await page.getByTestId('set-shot').first().click()
  await expect(page.locator('.rack')).toBeVisible()
  await expect(page.locator('.shot-select')).toContainText('010')

  await page.keyboard.press('Alt+0')
  const card = page.getByTestId('set-card')
  await card.getByText('Set 1').dblclick()
  await page.getByLabel('Name of the set').fill('Marsh hut')
  await page.keyboard.press('Enter')
  await expect(page.getByRole('heading', { name: 'Marsh hut' })).toBeVisible()
  const [download] = await Promise.all([page.waitForEvent('download'), page.getByRole('button', { name: 'Save as a file' }).click()])
  expect(download.suggestedFilename()).toBe('Marsh-hut.rubato-set')
  const path = (await download.path())!
  await page.getByLabel('A set’s file').setInputFiles({ name: 'hut.rubato-set', mimeType: 'application/zip', buffer: await readFile(path) })
  await expect(page.getByRole('button', { name: 'Undo bring in Marsh hut' })).toBeVisible()
  await expect(card).toHaveCount(2)
  await desk.savedNow()
  const { outline } = await json(`/api/projects/${film.projectId}`)
  const brought = Object.keys(outline.sets).find((id) => id !== setId)!
  const [mine, theirs] = [await setOf(film, setId), await setOf(film, brought)]
  expect(theirs.pieces).toEqual(mine.pieces)
  expect(Object.values(theirs.art).some(({ drawingId }) => Object.values(mine.art).some((each) => each.drawingId === drawingId))).toBe(false)
  // Nobody stands in the one that came: it can go.
  await page.getByRole('button', { name: 'Delete', exact: true }).click()
  await expect(card).toHaveCount(1)

  // What is no set says so, and nothing is changed.
  await writeFile(path, 'not a zip')
  await page.getByLabel('A set’s file').setInputFiles({ name: 'broken.rubato-set', mimeType: 'application/zip', buffer: await readFile(path) })
  await expect(page.getByText('“broken.rubato-set” was not brought in. It is not a whole zip file')).toBeVisible()
  await expect(card).toHaveCount(1)
})

test('a set-up is one paste in another shot; an empty film says what a set is', async ({ page }) => {
  const desk = new Desk(page)
  const { film, other } = await twoShots(desk)
  await page.getByRole('combobox', { name: 'Shot' }).click()
  await page.getByRole('option', { name: '010' }).click()
  await page.keyboard.press('Home')
  await desk.drag(await desk.at(0.3, -0.3), await desk.at(0.2, -0.25))
  await expect(page.getByRole('button', { name: /^Undo/ })).toBeEnabled()
  const before = await desk.pixel(0.06, 0)
  await page.keyboard.press('Alt+Shift+k')
  await page.getByRole('combobox', { name: 'Shot' }).click()
  await page.getByRole('option', { name: '020' }).click()
  await page.keyboard.press('Alt+Shift+l')
  await expect(page.getByRole('button', { name: 'Undo paste the set-up of shot 010' })).toBeVisible()
  await expect.poll(async () => near(await desk.pixel(0.06, 0), before)).toBe(true)
  await desk.savedNow()
  const take = await takeOf(film, other)
  expect(await setsIn(film, other)).toHaveLength(1)
  expect(Object.values(take.framings)).toHaveLength(1)
  await page.keyboard.press('Control+z')
  await expect(page.getByRole('button', { name: 'Undo paste the set-up of shot 010' })).toHaveCount(0)
  await desk.savedNow()
  expect(await setsIn(film, other)).toHaveLength(0)

  const empty = await makeFilm({ title: `Empty ${randomUUID().slice(0, 4)}` })
  await desk.open(empty.projectId)
  await page.keyboard.press('Alt+0')
  await expect(page.getByRole('heading', { name: 'No sets yet' })).toBeVisible()
  await page.keyboard.press('Alt+3')
  await page.keyboard.press('Alt+Shift+p')
  await expect(page.getByText('Choose a set in the depth rack first')).toBeVisible()
})

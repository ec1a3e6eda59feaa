import type { Page } from '@playwright/test'
import { arrive } from './day'
import { address, bodyOf, Desk, expect, json, makeFilm, post, test } from './desk'

type Film = Awaited<ReturnType<typeof makeFilm>>
interface Span { readonly id: string; readonly kind: string; readonly target: { readonly levelId: string; readonly at?: { readonly x: number; readonly y: number } }; readonly u: number; readonly lagFrames: number; readonly still: { readonly widthFw: number } }
const spansOf = async (film: Film) => Object.values<Span>((await bodyOf(film)).spans)

let after = async () => undefined as void
test.afterEach(() => after())

/** A figure that goes 0.4 fw to the right over the first 23 frames; nothing is chosen, the camera is in hand. */
async function running(page: Page) {
  const film = await makeFilm()
  const desk = new Desk(page)
  await desk.open(film.projectId)
  await page.locator('[data-level=near]').click()
  await page.keyboard.press('m')
  await page.keyboard.down('w')
  const [from, to] = [await desk.at(0, 0), await desk.at(0.4, 0)]
  await page.mouse.move(from.x, from.y)
  await page.mouse.down()
  await page.mouse.move((from.x + to.x) / 2, from.y, { steps: 4 })
  await page.mouse.move(to.x, to.y, { steps: 4 })
  await page.mouse.up()
  await page.keyboard.up('w')
  await expect(page.getByRole('button', { name: 'Play', exact: true })).toBeVisible()
  await page.keyboard.press('c')
  await desk.goTo(0)
  return { film, desk }
}
const set = async (page: Page, field: string, value: string) => {
  const input = page.getByTestId(field).locator('input')
  await input.fill(value)
  await input.press('Enter')
}
/** What a field of the camera shows. */
const camera = async (page: Page, field: string) => Number((await page.getByTestId(`camera-${field}`).locator('input').inputValue()).replace('−', '-'))

test('the camera follows the selected figure from the playhead on: late, with its place dragged onto a third, one step to undo each', async ({ page }) => {
  const { film, desk } = await running(page)
  const before = await desk.picture()
  await page.keyboard.press('Alt+g')
  await expect(page.getByTestId('span-panel')).toContainText('follow near')
  await expect(page.getByLabel('Through the lens').getByRole('button', { name: 'follow near' })).toBeVisible()
  // Where it begins the picture is as it was.
  expect(await desk.picture()).toBe(before)
  await desk.goTo(23)
  expect(await camera(page, 'x')).toBeGreaterThan(0.2)
  await set(page, 'span-lag', '0')
  await set(page, 'span-still', '0')
  await desk.savedNow()
  expect(await camera(page, 'x')).toBeCloseTo(0.4, 2)
  const mark = (await page.getByTestId('work-mark').boundingBox())!
  const third = await desk.at(-1 / 6 + 0.008, 0.004)
  await page.mouse.move(mark.x + mark.width / 2, mark.y + mark.height / 2)
  await page.mouse.down()
  await page.mouse.move(third.x + 20, third.y, { steps: 4 })
  await page.mouse.move(third.x, third.y, { steps: 4 })
  await expect(page.getByText('u −0.167')).toBeVisible()
  await page.mouse.up()
  await desk.savedNow()
  const [span] = await spansOf(film)
  expect(span).toMatchObject({ kind: 'follow', lagFrames: 0, target: { levelId: 'near' } })
  expect(span!.u).toBeCloseTo(-1 / 6, 6)
  expect(await camera(page, 'x')).toBeCloseTo(0.4 + 1 / 6, 2)
  for (let i = 0; i < 4; i++) await page.keyboard.press('Control+z')
  await desk.savedNow()
  expect(await spansOf(film)).toEqual([])
})

test('its bar is dragged, trimmed and taken out; Key keeps what the follow does not hold', async ({ page }) => {
  const { film, desk } = await running(page)
  await page.keyboard.press('Alt+g')
  const drag = async (from: number, to: number) => {
    await desk.drag(await desk.strip(from, 'work'), await desk.strip(to, 'work'), { hold: true })
    // Ctrl lets go of what it would snap to.
    await page.keyboard.down('Control')
    const end = await desk.strip(to, 'work')
    await page.mouse.move(end.x + 0.5, end.y)
    await page.mouse.up()
    await page.keyboard.up('Control')
  }
  await drag(48, 31)
  await expect(page.getByTestId('span-panel')).toContainText('f 0–30')
  await drag(12, 17)
  await expect(page.getByTestId('span-panel')).toContainText('f 5–35')
  await drag(5, 9)
  await expect(page.getByTestId('span-panel')).toContainText('f 9–35')
  await desk.savedNow()
  expect(Object.keys((await bodyOf(film)).spanEnds)).toHaveLength(1)
  // At frame 25 it is wholly followed: what is keyed there is the distance alone.
  await desk.goTo(22)
  const lens = await desk.at(0, 0)
  const x = await camera(page, 'x')
  await page.mouse.move(lens.x, lens.y)
  await page.mouse.wheel(0, -200)
  await page.waitForTimeout(500)
  await page.keyboard.press('q')
  await desk.savedNow()
  const framings = Object.values<{ pose: { x: number; depth: number } }>((await bodyOf(film)).framings)
  expect(framings.length).toBeGreaterThan(0)
  for (const { pose } of framings) expect(pose.x).toBe(0)
  expect(framings.at(-1)!.pose.depth).toBeGreaterThan(-1.35)
  expect(await camera(page, 'x')).toBeCloseTo(x, 1)
  const inside = await desk.strip(25, 'work')
  await page.mouse.click(inside.x, inside.y)
  await page.keyboard.press('Delete')
  await expect(page.getByTestId('span-panel')).toHaveCount(0)
  await desk.savedNow()
  const body = await bodyOf(film)
  expect([body.spans, body.spanEnds]).toEqual([{}, {}])
})

test('with nothing selected what to follow is pointed at; what travels with the camera is refused in words', async ({ page }) => {
  const { film, desk } = await running(page)
  await desk.savedNow()
  await desk.open(film.projectId)
  await desk.goTo(0)
  await page.keyboard.press('Alt+g')
  await expect(page.getByText('Click what the camera is to follow')).toBeVisible()
  await page.keyboard.press('Escape')
  await expect(page.getByText('Click what the camera is to follow')).toHaveCount(0)
  await page.keyboard.press('Alt+Shift+g')
  await expect(page.getByText('Click what the camera is to turn to')).toBeVisible()
  const at = await desk.at(0.05, 0.04)
  await page.mouse.click(at.x, at.y)
  await expect(page.getByTestId('span-panel')).toContainText('aim at near')
  await desk.savedNow()
  const [span] = await spansOf(film)
  expect([span!.kind, span!.target.levelId]).toEqual(['aim', 'near'])
  expect(span!.target.at!.x).toBeCloseTo(0.05, 2)
  await page.locator('[data-level=near]').click()
  await page.getByLabel('Inspector').getByRole('button', { name: 'camera', exact: true }).click()
  await expect(page.getByText('Camera A goes after this level')).toBeVisible()
  expect(Object.values<{ carrier?: object }>((await bodyOf(film)).levels).every(({ carrier }) => carrier === undefined)).toBe(true)
})

test('a follow becomes few framings within the tolerance, told before they are written, and comes back by undo', async ({ page }) => {
  const { film, desk } = await running(page)
  await page.keyboard.press('Alt+g')
  await page.keyboard.press('Alt+Shift+h')
  await desk.goTo(30)
  const x = await camera(page, 'x')
  await page.getByLabel('Through the lens').getByRole('button', { name: 'hand-held' }).click()
  await page.keyboard.press('Alt+Shift+f')
  const dialog = page.getByRole('dialog', { name: 'To framings' })
  // The hand-held goes by where the follow has put the camera: both are baked.
  await expect(dialog.getByTestId('baked')).toContainText('follow near goes along')
  await dialog.getByTestId('bake-px').locator('input').fill('1')
  await dialog.getByTestId('bake-px').locator('input').press('Enter')
  await expect(dialog.getByTestId('baked')).toContainText('framings')
  await dialog.getByRole('button', { name: 'Write framings' }).click()
  await expect(dialog).toHaveCount(0)
  await desk.savedNow()
  const body = await bodyOf(film)
  expect(body.spans).toEqual({})
  expect(Object.keys(body.framings).length).toBeGreaterThan(2)
  expect(await camera(page, 'x')).toBeCloseTo(x, 2)
  await page.keyboard.press('Control+z')
  await desk.savedNow()
  expect((await spansOf(film)).map(({ kind }) => kind).sort()).toEqual(['follow', 'hand'])
})

test('who speaks is framed: proposed by the voices and the levels of their names, seen before it is taken, in part or thrown away', async ({ page }) => {
  const { project: copy } = await post('/api/projects/salt-lantern/duplicate', {})
  // Other tests look at the home page and at an empty trash.
  after = async () => {
    for (const path of ['', '/trash']) await fetch(`${address()}/api/projects/${copy.id}${path}`, { method: 'DELETE' })
  }
  const desk = new Desk(page)
  const bodyOfTake = async (label: string) => {
    const { outline } = await json(`/api/projects/${copy.id}`)
    const shot = Object.values<{ label: string; circledTakeId: string }>(outline.shots).find((each) => each.label === label)!
    return bodyOf({ projectId: copy.id, takeId: shot.circledTakeId })
  }
  await arrive(page, `${address()}/film/${copy.id}?view=desk&shot=060`)
  await expect(page.getByLabel('Through the lens').getByText('at work · live')).toBeVisible()
  await page.locator('body').press('Alt+Shift+s')
  const dialog = page.getByRole('dialog', { name: 'Frame the speaker' })
  const { cuts } = await bodyOfTake('060')
  await expect(dialog.getByTestId('beats').locator('li')).toHaveText([/0–65 OSKAR, camera A/, /66–137 TILDA, camera B/])
  // Of two cameras it proposes cuts: the way back to A is not among them.
  await dialog.getByRole('button', { name: 'Take all' }).click()
  await expect(dialog).toHaveCount(0)
  await desk.savedNow()
  const cut = await bodyOfTake('060')
  expect(Object.values<{ cameraId: string }>(cut.cuts).map(({ cameraId }) => cut.cameras[cameraId].letter).sort()).toEqual(['A', 'B'])
  await page.keyboard.press('Control+z')
  await desk.savedNow()
  expect((await bodyOfTake('060')).cuts).toEqual(cuts)
  // With one camera it proposes framings; thrown away, nothing is written.
  const before = (await bodyOfTake('030')).framings
  await arrive(page, `${address()}/film/${copy.id}?view=desk&shot=030`)
  await expect(page.getByTestId('lens-host').locator('canvas').filter({ visible: true }).first()).toBeVisible()
  await page.locator('body').press('Alt+Shift+s')
  await expect(dialog.getByTestId('beats').locator('li')).toHaveText([/0–87 OSKAR/])
  await dialog.getByRole('button', { name: 'Throw away' }).click()
  await expect(dialog).toHaveCount(0)
  // Another test may have keyed the demo that this is a copy of.
  expect((await bodyOfTake('030')).framings).toEqual(before)
  await page.locator('body').press('Alt+Shift+s')
  await dialog.getByRole('button', { name: 'Take all' }).click()
  await expect(dialog).toHaveCount(0)
  await desk.savedNow()
  const framings = Object.values<{ pose: { depth: number } }>((await bodyOfTake('030')).framings)
  expect(Math.max(...framings.map(({ pose }) => pose.depth))).toBeGreaterThan(-1)
})

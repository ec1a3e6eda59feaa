import type { Page } from '@playwright/test'
import sharp from 'sharp'
import { bodyOf, Desk, drawingsOf, expect, makeFilm, test } from './desk'

interface Mark {
  readonly id: string
  readonly kind: string
  readonly mode?: string
  readonly purpose?: string
  readonly points: number[]
  readonly colour?: string
  readonly opacity?: number
}

/** The paper, as tests handle it. Other levels do not fade, and ghosts are off, unless a test asks for them. */
class Paper extends Desk {
  async openDraw(film: { readonly projectId: string }, settings: Readonly<Record<string, unknown>> = {}) {
    const kept = { 'rubato.fade': 0, 'rubato.ghosts': { on: false, before: 1, after: 1, strength: 1, all: false, halfway: false }, ...settings }
    await this.page.addInitScript((values) => {
      for (const [key, value] of Object.entries(values)) if (localStorage.getItem(key) === null) localStorage.setItem(key, typeof value === 'object' ? JSON.stringify(value) : String(value))
    }, kept)
    await this.page.goto(`${process.env.RUBATO_E2E_ADDRESS!}/film/${film.projectId}?view=draw`)
    await expect(this.page.getByTestId('paper-host').locator('canvas').first()).toBeVisible()
    await this.page.waitForFunction(() => document.querySelectorAll('[data-draw-level]').length > 0)
    // The first picture is there.
    await expect(this.page.getByTestId('paper-host')).toHaveAttribute('data-resampling', 'exact')
  }

  override async frame() {
    return (await this.page.getByTestId('paper-frame').boundingBox())!
  }

  override async pixel(u: number, v: number): Promise<number[]> {
    const { x, y } = await this.at(u, v)
    return this.pixelAt(x, y)
  }

  pixelAt(x: number, y: number): Promise<number[]> {
    return this.page.evaluate(
      ([px, py]) => {
        const canvas = [...document.querySelectorAll<HTMLCanvasElement>('[data-test=paper-host] canvas')].find((c) => c.style.visibility !== 'hidden')!
        const box = canvas.getBoundingClientRect()
        const copy = new OffscreenCanvas(1, 1).getContext('2d')!
        copy.drawImage(canvas, Math.round(((px! - box.x) * canvas.width) / box.width), Math.round(((py! - box.y) * canvas.height) / box.height), 1, 1, 0, 0, 1, 1)
        return [...copy.getImageData(0, 0, 1, 1).data]
      },
      [x, y] as const,
    )
  }

  override async picture(): Promise<string> {
    await this.page.waitForTimeout(60)
    await expect(this.page.getByTestId('paper-host')).toHaveAttribute('data-resampling', 'exact')
    return this.page.evaluate(() => [...document.querySelectorAll<HTMLCanvasElement>('[data-test=paper-host] canvas')].find((c) => c.style.visibility !== 'hidden')!.toDataURL())
  }

  level(id: string) {
    return this.page.locator(`[data-draw-level=${id}]`)
  }

  /** Draws through places given in the frame. */
  async stroke(...places: readonly (readonly [number, number])[]) {
    const first = await this.at(...places[0]!)
    await this.page.mouse.move(first.x, first.y)
    await this.page.mouse.down()
    for (const place of places.slice(1)) {
      const { x, y } = await this.at(...place)
      await this.page.mouse.move(x, y, { steps: 6 })
    }
    await this.page.mouse.up()
  }

  /** A circle that is open by `gap` of its round. */
  async circle(u: number, v: number, r: number, gap = 0) {
    const turns = Math.round(48 * (1 - gap))
    await this.stroke(...Array.from({ length: turns + 1 }, (_, i) => [u + r * Math.cos((i / 48) * 2 * Math.PI), v + r * Math.sin((i / 48) * 2 * Math.PI)] as const))
  }

  panel(n: number) {
    return this.page.getByTestId('ribbon-panel').nth(n - 1)
  }
}

const WHITE = [255, 255, 255, 255]
const RED = [0xc2, 0x45, 0x2d, 255]
const dark = (pixel: number[]) => pixel[0]! < 90 && pixel[1]! < 90
async function marksOf(film: { readonly projectId: string }, id: string): Promise<Mark[]> {
  const [found] = await drawingsOf(film.projectId, [id])
  return found === undefined ? [] : found.drawing.marks
}
const levels = [
  { id: 'near', colour: '#c2452d', box: [-0.1, -0.1, 0.1, 0.1] as const, depth: 0 },
  { id: 'far', colour: '#2e7a68', box: [-0.6, -0.4, 0.6, 0.4] as const, depth: 2 },
]
const onPaper = async (page: Page, film: { readonly projectId: string }, settings: Readonly<Record<string, unknown>> = {}) => {
  const paper = new Paper(page)
  await paper.openDraw(film, settings)
  return paper
}

test('one key goes to Draw and back; a stroke is kept under the pointer, steadied, and undone by name', async ({ page }) => {
  const film = await makeFilm()
  const desk = new Desk(page)
  await desk.open(film.projectId)
  await page.locator('[data-level=near]').click()
  await page.keyboard.press('d')
  await expect(page.getByTestId('paper')).toBeVisible()
  const paper = new Paper(page)
  await expect(page.getByTestId('paper-host')).toHaveAttribute('data-resampling', 'exact')
  await page.keyboard.press('2')
  await paper.stroke([-0.4, 0.2], [-0.2, 0.2], [-0.2, 0])
  await expect.poll(async () => dark(await paper.pixel(-0.3, 0.2))).toBe(true)
  await desk.savedNow()
  const marks = await marksOf(film, 'd-near')
  expect(marks.map(({ kind }) => kind)).toEqual(['fill', 'stroke'])
  const { points } = marks[1]!
  expect(points[0]).toBeCloseTo(-0.4, 2)
  expect(points.at(-3)).toBeCloseTo(-0.2, 2)
  await expect(page.getByRole('button', { name: 'Undo stroke on near' })).toBeVisible()
  await page.keyboard.press('Control+z')
  await expect.poll(() => paper.pixel(-0.3, 0.2)).toEqual(WHITE)
  await page.keyboard.press('d')
  await expect(page.getByTestId('lens-host').locator('canvas').first()).toBeVisible()
})

test('drawing while the paper is turned, flipped and zoomed lands under the pointer and leaves the camera alone', async ({ page }) => {
  const film = await makeFilm({ levels, framings: [{ frame: 0, pose: { x: 0.05 } }] })
  const paper = await onPaper(page, film)
  await paper.level('near').click()
  const zoom = page.getByTestId('zoom')
  const before = await zoom.inputValue()
  await page.keyboard.press('m')
  await page.keyboard.press('Control+ArrowRight')
  await page.keyboard.press('Control+ArrowRight')
  const pane = (await page.getByTestId('paper').boundingBox())!
  const at = { x: pane.x + pane.width * 0.4, y: pane.y + pane.height * 0.4 }
  await page.mouse.move(at.x, at.y)
  await page.mouse.wheel(0, -300)
  await expect(zoom).not.toHaveValue(before)
  // Space held and dragged moves the paper, and does not play.
  await page.keyboard.down(' ')
  await page.mouse.down()
  await page.mouse.move(at.x + 30, at.y + 18, { steps: 4 })
  await page.mouse.up()
  await page.keyboard.up(' ')
  await expect(page.getByTestId('paper-host')).toHaveAttribute('data-frame', '0')
  await page.keyboard.press('2')
  await page.mouse.move(at.x, at.y)
  await page.mouse.down()
  await page.mouse.move(at.x + 60, at.y, { steps: 8 })
  await page.mouse.up()
  await expect.poll(async () => dark(await paper.pixelAt(at.x + 30, at.y))).toBe(true)
  await paper.savedNow()
  expect(Object.values<{ pose: { x: number } }>((await bodyOf(film)).framings).map(({ pose }) => pose.x)).toEqual([0.05])
  await page.keyboard.press('Shift+Z')
  await expect(zoom).toHaveValue('100 %')
  await page.keyboard.press('z')
  await page.keyboard.press('Control+ArrowUp')
  await page.keyboard.press('m')
  await expect(zoom).toHaveValue(before)
})

test('a pen behind the lines hides what lies under the figure; what lay there shows when it is undone', async ({ page }) => {
  const film = await makeFilm({ levels })
  const paper = await onPaper(page, film)
  await paper.level('near').click()
  const under = await paper.pixel(-0.3, 0.1)
  await page.keyboard.press('2')
  await paper.circle(-0.3, 0.1, 0.06, 0.12)
  await page.keyboard.press('4')
  await page.keyboard.press('b')
  for (let i = 0; i < 4; i++) await page.keyboard.press(']')
  await paper.stroke([-0.33, 0.1], [-0.24, 0.1])
  await expect.poll(() => paper.pixel(-0.3, 0.1)).toEqual(WHITE)
  // The outline is over it.
  await expect.poll(async () => dark(await paper.pixel(-0.36, 0.1))).toBe(true)
  await paper.savedNow()
  expect((await marksOf(film, 'd-near')).at(-1)!.mode).toBe('behind')
  await page.keyboard.press('Control+z')
  await expect.poll(() => paper.pixel(-0.3, 0.1)).toEqual(under)
})

test('an area is filled under its lines with its gap closed; an open one is refused in words, and tones subdivide', async ({ page }) => {
  const film = await makeFilm({ levels })
  const paper = await onPaper(page, film, { 'rubato.gap': 4 })
  await paper.level('near').click()
  await page.keyboard.press('2')
  await paper.circle(-0.3, 0.1, 0.08, 0.06)
  await page.keyboard.press('g')
  await page.getByLabel('Gap taken as closed, px').fill('1')
  const middle = await paper.at(-0.3, 0.1)
  await page.mouse.click(middle.x, middle.y)
  await expect(page.getByText('This area is open')).toBeVisible()
  await page.getByLabel('Gap taken as closed, px').fill('20')
  await page.getByTestId('paper').click({ position: { x: 5, y: 5 }, button: 'right' })
  await page.mouse.click(middle.x, middle.y)
  await expect.poll(async () => dark(await paper.pixel(-0.3, 0.1))).toBe(true)
  await paper.savedNow()
  const fill = (await marksOf(film, 'd-near')).at(-1)!
  expect([fill.kind, fill.mode, fill.purpose]).toEqual(['fill', 'behind', 'area'])
  // In the red square, which shows there, the fill goes right above it.
  await page.getByTestId('paper').press('5')
  await page.keyboard.press('g')
  const square = await paper.at(0.05, 0.05)
  await page.mouse.click(square.x, square.y)
  await expect.poll(() => paper.pixel(0.05, 0.05)).not.toEqual(RED)
  await paper.savedNow()
  expect((await marksOf(film, 'd-near')).map((mark) => `${mark.kind} ${mark.mode}`)).toEqual(['fill ink', 'fill ink', 'stroke ink', 'fill behind'])
})

test('backing the figure fills its silhouette behind its lines though the outline is open, and again only once', async ({ page }) => {
  const film = await makeFilm({ levels: [{ ...levels[0]!, box: [0.3, 0.1, 0.35, 0.15] }, levels[1]!] })
  const paper = await onPaper(page, film)
  await paper.level('near').click()
  await page.keyboard.press('2')
  await paper.circle(-0.1, 0, 0.08, 0.1)
  await page.getByRole('button', { name: 'Back the figure' }).click()
  await expect.poll(() => paper.pixel(-0.1, 0)).toEqual(WHITE)
  // Beside the figure nothing is hidden, and its own red still shows.
  expect(await paper.pixel(-0.22, 0)).not.toEqual(WHITE)
  expect(await paper.pixel(0.33, 0.13)).toEqual(RED)
  await page.keyboard.press('Shift+B')
  await page.waitForTimeout(600)
  await paper.savedNow()
  expect((await marksOf(film, 'd-near')).filter((mark) => mark.purpose === 'back')).toHaveLength(1)
})

test('line, box and ellipse are drawn between two corners, Shift makes them even, Escape drops them', async ({ page }) => {
  const film = await makeFilm()
  const paper = await onPaper(page, film)
  await paper.level('near').click()
  await page.keyboard.press('x')
  await page.keyboard.down('Shift')
  await paper.stroke([-0.4, 0.2], [-0.3, 0.17])
  await page.keyboard.up('Shift')
  await page.keyboard.press('o')
  await paper.stroke([0.2, 0.2], [0.4, 0.1])
  await page.keyboard.press('l')
  await paper.stroke([-0.4, -0.2], [0.4, -0.2])
  const from = await paper.at(0, 0.2)
  await page.mouse.move(from.x, from.y)
  await page.mouse.down()
  await page.mouse.move(from.x + 60, from.y + 10, { steps: 3 })
  await page.keyboard.press('Escape')
  await page.mouse.up()
  await paper.savedNow()
  const shapes = (await marksOf(film, 'd-near')).filter((mark) => mark.kind === 'stroke')
  const reach = ({ points }: Mark, axis: 0 | 1) => Math.max(...points.filter((_, i) => i % 3 === axis)) - Math.min(...points.filter((_, i) => i % 3 === axis))
  expect(shapes).toHaveLength(3)
  expect(reach(shapes[0]!, 0)).toBeCloseTo(reach(shapes[0]!, 1), 4)
  expect(reach(shapes[1]!, 0)).toBeCloseTo(0.2, 2)
  expect(reach(shapes[1]!, 1)).toBeCloseTo(0.1, 2)
  expect(reach(shapes[2]!, 1)).toBeLessThan(0.003)
})

test('what is selected is moved, nudged, scaled, turned, flipped, recoloured and deleted, each one step to undo', async ({ page }) => {
  const film = await makeFilm()
  const paper = await onPaper(page, film)
  await paper.level('near').click()
  await page.keyboard.press('1')
  await paper.stroke([-0.4, 0.2], [-0.3, 0.2])
  await paper.stroke([0.2, 0.2], [0.3, 0.2])
  await page.keyboard.press('a')
  await paper.stroke([-0.42, 0.23], [-0.28, 0.17])
  await expect(page.getByTestId('selection')).toBeVisible()
  const first = async () => {
    await paper.savedNow()
    await page.waitForTimeout(150)
    return (await marksOf(film, 'd-near')).filter((mark) => mark.kind === 'stroke')[0]!
  }
  const start = await first()
  await page.keyboard.press('ArrowRight')
  await page.keyboard.press('Shift+ArrowRight')
  await expect.poll(async () => (await first()).points[0]).toBeCloseTo(start.points[0]! + 0.011, 4)
  await page.keyboard.press('Control+z')
  await expect.poll(async () => (await first()).points[0]).toBeCloseTo(start.points[0]!, 5)
  await paper.stroke([-0.35, 0.2], [-0.35, 0.1])
  await expect.poll(async () => (await first()).points[1]).toBeCloseTo(0.1, 2)
  // A corner doubles it; lines get wider as they grow.
  await page.keyboard.press('Shift+X')
  await expect.poll(async () => (await first()).points[0]).toBeCloseTo(-0.3, 2)
  await page.getByLabel('Turn by a quarter').click()
  await expect.poll(async () => Math.abs((await first()).points[0]! - (await first()).points.at(-3)!)).toBeLessThan(0.005)
  await page.keyboard.press('2')
  await page.keyboard.press('Shift+T')
  await page.keyboard.press('Delete')
  await expect.poll(async () => (await marksOf(film, 'd-near')).filter((mark) => mark.kind === 'stroke').length).toBe(1)
  await expect(page.getByRole('button', { name: 'Undo delete a mark on near' })).toBeVisible()
})

test('a copy is put down where it was seen: on a level far behind, in another panel, in another shot', async ({ page }) => {
  const film = await makeFilm({ levels: [{ ...levels[0]!, box: [0.3, 0.1, 0.31, 0.11] }, { ...levels[1]!, box: [0.3, 0.1, 0.31, 0.11] }] })
  const paper = await onPaper(page, film)
  await paper.level('near').click()
  await page.keyboard.press('2')
  await paper.stroke([-0.3, 0.1], [-0.1, 0.1])
  await page.keyboard.press('a')
  await paper.stroke([-0.35, 0.15], [-0.05, 0.05])
  await page.keyboard.press('Control+x')
  await expect.poll(() => paper.pixel(-0.2, 0.1)).toEqual(WHITE)
  await paper.level('far').click()
  await page.keyboard.press('Control+v')
  await expect.poll(async () => dark(await paper.pixel(-0.2, 0.1))).toBe(true)
  await paper.savedNow()
  // The level is 2 fw behind: what is seen the same is (1.3889 + 2) / 1.3889 as large.
  const stroke = (await marksOf(film, 'd-far')).at(-1)!
  expect(stroke.points[0]).toBeCloseTo(-0.3 * 2.44, 1)
  await paper.panel(2).click()
  await page.keyboard.press('Control+v')
  await paper.savedNow()
  const own = (await bodyOf(film)).cells['far.p2'].drawingId
  expect((await marksOf(film, own)).filter((mark) => mark.kind === 'stroke')).toHaveLength(2)
  await page.keyboard.press('Alt+n')
  await expect(page.getByText('Shot 020')).toBeVisible()
  await page.keyboard.press('Control+v')
  await expect.poll(async () => dark(await paper.pixel(-0.2, 0.1))).toBe(true)
})

test('on a held level ink starts anew, or goes into the held drawing; erasing keeps the rest; a level can hold again or be blank', async ({ page }) => {
  const film = await makeFilm({ levels, panels: [24, 24, 24] })
  const paper = await onPaper(page, film)
  await paper.panel(2).click()
  await paper.level('near').click()
  await expect(paper.level('near')).toContainText('holds panel 1')
  await page.keyboard.press('2')
  await paper.stroke([-0.3, 0.1], [-0.1, 0.1])
  await expect(paper.level('near')).toContainText('drawn here')
  await expect(paper.panel(2)).toHaveAccessibleName(/drawn here/)
  await expect.poll(() => paper.pixel(0, 0)).not.toEqual(RED)
  await page.getByRole('button', { name: 'Hold again' }).click()
  await expect.poll(() => paper.pixel(0, 0)).toEqual(RED)
  // Erasing needs what is there: the level keeps the rest of it.
  await page.keyboard.press('e')
  await paper.stroke([-0.05, 0.05], [0.05, 0.05])
  await expect.poll(() => paper.pixel(0, 0.05)).not.toEqual(RED)
  expect(await paper.pixel(0, -0.05)).toEqual(RED)
  await page.keyboard.press('Control+z')
  await page.getByRole('button', { name: 'edits the held' }).click()
  await page.keyboard.press('2')
  await paper.stroke([-0.3, 0.1], [-0.1, 0.1])
  await paper.savedNow()
  expect(await marksOf(film, 'd-near')).toHaveLength(2)
  await page.getByRole('button', { name: 'Blank here' }).click()
  await expect.poll(() => paper.pixel(0, 0)).not.toEqual(RED)
  await paper.panel(1).click()
  await expect.poll(() => paper.pixel(0, 0)).toEqual(RED)
})

test('a duplicated panel has its figures to change, and holds the rest', async ({ page }) => {
  const film = await makeFilm({ levels: [{ ...levels[0]!, figure: true }, levels[1]!] })
  const paper = await onPaper(page, film)
  await paper.level('near').click()
  await page.keyboard.press('Shift+N')
  await expect(paper.level('near')).toContainText('drawn here')
  await expect(paper.level('far')).toContainText('holds panel 1')
  await page.keyboard.press('a')
  const square = await paper.at(0, 0)
  await page.mouse.click(square.x, square.y)
  await paper.stroke([0.02, 0.02], [0.22, 0.02])
  await expect.poll(() => paper.pixel(0.25, 0)).toEqual(RED)
  await paper.panel(1).click()
  await expect.poll(() => paper.pixel(0.25, 0)).not.toEqual(RED)
  expect(await paper.pixel(0, 0)).toEqual(RED)
})

test('ghosts of the panels around show by side, the nearest only; halfway shows both; silhouettes are black; flipping shows the panel before', async ({ page }) => {
  const film = await makeFilm({ levels: [{ id: 'near', colour: '#27241e', box: [0.45, 0.2, 0.47, 0.22], depth: 0, figure: true }, levels[1]!], panels: [24, 24, 24] })
  const paper = await onPaper(page, film, { 'rubato.ghosts': { on: true, before: 1, after: 1, strength: 1, all: false, halfway: false } })
  await paper.level('near').click()
  await page.keyboard.press('2')
  for (let i = 0; i < 4; i++) await page.keyboard.press(']')
  await paper.stroke([-0.3, 0.1], [-0.1, 0.1])
  await paper.panel(3).click()
  await paper.stroke([0.1, 0.1], [0.3, 0.1])
  await paper.panel(2).click()
  await paper.stroke([-0.3, -0.1], [-0.1, -0.1])
  // Blue pencil before. What comes after is dashed: somewhere along it there is ochre, and somewhere none.
  await expect.poll(async () => (await paper.pixel(-0.2, 0.1)).slice(0, 3)).toEqual([0x2a, 0x6a, 0x99])
  const along = await Promise.all(Array.from({ length: 24 }, (_, i) => paper.pixel(0.11 + i * 0.0077, 0.1)))
  const ochre = along.filter(([r, , b]) => r! > 150 && b! < 90).length
  expect(ochre).toBeGreaterThan(4)
  expect(ochre).toBeLessThan(22)
  await page.keyboard.press('j')
  const plain = await paper.pixel(-0.2, 0.1)
  expect(plain[2]).not.toBe(0x99)
  await page.keyboard.press('h')
  await expect.poll(async () => JSON.stringify(await paper.pixel(-0.2, 0.1))).not.toBe(JSON.stringify(plain))
  await page.keyboard.press('h')
  await page.keyboard.press('s')
  await expect.poll(() => paper.pixel(-0.2, -0.1)).toEqual([0, 0, 0, 255])
  expect(await paper.pixel(0.4, -0.2)).toEqual(WHITE)
  await page.keyboard.press('s')
  await page.keyboard.down('f')
  await expect.poll(async () => dark(await paper.pixel(-0.2, 0.1)), { intervals: [40] }).toBe(true)
  await expect.poll(async () => dark(await paper.pixel(-0.2, 0.1)), { intervals: [40] }).toBe(false)
  await page.keyboard.up('f')
  await page.waitForTimeout(400)
  expect(await paper.pixel(-0.2, 0.1)).toEqual(plain)
})

test('levels are grouped by dragging one onto another, and hidden, shown alone, tinted and faded', async ({ page }) => {
  const film = await makeFilm({ levels: [...levels, { id: 'sky', colour: '#77476f', box: [-1, -1, 1, 1], depth: 5 }] })
  const paper = await onPaper(page, film)
  await paper.level('near').dragTo(paper.level('far'))
  const group = page.getByTestId('level-group')
  await expect(group.locator('[data-draw-level]')).toHaveCount(2)
  await group.getByRole('button', { name: 'Hide Group 1' }).click()
  await expect.poll(() => paper.pixel(0, 0)).toEqual([0x77, 0x47, 0x6f, 255])
  await page.keyboard.press('Control+z')
  await expect.poll(() => paper.pixel(0, 0)).toEqual(RED)
  await paper.level('sky').getByRole('button', { name: 'Show sky alone' }).click()
  await expect.poll(() => paper.pixel(0, 0)).toEqual([0x77, 0x47, 0x6f, 255])
  await page.getByLabel('Show all levels').click()
  await paper.level('near').click()
  await page.getByLabel('Tint #2e7a68').click()
  await expect.poll(() => paper.pixel(0, 0)).not.toEqual(RED)
  await page.getByLabel('No tint').click()
  await expect.poll(() => paper.pixel(0, 0)).toEqual(RED)
  await page.getByLabel('Opacity', { exact: true }).fill('0')
  await expect.poll(() => paper.pixel(0, 0)).not.toEqual(RED)
  await paper.savedNow()
  const body = await bodyOf(film)
  expect([body.levels.near.group, body.levels.far.group, body.levels.sky.group]).toEqual(['Group 1', 'Group 1', undefined])
  await page.getByRole('button', { name: 'Dissolve Group 1' }).click()
  await expect(group).toHaveCount(0)
})

test('a reference is seen while working, over or under, runs as a numbered sequence from its start, and is never handed over', async ({ page }) => {
  const film = await makeFilm({ levels, panels: [24, 24] })
  const paper = await onPaper(page, film)
  const png = async (colour: string) =>
    Buffer.from(
      await page.evaluate(async (tone) => {
        const canvas = new OffscreenCanvas(160, 90)
        const context = canvas.getContext('2d')!
        context.fillStyle = tone
        context.fillRect(0, 0, 160, 90)
        return [...new Uint8Array(await (await canvas.convertToBlob()).arrayBuffer())]
      }, colour),
    )
  const choose = async (...files: { name: string; buffer: Buffer }[]) => {
    const chooser = page.waitForEvent('filechooser')
    await page.getByLabel('Bring in a reference').click()
    await (await chooser).setFiles(files.map((file) => ({ ...file, mimeType: 'image/png' })))
  }
  await choose({ name: 'bad 1.png', buffer: Buffer.from('words') })
  await expect(page.getByText('“bad 1.png” is not a PNG')).toBeVisible()
  // Named so that the alphabet has 10 before 2.
  await choose({ name: 'run 10.png', buffer: await png('#00ff00') }, { name: 'run 2.png', buffer: await png('#0000ff') })
  const row = page.locator('[data-draw-level]', { hasText: 'run' })
  await expect(row).toContainText('reference')
  const before = await paper.pixel(0, 0)
  expect(before).toEqual(RED)
  await page.getByRole('button', { name: 'over', exact: true }).click()
  await expect.poll(async () => (await paper.pixel(0, 0))[2]).toBeGreaterThan(110)
  await page.keyboard.press('.')
  await expect.poll(async () => (await paper.pixel(0, 0))[1]).toBeGreaterThan(120)
  // After its last picture it shows nothing.
  await page.keyboard.press('.')
  await expect.poll(() => paper.pixel(0, 0)).toEqual(RED)
  await page.getByRole('button', { name: 'Start here' }).click()
  await expect.poll(async () => (await paper.pixel(0, 0))[2]).toBeGreaterThan(110)
  await paper.savedNow()
  const level = Object.values<{ kind: string; sequence: object; over: boolean }>((await bodyOf(film)).levels).find(({ kind }) => kind === 'reference')!
  expect(level).toMatchObject({ sequence: { startFrame: 2, framesEach: 1 }, over: true })
  // Boards, print and movies are painted without references.
  await page.goto(`${process.env.RUBATO_E2E_ADDRESS!}/film/${film.projectId}?view=boards`)
  const card = page.getByTestId('panel-card').first().locator('canvas')
  await expect.poll(async () => card.evaluate((canvas: HTMLCanvasElement) => [...canvas.getContext('2d')!.getImageData(canvas.width / 2, canvas.height / 2, 1, 1).data])).toEqual(RED)
})

test('an empty shot gets its level with the first stroke', async ({ page }) => {
  const film = await makeFilm()
  const paper = await onPaper(page, film)
  for (const id of ['near', 'far']) {
    await paper.level(id).click()
    await page.getByRole('button', { name: `Delete ${id}` }).click()
  }
  await expect(page.getByText('the first stroke makes one')).toBeVisible()
  await page.keyboard.press('2')
  await paper.stroke([-0.2, 0], [0.2, 0])
  await expect(page.locator('[data-draw-level]')).toContainText('Level 1')
  await expect.poll(async () => dark(await paper.pixel(0, 0))).toBe(true)
  await page.keyboard.press('Control+z')
  await expect(page.locator('[data-draw-level]')).toHaveCount(0)
})

test('a pencil of one’s own is kept in this browser, with its tone picked from the picture', async ({ page }) => {
  const film = await makeFilm({ levels })
  const paper = await onPaper(page, film)
  await page.keyboard.press('t')
  const square = await paper.at(0, 0)
  await page.mouse.click(square.x, square.y)
  await page.getByLabel('Brush settings').first().click()
  await page.getByPlaceholder('Name for a new pencil').fill('Brick')
  await page.getByRole('button', { name: 'Keep as a pencil' }).click()
  await page.reload()
  await page.getByRole('button', { name: 'Brick', exact: true }).click()
  await paper.level('near').click()
  await paper.stroke([-0.3, 0.2], [-0.2, 0.2])
  await paper.savedNow()
  expect((await marksOf(film, 'd-near')).at(-1)!.colour).toBe('#c2452d')
})

test('a pen that was used makes touch move the paper instead of drawing', async ({ page }) => {
  const film = await makeFilm({ levels })
  const paper = await onPaper(page, film)
  await paper.level('near').click()
  const session = await page.context().newCDPSession(page)
  const from = await paper.at(-0.3, 0.2)
  const touch = (type: string, points: { x: number; y: number }[]) => session.send('Input.dispatchTouchEvent', { type: type as 'touchStart', touchPoints: points })
  await session.send('Emulation.setTouchEmulationEnabled', { enabled: true })
  await touch('touchStart', [from])
  for (let i = 1; i <= 6; i++) await touch('touchMove', [{ x: from.x + i * 10, y: from.y }])
  await touch('touchEnd', [])
  await paper.savedNow()
  expect(await marksOf(film, 'd-near')).toHaveLength(2)
  const pen = (type: string, x: number, force: number) => session.send('Input.dispatchMouseEvent', { type, x, y: from.y + 40, button: 'left', buttons: type === 'mouseReleased' ? 0 : 1, clickCount: 1, pointerType: 'pen', force } as never)
  await pen('mousePressed', from.x, 0.3)
  for (let i = 1; i <= 6; i++) await pen('mouseMoved', from.x + i * 10, 0.3 + i * 0.1)
  await pen('mouseReleased', from.x + 60, 0)
  await expect.poll(async () => (await marksOf(film, 'd-near')).length).toBe(3)
  const before = await paper.frame()
  await touch('touchStart', [from])
  for (let i = 1; i <= 6; i++) await touch('touchMove', [{ x: from.x + i * 10, y: from.y }])
  await touch('touchEnd', [])
  await expect.poll(async () => (await paper.frame()).x).toBeGreaterThan(before.x + 40)
  expect(await marksOf(film, 'd-near')).toHaveLength(3)
})

test('the stroke shows while it is drawn, under the levels before it, and Escape drops it', async ({ page }) => {
  const film = await makeFilm({ levels })
  const paper = await onPaper(page, film)
  await paper.level('far').click()
  await page.keyboard.press('2')
  const from = await paper.at(-0.2, 0)
  await page.mouse.move(from.x, from.y)
  await page.waitForTimeout(300)
  const there = await paper.at(0, 0)
  const beside = { x: from.x + 4, y: from.y - 4, width: 30, height: 8 }
  const over = { x: there.x - 20, y: there.y - 6, width: 40, height: 12 }
  const look = async () => Promise.all([await page.screenshot({ clip: beside }), await page.screenshot({ clip: over })].map((shot) => sharp(shot).raw().toBuffer()))
  const off = (a: Buffer, b: Buffer) => a.reduce((most, value, i) => Math.max(most, Math.abs(value - b[i]!)), 0)
  const before = await look()
  await page.mouse.down()
  await page.mouse.move(there.x + 30, there.y, { steps: 30 })
  const during = await look()
  expect(off(during[0]!, before[0]!)).toBeGreaterThan(60)
  // The red square is before the level that is drawn on.
  expect(off(during[1]!, before[1]!)).toBeLessThan(4)
  await page.keyboard.press('Escape')
  await page.mouse.up()
  const after = await look()
  expect([off(after[0]!, before[0]!), off(after[1]!, before[1]!)]).toEqual([0, 0])
  expect(await marksOf(film, 'd-far')).toHaveLength(1)
})

test('in the lens view the same pen selects, and Delete takes marks there, framings elsewhere', async ({ page }) => {
  const film = await makeFilm({ levels, framings: [{ frame: 0, pose: {} }, { frame: 20, pose: { x: 0.2 } }] })
  const desk = new Desk(page)
  await desk.open(film.projectId)
  await page.locator('[data-level=near]').click()
  await page.keyboard.press('p')
  await desk.drag(await desk.at(-0.4, 0.2), await desk.at(-0.3, 0.2), { steps: 8 })
  await desk.savedNow()
  expect(await marksOf(film, 'd-near')).toHaveLength(2)
  await page.keyboard.press('a')
  await desk.drag(await desk.at(-0.45, 0.25), await desk.at(-0.25, 0.15))
  await expect(page.getByTestId('selection')).toBeVisible()
  await page.keyboard.press('Delete')
  await expect.poll(async () => (await marksOf(film, 'd-near')).length).toBe(1)
  await page.keyboard.press('c')
  const bead = await desk.strip(20, 'camera')
  await page.mouse.click(bead.x, bead.y - 2)
  await page.keyboard.press('Delete')
  await expect.poll(async () => Object.keys((await bodyOf(film)).framings)).toEqual(['f1'])
})

test('undoing a stroke among many gives the very picture back that was there', async ({ page }) => {
  const film = await makeFilm({ levels })
  const paper = await onPaper(page, film)
  await paper.level('near').click()
  await page.keyboard.press('1')
  for (let i = 0; i < 6; i++) await paper.stroke([-0.4 + i * 0.1, 0.2], [-0.35 + i * 0.1, -0.2])
  const before = await paper.picture()
  await page.keyboard.press('2')
  await paper.stroke([-0.4, 0.1], [0.4, -0.1])
  expect(await paper.picture()).not.toBe(before)
  await page.keyboard.press('Control+z')
  expect(await paper.picture()).toBe(before)
})

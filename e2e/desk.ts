import { test as base, expect, type Locator, type Page } from '@playwright/test'
import { randomUUID } from 'node:crypto'
import { cellIdOf, type Level, type Mark, orderOfNumber } from '@rubato/core/document'
import { keyFraming, type Edit } from '@rubato/core/edits'
import { untouchedPose } from '@rubato/core/camera'
import { arrive, Day } from './day'

export { expect }

export const address = () => process.env.RUBATO_E2E_ADDRESS!
const OPTICS = { filmBackMm: 36, baseLensMm: 50, aspect: 16 / 9 }
export const REST = untouchedPose(OPTICS)

/** Fails a test whose page reported an error. Each test has a browser's profile of its own. */
export const apart = base.extend<{ quiet: void }, { day: Day }>({
  day: [
    async ({ browser }, use) => {
      const day = new Day(browser, address())
      const films = await Promise.all([makeFilm(), makeFilm()])
      await day.learn(
        films.map((film) => film.projectId),
        ['boards', 'draw', 'sets', 'breakdown', 'desk'],
      )
      await use(day)
      await day.end()
    },
    { scope: 'worker' },
  ],
  quiet: [
    async ({ page }, use) => {
      const errors: string[] = []
      // Choosers are caught from the start: asked for only when one is awaited, one that opens at once is missed.
      page.on('filechooser', () => undefined)
      page.on('pageerror', (error) => errors.push(`${error.message}\n${error.stack}`))
      page.on('console', (message) => {
        if (message.type() === 'error' && !/Failed to load resource|net::ERR|Retrying failed fetch|Error while reading response stream. Attempting to resume/.test(message.text())) errors.push(message.text())
      })
      await use()
      expect(errors).toEqual([])
    },
    { auto: true },
  ],
})

/** One page serves test after test, as an artist's does film after film: what one film leaves to the next is seen too. */
export const test = apart.extend({
  page: async ({ day }, use, info) => {
    await use(await day.page())
    await day.rest(info.status === info.expectedStatus)
  },
  context: async ({ page }, use) => use(page.context()),
})

interface FilmPlan {
  readonly title?: string
  readonly widthPx?: number
  readonly heightPx?: number
  readonly panels?: readonly number[]
  readonly framings?: readonly { readonly frame: number; readonly pose: object }[]
  /** A plain box each, or with `ring` a pen's stroke that goes round the box's ellipse. */
  readonly levels?: readonly (Partial<Level> & { readonly id: string; readonly colour: string; readonly box: readonly [number, number, number, number]; readonly ring?: true })[]
  readonly rate?: { readonly numerator: number; readonly denominator: number }
}

export async function json(path: string, init?: RequestInit) {
  const response = await fetch(address() + path, init)
  if (!response.ok) throw new Error(`${path}: ${response.status} ${await response.text()}`)
  return response.json()
}
export const post = (path: string, value: unknown) => json(path, { method: 'POST', headers: { 'Content-Type': 'application/json' }, body: JSON.stringify(value) })

/** A small film of plain shapes, made through the server; returns its id and its take's. */
export async function makeFilm(plan: FilmPlan = {}) {
  const { title = 'Shapes', widthPx = 480, heightPx = 270, panels = [24, 24], framings = [], rate = { numerator: 24, denominator: 1 } } = plan
  const levels = plan.levels ?? [
    { id: 'near', colour: '#c2452d', box: [-0.1, -0.1, 0.1, 0.1], depth: 0 },
    { id: 'far', colour: '#2e7a68', box: [-0.6, -0.4, 0.3, 0.4], depth: 2 },
  ]
  const card = await post('/api/projects', { title, rate, widthPx, heightPx, filmBackMm: 36, baseLensMm: 50, defaultPanelFrames: 24 })
  const projectId = card.project.id as string
  const { outline } = await json(`/api/projects/${projectId}`)
  const takeId = Object.keys(outline.takes)[0]!
  const [{ body }] = await json(`/api/projects/${projectId}/takes?ids=${takeId}`)
  const unit = { kind: 'take' as const, id: takeId }
  const changes: Record<string, Record<string, { before: object | null; after: object | null }>> = { panels: {}, levels: {}, cells: {} }
  const edits: Edit[] = []
  for (const record of Object.values<{ id: string }>(body.panels)) changes.panels![record.id] = { before: record, after: null }
  for (const record of Object.values<{ id: string }>(body.levels)) changes.levels![record.id] = { before: record, after: null }
  const panelRecords = Object.fromEntries(
    panels.map((lengthFrames, i) => [`p${i + 1}`, { id: `p${i + 1}`, order: orderOfNumber(i + 1), lengthFrames, lengthLocked: false, action: '', dialogue: '', notes: '' }]),
  )
  for (const [id, record] of Object.entries(panelRecords)) changes.panels![id] = { before: null, after: record }
  const base: Record<string, number> = { [`take:${takeId}`]: 1 }
  const drawings: Edit[] = []
  levels.forEach(({ colour, box: [left, bottom, right, top], ring, ...fields }, i) => {
    const level = { order: orderOfNumber(i + 1), name: fields.id, kind: 'drawn', x: 0, y: 0, depth: 0, scale: 1, panDegrees: 0, tiltDegrees: 0, rollDegrees: 0, opacity: 1, visible: true, locked: false, ...fields } as Level
    changes.levels![level.id] = { before: null, after: level }
    const cell = { id: cellIdOf(level.id, 'p1'), levelId: level.id, panelId: 'p1', drawingId: `d-${level.id}` }
    changes.cells![cell.id] = { before: null, after: cell }
    const round = Array.from({ length: 40 }, (_, n) => (n / 39) * 2 * Math.PI).flatMap((angle) => [(left + right) / 2 + ((right - left) / 2) * Math.cos(angle), (bottom + top) / 2 + ((top - bottom) / 2) * Math.sin(angle), 0.5])
    const mark: Mark = ring ? { id: 'm', order: 'a1', kind: 'stroke', mode: 'ink', points: round, widthFw: 0.02, colour, opacity: 1 } : { id: 'm', order: 'a1', kind: 'fill', mode: 'ink', outlines: [[left, bottom, right, bottom, right, top, left, top]], colour, opacity: 1 }
    drawings.push({ kind: 'mark-add', unit: { kind: 'drawing', id: cell.drawingId }, changes: { marks: { m: { before: null, after: mark } } } })
    base[`drawing:${cell.drawingId}`] = 0
  })
  edits.push({ kind: 'setup', unit, changes }, ...drawings)
  let take = { ...body, panels: panelRecords, levels: {}, cells: {} }
  const cameraId = Object.keys(body.cameras)[0]!
  framings.forEach(({ frame, pose }, i) => {
    const made = keyFraming(take, takeId, cameraId, frame, { ...REST, ...pose }, `f${i + 1}`)
    if (!made.ok) throw new Error(made.refusal.code)
    const framing = made.edits[0]!.changes.framings![`f${i + 1}`]!.after as never
    take = { ...take, framings: { ...take.framings, [`f${i + 1}`]: framing } }
    edits.push(...made.edits)
  })
  await post(`/api/projects/${projectId}/edits`, { changes: [{ id: randomUUID(), label: 'setup', edits }], base })
  return { projectId, takeId }
}

export const bodyOf = async (film: { projectId: string; takeId: string }) => (await json(`/api/projects/${film.projectId}/takes?ids=${film.takeId}`))[0].body
export const drawingsOf = (projectId: string, ids: readonly string[]) => json(`/api/projects/${projectId}/drawings?ids=${ids.join(',')}`)

/** All the pixels of a view at rest: looked at and taken at once, or what is drawn between the two would be taken. */
export async function exactPicture(page: Page, host: string): Promise<string> {
  await page.waitForTimeout(60)
  const taken = await page.waitForFunction((name) => {
    const shown = document.querySelector<HTMLElement>(`[data-test=${name}]`)!
    return shown.dataset.resampling === 'exact' && [...shown.querySelectorAll('canvas')].find((canvas) => canvas.style.visibility !== 'hidden')!.toDataURL()
  }, host)
  return String(await taken.jsonValue())
}

/** The Desk, as tests handle it. */
export class Desk {
  readonly page: Page
  readonly saved: Locator
  readonly mode: Locator

  constructor(page: Page) {
    this.page = page
    this.saved = page.getByTestId('save-state')
    this.mode = page.getByTestId('camera-mode')
  }

  async open(projectId: string) {
    await arrive(this.page, `${address()}/film/${projectId}`)
    await this.page.waitForURL(`**/film/${projectId}*`)
    // Turned levels are drawn on a canvas of their own; one of the two is seen.
    await expect(this.page.getByTestId('lens-host').locator('canvas').filter({ visible: true }).first()).toBeVisible()
    await this.page.waitForFunction(() => document.querySelectorAll('[data-level]').length > 0)
  }

  panelLength() {
    return this.page.getByTestId('panel-length').locator('input')
  }

  async setPanelLength(frames: number) {
    await this.panelLength().fill(String(frames))
    await this.panelLength().press('Enter')
  }

  async savedNow() {
    // What a hand just did is taken up with the screen's next picture: until then the saving before it is still told.
    await this.page.evaluate(
      () =>
        new Promise<void>((resolve) => {
          requestAnimationFrame(() => setTimeout(resolve))
          // A window behind another has no next picture.
          setTimeout(resolve, 1000)
        }),
    )
    await expect(this.saved).toHaveText(/^Saved \d\d:\d\d$/)
  }

  /** The lens view's frame, CSS px on the page. */
  async frame() {
    const box = (await this.page.getByTestId('frame').boundingBox())!
    return box
  }

  async at(u: number, v: number) {
    const box = await this.frame()
    return { x: box.x + box.width * (0.5 + u), y: box.y + box.height / 2 - v * box.width }
  }

  async drag(from: { x: number; y: number }, to: { x: number; y: number }, options: { steps?: number; hold?: boolean } = {}) {
    await this.page.mouse.move(from.x, from.y)
    await this.page.mouse.down()
    await this.page.mouse.move(to.x, to.y, { steps: options.steps ?? 6 })
    if (!options.hold) await this.page.mouse.up()
  }

  /** A place in the strip by film frame and row. */
  async strip(frame: number, row: 'ruler' | 'marks' | 'shots' | 'panels' | 'camera' | 'work' | 'cuts') {
    const pane = this.page.getByTestId('strip')
    const box = (await pane.boundingBox())!
    const [scale, first] = await pane.evaluate((element: HTMLElement) => [Number(element.dataset.pxPerFrame), Number(element.dataset.firstFrame)])
    const y = { ruler: 10, marks: 26, shots: 48, panels: 90, camera: 143, work: 183, cuts: 141 }[row]
    return { x: box.x + (frame - first!) * scale!, y: box.y + y }
  }

  /** A place in a lane of sound by film frame; `part` of its height from the top. */
  async lane(frame: number, index: number, part = 0.86) {
    const { x } = await this.strip(frame, 'ruler')
    const head = this.page.getByTestId('lane-head').nth(index)
    await head.scrollIntoViewIfNeeded()
    const box = (await head.boundingBox())!
    return { x, y: box.y + box.height * part }
  }

  async goTo(frame: number) {
    const place = await this.strip(frame + 0.4, 'ruler')
    await this.page.mouse.click(place.x, place.y)
    await expect(this.page.getByTestId('shot-frame')).toHaveText(new RegExp(`^${frame} / `))
  }

  /** The colour that the lens shows at a place of the frame: [r, g, b, a]. */
  async pixel(u: number, v: number): Promise<number[]> {
    const { x, y } = await this.at(u, v)
    return this.page.evaluate(
      ([px, py]) => {
        const canvas = [...document.querySelectorAll<HTMLCanvasElement>('[data-test=lens-host] canvas')].find((c) => c.style.visibility !== 'hidden')!
        const box = canvas.getBoundingClientRect()
        const copy = document.createElement('canvas')
        copy.width = copy.height = 1
        const context = copy.getContext('2d')!
        context.drawImage(canvas, ((px! - box.x) * canvas.width) / box.width, ((py! - box.y) * canvas.height) / box.height, 1, 1, 0, 0, 1, 1)
        return [...context.getImageData(0, 0, 1, 1).data]
      },
      [x, y],
    )
  }

  /** All the pixels of the lens view at rest, to compare two moments by. */
  async picture(): Promise<string> {
    return exactPicture(this.page, 'lens-host')
  }
}

/** The largest difference of any channel between two pictures given as data URLs, and the share of pixels past `limit`. */
export function compare(page: Page, a: string, b: string, limit = 3): Promise<{ largest: number; share: number }> {
  return page.evaluate(
    async ([first, second, past]) => {
      const pixels = async (url: string) => {
        const image = new Image()
        image.src = url
        await image.decode()
        const canvas = document.createElement('canvas')
        canvas.width = image.width
        canvas.height = image.height
        const context = canvas.getContext('2d')!
        context.drawImage(image, 0, 0)
        return context.getImageData(0, 0, image.width, image.height).data
      }
      const [p, q] = [await pixels(first as string), await pixels(second as string)]
      let largest = p.length === q.length ? 0 : 255
      let count = 0
      for (let i = 0; i < p.length; i += 4) {
        const off = Math.max(Math.abs(p[i]! - q[i]!), Math.abs(p[i + 1]! - q[i + 1]!), Math.abs(p[i + 2]! - q[i + 2]!))
        largest = Math.max(largest, off)
        if (off > (past as number)) count++
      }
      return { largest, share: count / (p.length / 4) }
    },
    [a, b, limit] as const,
  )
}

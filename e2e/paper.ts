import type { Page } from '@playwright/test'
import { arrive, keepWays } from './day'
import { address, Desk, drawingsOf, exactPicture, expect } from './desk'

export interface Mark {
  readonly id: string
  readonly kind: string
  readonly mode?: string
  readonly purpose?: string
  readonly points: number[]
  readonly colour?: string
  readonly opacity?: number
}

/** The paper, as tests handle it. Other levels do not fade, and ghosts are off, unless a test asks for them. */
export class Paper extends Desk {
  async openDraw(film: { readonly projectId: string }, settings: Readonly<Record<string, unknown>> = {}) {
    await keepWays(this.page, { 'rubato.fade': 0, 'rubato.ghosts': { on: false, before: 1, after: 1, strength: 1, all: false, halfway: false }, ...settings })
    await arrive(this.page, `${address()}/film/${film.projectId}?view=draw`)
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
    return exactPicture(this.page, 'paper-host')
  }

  level(id: string) {
    return this.page.locator(`[data-draw-level="${id}"]`)
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

export const WHITE = [255, 255, 255, 255]
export const RED = [0xc2, 0x45, 0x2d, 255]
export const dark = (pixel: number[]) => pixel[0]! < 90 && pixel[1]! < 90
/** A drawing’s marks as the server has them. */
export async function marksOf(film: { readonly projectId: string }, id: string): Promise<Mark[]> {
  const [found] = await drawingsOf(film.projectId, [id])
  return found === undefined ? [] : found.drawing.marks
}
/** A near red box over a far green one. */
export const levels = [
  { id: 'near', colour: '#c2452d', box: [-0.1, -0.1, 0.1, 0.1] as const, depth: 0 },
  { id: 'far', colour: '#2e7a68', box: [-0.6, -0.4, 0.6, 0.4] as const, depth: 2 },
]
export const onPaper = async (page: Page, film: { readonly projectId: string }, settings: Readonly<Record<string, unknown>> = {}) => {
  const paper = new Paper(page)
  await paper.openDraw(film, settings)
  return paper
}

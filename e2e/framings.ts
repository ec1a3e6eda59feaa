import type { Framing } from '@rubato/core/document'
import type { Page } from '@playwright/test'
import { arrive, keepWays } from './day'
import { address, bodyOf, Desk, expect, type makeFilm } from './desk'

export const MOVE = [
  { frame: 0, pose: {} },
  { frame: 40, pose: { x: 0.4 } },
]
export type Film = Awaited<ReturnType<typeof makeFilm>>
export const framingsOf = async (film: Film) => Object.values<Framing>((await bodyOf(film)).framings)
export const framingOf = async (film: Film, id: string): Promise<Framing> => (await bodyOf(film)).framings[id]

/** Opens a film with a kind of view beside the lens. */
export async function openWith(page: Page, film: Film, beside: string, third: string | null = null, alone: string | null = null) {
  await keepWays(page, { 'rubato.views': { beside, third, alone } })
  const desk = new Desk(page)
  if (alone === null || alone === 'lens') await desk.open(film.projectId)
  else {
    await arrive(page, `${address()}/film/${film.projectId}`)
    await expect(page.getByTestId(alone === 'beside' ? beside : third!)).toBeVisible()
    await page.waitForFunction(() => document.querySelectorAll('[data-level]').length > 0)
    await expect(page.getByTestId('save-state')).toHaveText(/^Saved/)
  }
  return desk
}

/** The corners of an outline on the table, from bottom left, in px of the page. */
export async function cornersOf(page: Page, selector: string) {
  const box = (await page.getByTestId('table').boundingBox())!
  const d = (await page.locator(selector).getAttribute('d'))!
  return d.slice(1, -1).split('L').map((pair) => {
    const [x, y] = pair.split(' ').map(Number)
    return { x: box.x + x!, y: box.y + y! }
  })
}
export const STILL = (number: number) => `[data-framing="${number}"] path.still`
export const LIVE = '[data-test=table-live]'
export const middle = (corners: readonly { x: number; y: number }[]) => ({ x: (corners[0]!.x + corners[2]!.x) / 2, y: (corners[0]!.y + corners[2]!.y) / 2 })

import { openBarePage } from './barePage.mjs'
import { largestRenderer } from './memory.mjs'

const FILMS = 6
const ROUNDS = 5
/** Small pictures are painted and edges looked for before the next film is gone over to. */
const STAY_MS = 1500

/** A day in one window: film after film, each let go of when the next is opened. */
export async function measureFilms({ browser, address, films, hold, size }) {
  const ids = []
  while (ids.length < size(FILMS, 2)) ids.push(await films.demo())
  const page = await openBarePage(browser, `${address}/work`)
  await page.until(() => document.querySelector('[role=status]') !== null, [], 'the home page')
  const round = async () => {
    for (const id of ids) {
      await page.evaluate((path) => void window.useNuxtApp().$router.push(path), `/film/${id}?view=desk`)
      await page.until((path) => location.pathname === path && document.querySelectorAll('[data-level]').length > 0, [`/film/${id}`], 'the Desk')
      await new Promise((resolve) => setTimeout(resolve, size(STAY_MS, 50)))
    }
    return largestRenderer(browser)
  }
  const first = await round()
  let last = first
  for (let n = 1; n < size(ROUNDS, 2); n++) last = await round()
  await page.close()
  const more = ids.length * (size(ROUNDS, 2) - 1)
  hold(`memory of the tab after ${more} films more, MB more`, last - first, 200, `from ${first.toFixed(0)} to ${last.toFixed(0)} MB, nothing collected but by the browser itself`)
}

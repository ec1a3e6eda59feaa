import type { BrowserContext, Page } from '@playwright/test'
import { address, apart as test, compare, Desk, exactPicture, expect, makeFilm } from './desk'

/** In the page and in its workers the simulated graphics card gives itself out as one. */
const CARD = `
  for (const kind of [self.WebGL2RenderingContext, self.WebGLRenderingContext]) {
    const asked = kind?.prototype.getParameter
    if (asked) kind.prototype.getParameter = function (what) { return what === 37446 ? 'A card, or so it says' : asked.call(this, what) }
  }
`
async function withCard(context: BrowserContext): Promise<Page> {
  await context.addInitScript(CARD)
  await context.route(/\.worker[^/]*\.js/, async (route) => {
    const response = await route.fetch()
    await route.fulfill({ response, body: `${CARD};${await response.text()}` })
  })
  return context.newPage()
}

test('with a graphics card and without, the lens view and finished frames show the same turned levels', async ({ page, browser }) => {
  test.setTimeout(90_000)
  const levels = [
    { id: 'far', colour: '#2e7a68', box: [-0.6, -0.4, 0.3, 0.4] as const, depth: 2 },
    { id: 'wall', colour: '#c2452d', box: [-0.2, -0.2, 0.2, 0.2] as const, depth: 0, panDegrees: 40, tiltDegrees: 10, ring: true as const },
  ]
  const film = await makeFilm({ levels, panels: [24], framings: [{ frame: 0, pose: {} }, { frame: 23, pose: { x: 0.2 } }] })
  const context = await browser.newContext({ baseURL: address(), viewport: { width: 1280, height: 800 } })
  const carded = await withCard(context)
  const fetched: string[] = []
  context.on('request', (request) => void fetched.push(request.url()))
  const backend = (of: Page) => of.locator('[data-test=lens-host] canvas:not(.finished)').evaluateAll((all) => all.filter((canvas) => (canvas as HTMLElement).style.visibility !== 'hidden').map((canvas) => (canvas as HTMLElement).dataset.backend))

  const [plain, desk] = [new Desk(page), new Desk(carded)]
  await plain.open(film.projectId)
  await plain.goTo(9)
  const without = await exactPicture(page, 'lens-host')
  expect(await backend(page)).toEqual(['canvas'])

  await desk.open(film.projectId)
  await desk.goTo(9)
  const drawn = await exactPicture(carded, 'lens-host')
  expect(await backend(carded)).toEqual(['gl'])
  expect((await compare(page, without, drawn)).largest).toBeLessThanOrEqual(3)

  await carded.getByRole('button', { name: 'timecode' }).click()
  await expect(carded.getByTestId('cache-state')).toHaveText(/^24 pictures ready/, { timeout: 30_000 })
  // The worker fetches that part of its program when it has a card to draw with.
  expect(fetched.filter((url) => /\/frames\.worker-[^/]+\.js$/.test(url))).toHaveLength(1)
  await carded.keyboard.press('Escape')
  await carded.keyboard.press('Space')
  const seen = await carded.waitForFunction(() => {
    const host = document.querySelector<HTMLElement>('[data-test=lens-host]')!
    return host.dataset.resampling === 'finished' && { frame: Number(host.dataset.frame), picture: host.querySelector<HTMLCanvasElement>('canvas.finished')!.toDataURL() }
  })
  const { frame, picture } = (await seen.jsonValue()) as { frame: number; picture: string }
  await carded.keyboard.press('Space')
  await plain.goTo(frame)
  expect((await compare(page, await exactPicture(page, 'lens-host'), picture)).largest).toBeLessThanOrEqual(3)
  await context.close()
})

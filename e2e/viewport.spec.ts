import { bundle } from '../scripts/bundle.mjs'
import { address, apart as test, expect } from './desk'

declare const rubato: {
  backendsDiffer(widthPx: number, resampling: 'exact' | 'fast'): Record<string, number>
  turnedDiffer(runs: number, resampling: 'exact' | 'fast'): { largest: number; off: number; levels: number; parts: number }
  changeAtOneToOne(): Record<string, number>
  signaturesTell(rounds: number): { frames: number; signatures: number; untold: string[] }
  darkestFringe(): Record<string, number>
  worstShimmer(): Record<string, number>
  tenfold(): { mean: number; inked: number; octave: number }
  follows(backend: 'gl' | 'canvas'): number
  followingDiffers(runs: number): { share: number; topmost: number }
}

// The harness is put into a page whose policy would rightly not run it.
test.use({ bypassCSP: true })

let harness = ''
test.beforeAll(async () => void (harness = await bundle('bench/harness.ts')))
test.beforeEach(async ({ page }) => {
  await page.goto(`${address()}/mark.svg`)
  await page.goto(`${address()}/api/health`)
  await page.addScriptTag({ content: harness })
})

test('sRGB art shown at 1:1 arrives unchanged, in both backends', async ({ page }) => {
  const change = await page.evaluate(() => rubato.changeAtOneToOne())
  expect(change.canvas).toBeLessThanOrEqual(1)
  expect(change.gl).toBeLessThanOrEqual(1)
})

test('the two backends agree to within 3/255 on every take of the demo', async ({ page }) => {
  const differ = await page.evaluate(() => rubato.backendsDiffer(345, 'exact'))
  expect(Object.keys(differ)).toHaveLength(6)
  for (const largest of Object.values(differ)) expect(largest).toBeLessThanOrEqual(3)
  // While things move, hard edges may be off by a step of a sixteenth of a pixel.
  const moving = await page.evaluate(() => rubato.backendsDiffer(345, 'fast'))
  for (const largest of Object.values(moving)) expect(largest).toBeLessThanOrEqual(26)
})

test('the two backends agree to within 3/255 on turned levels that cut each other, from outside and from among them', async ({ page }) => {
  const { largest, off, levels, parts } = await page.evaluate(() => rubato.turnedDiffer(8, 'exact'))
  expect(off, `${off} channels of px are more than 3 off, at most ${largest}`).toBe(0)
  expect(parts).toBeGreaterThan(levels * 1.3)
  // While things move there is one sample a px, and what is seen nearly edge-on may be off by more.
  expect((await page.evaluate(() => rubato.turnedDiffer(5, 'fast'))).largest).toBeLessThanOrEqual(26)
})

test('frames of one signature have one picture, whatever about them is another', async ({ page }) => {
  const { frames, signatures, untold } = await page.evaluate(() => rubato.signaturesTell(60))
  expect(untold).toEqual([])
  // Some were alike, or nothing was looked at.
  expect(frames).toBeGreaterThan(100)
  expect(signatures).toBeGreaterThan(20)
  expect(signatures).toBeLessThan(frames)
})

test('soft edges have no fringes', async ({ page }) => {
  const darkest = await page.evaluate(() => rubato.darkestFringe())
  expect(darkest.canvas).toBeGreaterThanOrEqual(254)
  expect(darkest.gl).toBeGreaterThanOrEqual(254)
})

test('far art does not shimmer under a creeping camera', async ({ page }) => {
  const worst = await page.evaluate(() => rubato.worstShimmer())
  expect(worst.canvas).toBeLessThan(40)
  expect(worst.gl).toBeLessThan(40)
})

test('a ten-fold push-in on a drawn level is as sharp as the strokes painted at that size', async ({ page }) => {
  const { mean, inked, octave } = await page.evaluate(() => rubato.tenfold())
  expect(octave).toBeGreaterThanOrEqual(3.3)
  expect(mean).toBeLessThanOrEqual(6)
  // Not only where the paper is white.
  expect(inked).toBeLessThanOrEqual(12)
})

test('a raster that followed any run of strokes, undos and changes is the one painted anew', async ({ page }) => {
  const { share, topmost } = await page.evaluate(() => rubato.followingDiffers(12))
  // What was kept beneath a stroke comes back but for rounding in what is all but clear.
  expect(topmost).toBeLessThanOrEqual(8)
  expect(share).toBeLessThan(0.0005)
})

test('only what changed of a raster is drawn again, and sent to the GPU: both backends show what they would show anew', async ({ page }) => {
  expect(await page.evaluate(() => rubato.follows('gl'))).toBeLessThanOrEqual(1)
  expect(await page.evaluate(() => rubato.follows('canvas'))).toBeLessThanOrEqual(1)
})

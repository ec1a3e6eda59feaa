import { untouchedPose } from '@rubato/core/camera'
import { deviationOf, softnessAt } from '@rubato/core/depth'
import { orderOfNumber, type Drawing, type Level, type TakeBody } from '@rubato/core/document'
import { createTakeStage, type StageFrame } from '@rubato/core/stage'
import { ArtLibrary } from '../app/viewport/artLibrary'
import { createCanvasCompositor } from '../app/viewport/canvasCompositor'
import { compose, wholeFrame } from '../app/viewport/composition'
import type { Resampling } from '../app/viewport/compositor'
import { createGlCompositor } from '../app/viewport/glCompositor'
import type { Through } from '../app/viewport/levelAir'
import { demo, largestDifference, median, optics, pixelsOf, project, random, takeOfOneLevel, turnedTake, WHITE } from './shared'

const by = (chance: () => number, most: number) => (chance() * 2 - 1) * most

/** The largest difference of any channel between the backends over set-ups with haze, soft focus, shadows, and pictures of depth. */
export function airDiffers(runs: number, resampling: Resampling, square: boolean): { readonly largest: number; readonly off: number; readonly soft: number; readonly hazy: number } {
  const chance = random(17)
  const flat = createCanvasCompositor(new OffscreenCanvas(8, 8))
  const gl = createGlCompositor(new OffscreenCanvas(8, 8))
  const found = { largest: 0, off: 0, soft: 0, hazy: 0 }
  for (let run = 0; run < runs; run++) {
    const { take, drawings } = turnedTake(chance, 2 + Math.floor(chance() * 4))
    const levels = Object.fromEntries(
      Object.values(take.levels).map((level): [string, Level] => {
        const shadow = !square && chance() < 0.3 ? { shadow: { strength: chance(), soft: 0.1 * chance(), ground: -0.3 * chance(), towardsDegrees: by(chance, 180), length: chance() } } : {}
        return [level.id, { ...level, depth: by(chance, 0.8), ...(square ? { panDegrees: 0, tiltDegrees: 0 } : {}), ...shadow }]
      }),
    )
    const air: Partial<TakeBody['air']> = {
      ...(chance() < 0.7 ? { haze: { id: 'haze', density: 2 * chance(), start: 2 * chance(), colour: '#8a9bb0' } } : {}),
      ...(chance() < 0.8 ? { focus: { id: 'focus', sharp: 0.6 + 2 * chance(), strength: 0.3 * chance() ** 2 } } : {}),
    }
    const through: Through = chance() < 0.2 ? { kind: 'depth', range: { nearest: 0.5 + chance(), farthest: 2 + chance() } } : { kind: 'air' }
    const library = new ArtLibrary(320, () => null)
    const pose = { ...untouchedPose(optics), x: by(chance, 0.3), y: by(chance, 0.2), ...(square ? { rollDegrees: by(chance, 180) } : { panDegrees: by(chance, 25), tiltDegrees: by(chance, 15) }) }
    const frame = createTakeStage({ ...take, levels, air: air as TakeBody['air'] }, optics).withPose(0, pose)
    const composition = compose(frame, wholeFrame(320, 180), library, (id) => drawings[id] ?? null, false, undefined, undefined, through)
    flat.draw(composition, WHITE, resampling)
    gl.draw(composition, WHITE, resampling)
    const [a, b] = [pixelsOf(flat), pixelsOf(gl)]
    found.largest = Math.max(found.largest, largestDifference(a, b))
    for (let i = 0; i < a.length; i++) if (Math.abs(a[i]! - b[i]!) > 3) found.off++
    found.soft += composition.levels.filter((level) => (level.air?.soft ?? null) !== null).length
    found.hazy += composition.levels.filter((level) => (level.air?.veil ?? null) !== null).length
  }
  return found
}

/** The share of a bell that lies before x. */
function bellBefore(x: number, deviation: number): number {
  const t = x / deviation / Math.SQRT2
  // Abramowitz and Stegun 7.1.26, to 1.5e-7.
  const [a, u] = [Math.abs(t), 1 / (1 + 0.3275911 * Math.abs(t))]
  const erf = 1 - ((((1.061405429 * u - 1.453152027) * u + 1.421413741) * u - 0.284496736) * u + 0.254829592) * u * Math.exp(-a * a)
  return (1 + Math.sign(t) * erf) / 2
}

/** A black box softened, against the same box under a bell of the deviation it should have: the largest difference along a row, /255, by the deviation in px. */
export function softens(): readonly (readonly [deviationPx: number, most: number])[] {
  const [widthPx, heightPx] = [640, 360]
  const drawing: Drawing = { marks: [{ id: 'm', order: 'a1', kind: 'fill', mode: 'ink', outlines: [[-0.1, -0.2, 0.1, -0.2, 0.1, 0.2, -0.1, 0.2]], colour: '#000000', opacity: 1 }] }
  return [0.008, 0.015, 0.03, 0.045, 0.06, 0.08, 0.1, 0.16, 0.25, 0.3].map((strength) => {
    const focus = { id: 'focus' as const, sharp: 2.5, strength }
    const frame = createTakeStage({ ...takeOfOneLevel(), air: { focus } }, optics).at(0)
    const compositor = createCanvasCompositor(new OffscreenCanvas(8, 8))
    compositor.draw(compose(frame, wholeFrame(widthPx, heightPx), new ArtLibrary(widthPx, () => null), () => drawing, false), WHITE, 'exact')
    const pixels = pixelsOf(compositor)
    const deviation = deviationOf(softnessAt(focus, frame.levels[0]!.z)) * widthPx
    let most = 0
    for (let x = 0; x < widthPx; x++) {
      const [left, right] = [0.4 * widthPx, 0.6 * widthPx]
      const dark = bellBefore(x + 0.5 - left, deviation) - bellBefore(x + 0.5 - right, deviation)
      most = Math.max(most, Math.abs(255 - 255 * dark - pixels[((heightPx / 2) * widthPx + x) * 4]!))
    }
    return [deviation, most] as const
  })
}

/** Median ms of a moving frame with 12 levels of demo art, in the 2D backend, by what the air is. */
export function airFrameMs(widthPx: number, frames: number): Record<'clear' | 'haze' | 'both', number> {
  const art = demo.takes['take-040-a']!
  const drawn = Object.values(art.cells).flatMap(({ drawingId }) => (drawingId === null || demo.drawings[drawingId] === undefined ? [] : [drawingId]))
  const levels = Array.from({ length: 12 }, (_, i) => ({ ...takeOfOneLevel().levels.l!, id: `l${i}`, order: orderOfNumber(i), depth: i * 0.5, scale: 1 + i * 0.36 }))
  const take: TakeBody = {
    ...takeOfOneLevel(),
    levels: Object.fromEntries(levels.map((level) => [level.id, level])),
    cells: Object.fromEntries(levels.map(({ id }, i) => [`${id}.p`, { id: `${id}.p`, levelId: id, panelId: 'p', drawingId: drawn[i % drawn.length]! }])),
  }
  const haze = { id: 'haze' as const, density: 0.15, start: 1, colour: '#c9d3dc' }
  const focus = { id: 'focus' as const, sharp: 1.4, strength: 0.02 }
  const rest = untouchedPose(optics)
  const library = new ArtLibrary(project.widthPx, () => null)
  const compositor = createCanvasCompositor(new OffscreenCanvas(8, 8))
  const context = compositor.canvas.getContext('2d') as OffscreenCanvasRenderingContext2D
  const timesOf = (air: TakeBody['air']) => {
    const stage = createTakeStage({ ...take, air }, optics)
    const at = (i: number): StageFrame => stage.withPose(0, { ...rest, x: i * 0.002, depth: rest.depth + i * 0.004 })
    const times: number[] = []
    for (let round = 0; round < 2; round++) {
      times.length = 0
      for (let i = 0; i < frames; i++) {
        const begun = performance.now()
        compositor.draw(compose(at(i), wholeFrame(widthPx, Math.round(widthPx / optics.aspect)), library, (id) => demo.drawings[id] ?? null, false), WHITE, 'fast')
        context.getImageData(0, 0, 1, 1)
        times.push(performance.now() - begun)
      }
    }
    return median(times)
  }
  return { clear: timesOf({}), haze: timesOf({ haze }), both: timesOf({ haze, focus }) }
}

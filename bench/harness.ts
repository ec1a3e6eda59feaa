import { untouchedPose } from '@rubato/core/camera'
import { takeLengthFrames, type Drawing, type Level, type Mark, type Stroke, type TakeBody, orderOfNumber } from '@rubato/core/document'
import { createTakeStage, frameSignature, type TakeStage } from '@rubato/core/stage'
import { ArtLibrary } from '../app/viewport/artLibrary'
import { createCanvasCompositor } from '../app/viewport/canvasCompositor'
import { compose, wholeFrame, type Composition } from '../app/viewport/composition'
import type { Resampling } from '../app/viewport/compositor'
import { createGlCompositor } from '../app/viewport/glCompositor'
import { paintMarks } from '../app/viewport/paint'
import { NO_BURN_IN, UNDRESSED } from '#shared/renders'
import { createJobs } from '../app/clients/jobs'
import { i420OfRgba } from '../app/workers/i420'
import type { AreaAsk, AreaFound, MadeMovie, MovieProgress, MovieRequest } from '../app/workers/messages'
import { chooseVideoCodec } from '../app/workers/videoCodec'
import { airDiffers, airFrameMs, softens } from './air'
import { framesScriptMs, glScriptMs } from './scriptTime'
import { demo, largestDifference, median, optics, pixelsOf, project, random, takeOfOneLevel, turnedTake, WHITE } from './shared'

/** Runs in the page, from tests and benchmarks: the viewport by itself, without the interface. */

const demoStage = (takeId: string): TakeStage => createTakeStage(demo.takes[takeId]!, optics)
const demoLibrary = () => new ArtLibrary(project.widthPx, () => null)
const demoCompose = (stage: TakeStage, frame: number, library: ArtLibrary, widthPx: number): Composition =>
  compose(stage.at(frame), wholeFrame(widthPx, Math.round(widthPx / optics.aspect)), library, (id) => demo.drawings[id] ?? null, false)

/** The largest difference of any channel between the two backends over frames of the demo's shots. */
function backendsDiffer(widthPx: number, resampling: Resampling): Record<string, number> {
  const flat = createCanvasCompositor(new OffscreenCanvas(8, 8))
  const gl = createGlCompositor(new OffscreenCanvas(8, 8))
  const found: Record<string, number> = {}
  for (const takeId of Object.keys(demo.takes)) {
    const stage = demoStage(takeId)
    const library = demoLibrary()
    let largest = 0
    for (const part of [0, 0.2, 0.55, 0.8, 1]) {
      const composition = demoCompose(stage, Math.round((stage.lengthFrames - 1) * part), library, widthPx)
      flat.draw(composition, WHITE, resampling)
      gl.draw(composition, WHITE, resampling)
      largest = Math.max(largest, largestDifference(pixelsOf(flat), pixelsOf(gl)))
    }
    found[takeId] = largest
  }
  return found
}

/** The largest difference of any channel between the backends over set-ups of turned levels that cut each other, how many channels differ by more than 3, and in how many parts they were drawn. */
function turnedDiffer(runs: number, resampling: Resampling): { readonly largest: number; readonly off: number; readonly levels: number; readonly parts: number } {
  const chance = random(11)
  const flat = createCanvasCompositor(new OffscreenCanvas(8, 8))
  const gl = createGlCompositor(new OffscreenCanvas(8, 8))
  const found = { largest: 0, off: 0, levels: 0, parts: 0 }
  for (let run = 0; run < runs; run++) {
    const { take, drawings } = turnedTake(chance, 2 + Math.floor(chance() * 5))
    const library = new ArtLibrary(320, () => null)
    const by = (most: number) => (chance() * 2 - 1) * most
    // Half of them from among the levels.
    const pose = { ...untouchedPose(optics), x: by(0.4), y: by(0.2), panDegrees: by(25), tiltDegrees: by(15), rollDegrees: by(180), ...(chance() < 0.5 ? { depth: by(0.6) } : {}) }
    const composition = compose(createTakeStage(take, optics).withPose(0, pose), wholeFrame(320, 180), library, (id) => drawings[id] ?? null, false)
    flat.draw(composition, WHITE, resampling)
    gl.draw(composition, WHITE, resampling)
    const [a, b] = [pixelsOf(flat), pixelsOf(gl)]
    found.largest = Math.max(found.largest, largestDifference(a, b))
    for (let i = 0; i < a.length; i++) if (Math.abs(a[i]! - b[i]!) > 3) found.off++
    found.levels += new Set(composition.levels.map((level) => level.levelId)).size
    found.parts += composition.levels.length
  }
  return found
}

/** The largest change of any channel of sRGB art shown at 1:1, by backend; opaque and soft-edged. */
function changeAtOneToOne(): Record<string, number> {
  const [width, height] = [320, 180]
  const source = new OffscreenCanvas(width, height)
  const context = source.getContext('2d', { willReadFrequently: true })!
  const noise = context.createImageData(width, height)
  let seed = 7
  for (let i = 0; i < noise.data.length; i++) {
    seed = (Math.imul(seed, 1664525) + 1013904223) >>> 0
    noise.data[i] = i % 4 === 3 ? 255 : seed >>> 24
  }
  context.putImageData(noise, 0, 0)
  const drawing: Drawing = { marks: [{ id: 'm', order: 'a1', kind: 'picture', assetHash: '0'.repeat(64), widthPx: width, heightPx: height, x: 0, y: 0, widthFw: 1 }] }
  const library = new ArtLibrary(width, () => source)
  const stage = createTakeStage(takeOfOneLevel(), { filmBackMm: 36, baseLensMm: 50, aspect: width / height })
  const composition = compose(stage.at(0), wholeFrame(width, height), library, () => drawing, false)
  const wanted = context.getImageData(0, 0, width, height).data
  const found: Record<string, number> = {}
  for (const compositor of [createCanvasCompositor(new OffscreenCanvas(8, 8)), createGlCompositor(new OffscreenCanvas(8, 8))]) {
    compositor.draw(composition, WHITE, 'exact')
    found[compositor.kind] = largestDifference(pixelsOf(compositor), wanted)
  }
  return found
}

/** One thing about a take that is another, or none that is seen. */
function varied(take: TakeBody, chance: () => number): TakeBody {
  const of = <T>(list: readonly T[]) => list[Math.floor(chance() * list.length)]!
  const level = of(Object.values(take.levels))
  const framing = of(Object.values(take.framings))
  const put = (fields: Partial<Level>): TakeBody => ({ ...take, levels: { ...take.levels, [level.id]: { ...level, ...fields } as Level } })
  const by = (most: number) => (chance() - 0.5) * most
  return of<() => TakeBody>([
    () => take,
    () => put({ name: 'another name' }),
    () => put({ locked: !level.locked, group: 'a group' }),
    () => ({ ...take, panels: Object.fromEntries(Object.entries(take.panels).map(([id, panel]) => [id, { ...panel, action: 'other words' }])) }),
    () => put({ x: level.x + by(0.4) }),
    () => put({ depth: level.depth + by(0.6) }),
    () => put({ scale: level.scale * (1 + by(0.5)) }),
    () => put({ rollDegrees: level.rollDegrees + by(20) }),
    () => put({ opacity: Math.round(chance() * 10) / 10 }),
    () => put({ visible: !level.visible }),
    () => ({ ...take, air: { ...take.air, haze: { id: 'haze', density: 0.2 + chance(), start: chance(), colour: '#c0d0e0' } } }),
    () => ({ ...take, air: { ...take.air, focus: { id: 'focus', sharp: 0.5 + chance(), strength: 0.1 * chance() } } }),
    () => put({ tint: { colour: '#884422', strength: Math.round(chance() * 4) / 4 } }),
    () => ({ ...take, cells: Object.fromEntries(Object.entries(take.cells).map(([id, cell]) => [id, cell.levelId === level.id ? { ...cell, drawingId: null } : cell])) }),
    () => (framing === undefined ? take : { ...take, framings: { ...take.framings, [framing.id]: { ...framing, pose: { ...framing.pose, x: framing.pose.x + by(0.2), rollDegrees: framing.pose.rollDegrees + by(8) } } } }),
  ])()
}

/** Frames of takes of which some differ in what is seen and some do not: how many have a picture that their signature does not tell. */
function signaturesTell(rounds: number): { readonly frames: number; readonly signatures: number; readonly untold: string[] } {
  const chance = random(41)
  const [widthPx, heightPx] = [160, 90]
  const compositor = createCanvasCompositor(new OffscreenCanvas(8, 8))
  const pictures = new Map<string, string>()
  const untold: string[] = []
  let frames = 0
  for (const take of Object.values(demo.takes)) {
    for (let round = 0; round < rounds; round++) {
      const stage = createTakeStage(round === 0 ? take : varied(take, chance), optics)
      // Square on, so that one backend can show all of it.
      const frame = stage.at(Math.floor(chance() * 4) * Math.floor(stage.lengthFrames / 4))
      if (frame.levels.some((placed) => !placed.square)) continue
      const signature = frameSignature(frame, (id) => id, new Set())
      compositor.draw(compose(frame, wholeFrame(widthPx, heightPx), demoLibrary(), (id) => demo.drawings[id] ?? null, true), WHITE, 'exact')
      const picture = pixelsOf(compositor).join()
      frames++
      const known = pictures.get(signature)
      if (known === undefined) pictures.set(signature, picture)
      else if (known !== picture) untold.push(signature.slice(0, 120))
    }
  }
  return { frames, signatures: pictures.size, untold }
}

/** The darkest that soft white art on white gets anywhere, by backend: 255 where edges have no fringes. */
function darkestFringe(): Record<string, number> {
  const points = Array.from({ length: 40 }, (_, i) => [-0.4 + i * 0.02, 0.12 * Math.sin(i * 0.6), 0.5]).flat()
  const drawing: Drawing = { marks: [{ id: 'm', order: 'a1', kind: 'stroke', mode: 'ink', points, widthFw: 0.03, colour: '#ffffff', opacity: 0.6 }] }
  const library = new ArtLibrary(640, () => null)
  const stage = createTakeStage(takeOfOneLevel(2.3, 1.13), { filmBackMm: 36, baseLensMm: 50, aspect: 16 / 9 })
  const found: Record<string, number> = {}
  for (const compositor of [createCanvasCompositor(new OffscreenCanvas(8, 8)), createGlCompositor(new OffscreenCanvas(8, 8))]) {
    compositor.draw(compose(stage.at(0), wholeFrame(640, 360), library, () => drawing, false), WHITE, 'exact')
    found[compositor.kind] = pixelsOf(compositor).reduce((least, value) => Math.min(least, value), 255)
  }
  return found
}

/**
 * Fine stripes far away, under a camera that creeps sideways: the largest change of a pixel in the middle from frame
 * to frame, by backend. Art that is minified without being filtered would flash.
 */
function worstShimmer(): Record<string, number> {
  const outlines = Array.from({ length: 300 }, (_, i) => {
    const x = -0.9 + i * 0.006
    return [x, -0.4, x + 0.003, -0.4, x + 0.003, 0.4, x, 0.4]
  })
  const drawing: Drawing = { marks: [{ id: 'm', order: 'a1', kind: 'fill', mode: 'ink', outlines, colour: '#000000', opacity: 1 }] }
  const library = new ArtLibrary(640, () => null)
  const stage = createTakeStage(takeOfOneLevel(12, 1), { filmBackMm: 36, baseLensMm: 50, aspect: 16 / 9 })
  const rest = untouchedPose(stage.optics)
  const found: Record<string, number> = {}
  for (const compositor of [createCanvasCompositor(new OffscreenCanvas(8, 8)), createGlCompositor(new OffscreenCanvas(8, 8))]) {
    let before: Uint8ClampedArray | null = null
    let worst = 0
    for (let i = 0; i < 16; i++) {
      compositor.draw(compose(stage.withPose(0, { ...rest, x: i * 0.0021 }), wholeFrame(640, 360), library, () => drawing, false), WHITE, 'exact')
      const now = pixelsOf(compositor)
      for (let x = 296; before !== null && x < 344; x++) {
        const at = (180 * 640 + x) * 4
        worst = Math.max(worst, Math.abs(now[at]! - before[at]!))
      }
      before = now
    }
    found[compositor.kind] = worst
  }
  return found
}

function handStroke(chance: () => number, id: string, order: number, reach = 0.02): Stroke {
  let [x, y] = [(chance() - 0.5) * 0.9, (chance() - 0.5) * 0.5]
  const points = Array.from({ length: 24 }, () => {
    x += (chance() - 0.5) * reach
    y += (chance() - 0.5) * reach
    return [x, y, 0.3 + 0.5 * chance()]
  }).flat()
  return { id, order: orderOfNumber(order), kind: 'stroke', mode: 'ink', points, widthFw: 0.003 + 0.006 * chance(), colour: chance() < 0.3 ? '#ffffff' : '#27241e', opacity: chance() < 0.3 ? 0.5 : 1 }
}

/**
 * A ten-fold push-in on a drawn level against the same marks painted straight at ten times the size: the mean difference
 * of a channel over the picture, and over the px that either inks.
 */
function tenfold(): { mean: number; inked: number; octave: number } {
  const [widthPx, heightPx] = [1280, 720]
  const chance = random(3)
  const drawing: Drawing = { marks: Array.from({ length: 400 }, (_, i) => handStroke(chance, `m${i}`, i, 0.05)) }
  const library = new ArtLibrary(widthPx, () => null)
  const stage = createTakeStage(takeOfOneLevel(), { filmBackMm: 36, baseLensMm: 50, aspect: 16 / 9 })
  const rest = untouchedPose(stage.optics)
  const [x, y] = [0.11, -0.04]
  const frame = stage.withPose(0, { ...rest, x, y, depth: rest.depth / 10 })
  const composition = compose(frame, wholeFrame(widthPx, heightPx), library, () => drawing, false)
  const compositor = createCanvasCompositor(new OffscreenCanvas(8, 8))
  compositor.draw(composition, WHITE, 'exact')
  const straight = new OffscreenCanvas(widthPx, heightPx).getContext('2d', { willReadFrequently: true })!
  straight.fillStyle = '#ffffff'
  straight.fillRect(0, 0, widthPx, heightPx)
  paintMarks(straight, drawing.marks, widthPx * 10, x - 0.05, y + 0.05 * (heightPx / widthPx), 0, () => null)
  const [a, b] = [pixelsOf(compositor), straight.getImageData(0, 0, widthPx, heightPx).data]
  let [sum, inkedSum, inkedCount] = [0, 0, 0]
  for (let i = 0; i < a.length; i += 4) {
    const off = (Math.abs(a[i]! - b[i]!) + Math.abs(a[i + 1]! - b[i + 1]!) + Math.abs(a[i + 2]! - b[i + 2]!)) / 3
    sum += off
    if (a[i]! < 250 || b[i]! < 250) {
      inkedSum += off
      inkedCount++
    }
  }
  return { mean: sum / (a.length / 4), inked: inkedSum / inkedCount, octave: Math.log2(composition.levels[0]!.raster.pxPerFw / widthPx) }
}

/**
 * Rasters that followed a run of changes, against ones painted anew: the largest share of px that are off by more than
 * 8/255 (a path's soft edge is not the same to the bit where it is cut), and the largest difference of any channel after
 * runs in which strokes were only put on and taken off.
 */
function followingDiffers(runs: number): { share: number; topmost: number } {
  const chance = random(11)
  let [share, topmost] = [0, 0]
  for (let run = 0; run < runs; run++) {
    const library = new ArtLibrary(600, () => null)
    let marks: Mark[] = Array.from({ length: 12 }, (_, i) => handStroke(chance, `r${run}m${i}`, i, 0.1))
    library.raster('d', { marks }, 0)
    let past: Mark[][] = [marks]
    const onlyTop = run % 2 === 0
    for (let step = 0; step < 14; step++) {
      const which = chance()
      const at = Math.floor(chance() * marks.length)
      const top = 1000 + step
      const fresh = { ...handStroke(chance, `r${run}s${step}`, top, 0.1), mode: (['ink', 'behind', 'ink', 'erase'] as const)[Math.floor(chance() * (onlyTop ? 3 : 4))]! }
      if (which < 0.45 || (onlyTop && (which > 0.8 || past.length === 1))) marks = [...marks, fresh]
      else if ((which < 0.7 || onlyTop) && past.length > 1) {
        past = past.slice(0, -1)
        marks = past.at(-1)!
      } else if (which < 0.85) marks = marks.filter((_, i) => i !== at)
      else marks = marks.map((mark, i) => (i === at ? { ...fresh, id: mark.id, order: mark.order } : mark))
      if (marks !== past.at(-1)) past = [...past, marks]
      const followed = library.raster('d', { marks }, 0)
      const anew = new ArtLibrary(600, () => null).raster('d', { marks }, 0)
      if (followed === null || anew === null) continue
      // The one that followed may have more room around.
      const [dx, dy] = [Math.round((anew.left - followed.left) * 600), Math.round((followed.top - anew.top) * 600)]
      // Over white, as it is seen: what is all but clear has no colour to compare.
      const read = (raster: typeof followed, x: number, y: number) => {
        const { width, height } = anew.canvas
        const context = new OffscreenCanvas(width, height).getContext('2d', { willReadFrequently: true })!
        context.fillStyle = '#ffffff'
        context.fillRect(0, 0, width, height)
        context.drawImage(raster.canvas as CanvasImageSource, -x, -y)
        return context.getImageData(0, 0, width, height).data
      }
      const [a, b] = [read(followed, dx, dy), read(anew, 0, 0)]
      let off = 0
      for (let i = 0; i < a.length; i += 4) if (Math.abs(a[i]! - b[i]!) > 8) off++
      share = Math.max(share, off / (a.length / 4))
      // What was only put on and taken off is the same to the bit.
      if (onlyTop) topmost = Math.max(topmost, largestDifference(a, b))
    }
  }
  return { share, topmost }
}

/**
 * What a backend shows after strokes were put on and taken off, before a turned level that stays as it is, against one that is asked
 * anew: the largest difference.
 */
function follows(backend: 'gl' | 'canvas'): number {
  const chance = random(17)
  const library = new ArtLibrary(640, () => null)
  const take = takeOfOneLevel()
  const wall = { ...take.levels.l!, id: 'wall', order: 'a0', depth: 1.5, panDegrees: 30, tiltDegrees: 12 }
  const onWall = { id: 'wall.p', levelId: 'wall', panelId: 'p', drawingId: 'wall' }
  const stage = createTakeStage({ ...take, levels: { ...take.levels, wall }, cells: { ...take.cells, [onWall.id]: onWall } }, { filmBackMm: 36, baseLensMm: 50, aspect: 16 / 9 })
  let marks: Mark[] = Array.from({ length: 8 }, (_, i) => handStroke(chance, `m${i}`, i, 0.1))
  const still = { marks: Array.from({ length: 30 }, (_, i) => handStroke(chance, `w${i}`, i, 0.2)) }
  const make = () => (backend === 'gl' ? createGlCompositor : createCanvasCompositor)(new OffscreenCanvas(8, 8))
  const following = make()
  let largest = 0
  for (let step = 0; step < 8; step++) {
    const composition = compose(stage.at(0), wholeFrame(640, 360), library, (id) => (id === 'wall' ? still : { marks }), false)
    if (composition.levels.length !== 2 || !composition.turned) throw new Error('follows: not both levels are seen')
    const anew = make()
    following.draw(composition, WHITE, 'exact')
    anew.draw(composition, WHITE, 'exact')
    largest = Math.max(largest, largestDifference(pixelsOf(following), pixelsOf(anew)))
    anew.dispose()
    marks = step % 3 === 2 ? marks.slice(0, -1) : [...marks, handStroke(chance, `s${step}`, 100 + step, 0.04)]
  }
  following.dispose()
  return largest
}

/** ms in its worker to fill an area of a picture 1920 × 1080 with gaps closed, and the longest the page was held up meanwhile. */
async function fillMs(workerUrl: string): Promise<{ ms: number; heldMs: number }> {
  const [widthPx, heightPx] = [1920, 1080]
  const context = new OffscreenCanvas(widthPx, heightPx).getContext('2d', { willReadFrequently: true })!
  const chance = random(9)
  const marks = Array.from({ length: 300 }, (_, i) => ({ ...handStroke(chance, `m${i}`, i, 0.05), colour: '#27241e', opacity: 1 }))
  paintMarks(context, marks, widthPx, -0.5, 0.5 * (heightPx / widthPx), 0, () => null)
  context.lineWidth = 4
  context.strokeRect(60, 60, widthPx - 120, heightPx - 120)
  context.clearRect(900, 50, 10, 20)
  const pixels = context.getImageData(0, 0, widthPx, heightPx).data
  let xPx = 100
  const yPx = 100
  while (pixels[(yPx * widthPx + xPx) * 4 + 3]! > 0) xPx += 5
  const jobs = createJobs<AreaAsk, AreaFound>(() => new Worker(workerUrl, { type: 'module' }))
  let heldMs = 0
  let last = performance.now()
  const beat = setInterval(() => {
    const now = performance.now()
    heldMs = Math.max(heldMs, now - last)
    last = now
  }, 4)
  try {
    const answer = await jobs.run({ kind: 'fill', widthPx, heightPx, pixels: pixels.buffer, xPx, yPx, gapPx: 14, tolerance: 48 }, { transfer: [pixels.buffer] })
    if (answer.kind !== 'found') throw new Error(`fillMs: ${JSON.stringify(answer)}`)
    return { ms: answer.tookMs, heldMs }
  } finally {
    clearInterval(beat)
    jobs.end()
  }
}

/** Median ms to draw a moving frame of shot 040 with the 2D backend, surround and pixels included. */
function drawFrameMs(widthPx: number, heightPx: number, frameWidthPx: number, resampling: Resampling): number {
  const stage = demoStage('take-040-a')
  const library = demoLibrary()
  const compositor = createCanvasCompositor(new OffscreenCanvas(8, 8))
  const box = { widthPx, heightPx, frameWidthPx, frameLeftPx: (widthPx - frameWidthPx) / 2, frameTopPx: (heightPx - frameWidthPx / optics.aspect) / 2 }
  const context = compositor.canvas.getContext('2d') as OffscreenCanvasRenderingContext2D
  const run = () => {
    const times: number[] = []
    for (let frame = 10; frame < 190; frame += 4) {
      const begun = performance.now()
      compositor.draw(compose(stage.at(frame), box, library, (id) => demo.drawings[id] ?? null, false), WHITE, resampling)
      // Reading one pixel makes the canvas finish.
      context.getImageData(0, 0, 1, 1)
      times.push(performance.now() - begun)
    }
    return median(times)
  }
  run()
  return run()
}

/** Frames a second of drawing (with conversion) alone and of encoding alone, at 1280×720. */
async function movieParts(frames: number, still: boolean): Promise<{ drawing: number; encoding: number }> {
  const [widthPx, heightPx] = [1280, 720]
  const stage = demoStage('take-040-a')
  const library = demoLibrary()
  const canvas = new OffscreenCanvas(widthPx, heightPx)
  const compositor = createCanvasCompositor(canvas)
  const context = canvas.getContext('2d') as OffscreenCanvasRenderingContext2D
  const kept: Uint8Array[] = []
  const pace = (stage.lengthFrames - 1) / frames
  const pass = () => {
    const begun = performance.now()
    for (let i = 0; i < frames; i++) {
      const drawn = compositor.draw(demoCompose(stage, still ? 0 : Math.round(i * pace), library, widthPx), WHITE, 'exact')
      if (!drawn && i > 0) continue
      const yuv = new Uint8Array((widthPx * heightPx * 3) / 2)
      i420OfRgba(context.getImageData(0, 0, widthPx, heightPx).data, widthPx, heightPx, yuv)
      kept.push(yuv)
    }
    return frames / ((performance.now() - begun) / 1000)
  }
  // Cold, as the export is: both make every raster on the way.
  const drawing = pass()
  const codec = await chooseVideoCodec(widthPx, heightPx, 24)
  let failure: Error | null = null
  const encoder = new VideoEncoder({ output: () => undefined, error: (error) => (failure = error) })
  encoder.configure({ codec: codec.codecString, width: widthPx, height: heightPx, bitrate: codec.bitrate, framerate: 24, latencyMode: 'quality' })
  const begun = performance.now()
  for (let i = 0; i < frames; i++) {
    const frame = new VideoFrame(kept[Math.min(i, kept.length - 1)]!, {
      format: 'I420',
      codedWidth: widthPx,
      codedHeight: heightPx,
      timestamp: Math.round((i * 1e6) / 24),
      colorSpace: { primaries: 'bt709', transfer: 'bt709', matrix: 'bt709', fullRange: false },
    })
    encoder.encode(frame, { keyFrame: i % 48 === 0 })
    frame.close()
    while (encoder.encodeQueueSize > 4) await new Promise((resolve) => setTimeout(resolve, 1))
  }
  await encoder.flush()
  if (failure !== null) throw failure
  return { drawing, encoding: frames / ((performance.now() - begun) / 1000) }
}

/** Its first panel, of which nothing moves or changes. */
function standingStill(body: TakeBody, frames: number): Partial<TakeBody> {
  const levels = Object.values(body.levels).map((level): [string, Level] => [level.id, { ...level, swing: undefined, bob: undefined, drift: undefined }])
  const cells = Object.entries(body.cells).filter(([, cell]) => cell.panelId === 'p1' && (cell.offsetFrames ?? 0) === 0)
  return { panels: { p1: { ...body.panels.p1!, lengthFrames: frames } }, levels: Object.fromEntries(levels), cells: Object.fromEntries(cells), framings: {}, levelKeys: {}, airKeys: {}, spans: {}, spanEnds: {}, cuts: {} }
}

/** Frames a second of the export itself, in its worker. */
async function movieWhole(workerUrl: string, frames: number, still: boolean): Promise<number> {
  const body = demo.takes['take-040-a']!
  const played = still ? { ...body, ...standingStill(body, frames) } : body
  const jobs = createJobs<MovieRequest, MadeMovie, MovieProgress>(() => new Worker(workerUrl, { type: 'module' }))
  const lengthFrames = takeLengthFrames(played)
  const shot = { placed: { shot: demo.outline.shots['shot-040']!, index: 0, startFrame: 0, lengthFrames }, letter: 'A', body: played }
  const made = await jobs.run({ project, span: { start: 0, end: lengthFrames }, shots: [shot], transitions: [], burnIn: NO_BURN_IN, dress: UNDRESSED, said: { version: '', date: '', who: '' }, lead: 0, fileSpan: { start: 0, end: lengthFrames }, sound: null, drawings: demo.drawings, format: 'webm', size: 1, fileName: 'bench.webm', pictureBase: '/' })
  return made.frames / (made.totalMs / 1000)
}

Object.assign(globalThis, {
  rubato: { airDiffers, airFrameMs, softens, backendsDiffer, turnedDiffer, signaturesTell, changeAtOneToOne, darkestFringe, worstShimmer, tenfold, followingDiffers, follows, fillMs, drawFrameMs, framesScriptMs, glScriptMs, movieParts, movieWhole },
})

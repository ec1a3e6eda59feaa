import { execFileSync } from 'node:child_process'
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { createServer } from 'node:http'
import { cpus, tmpdir } from 'node:os'
import { join } from 'node:path'
import { launchChromium } from './browser.mjs'
import { measureServer, SERVER_PARTS } from './benchServer.mjs'
import { size, SMALL } from './benchSize.mjs'
import { bundle } from './bundle.mjs'
import { machineTaken } from './machineTaken.mjs'
import { ROOT, say } from './shell.mjs'

/** The lens view at 1280×800: its pane, and the frame inside it. */
const VIEW_PX = 690
const PANE_PX = [742, 494]
const CORE_PARTS = ['evaluate', 'compositor']
/** `--only clock,strip`: these alone. */
const at = process.argv.indexOf('--only')
const only = at < 0 ? [...CORE_PARTS, ...SERVER_PARTS] : (process.argv[at + 1] ?? '').split(',')
const unknown = only.filter((name) => !CORE_PARTS.includes(name) && !SERVER_PARTS.includes(name))
if (unknown.length > 0) {
  say(`No benchmark is named ${unknown.join(', ') || 'nothing'}. There are: ${[...CORE_PARTS, ...SERVER_PARTS].join(', ')}.`)
  process.exit(2)
}
/** Of the machine's time, taken by its host while a row was made. */
const WORTH_TELLING = 0.05
const rows = []
const taken = machineTaken()
function hold(name, value, limit, told, atLeast = false) {
  if (!Number.isFinite(value)) throw new Error(`${name}: ${value}`)
  // A figure made while the host gave the machine to others says little.
  const part = taken()
  const detail = part >= WORTH_TELLING ? `${told}; the host took ${Math.round(part * 100)} % of the machine meanwhile` : told
  const ok = atLeast ? value >= limit : value <= limit
  rows.push({ name, value, limit: `${atLeast ? '≥' : '≤'} ${limit}`, detail, ok })
  say(`${SMALL ? 'ran ' : ok ? 'ok  ' : 'MISS'}  ${name}: ${value.toFixed(2)} (${atLeast ? '≥' : '≤'} ${limit}); ${detail}`)
}

async function evaluate() {
  const folder = mkdtempSync(join(tmpdir(), 'rubato-bench-'))
  const run = async (name) => {
    const file = join(folder, `${name}.mjs`)
    writeFileSync(file, await bundle(`bench/${name}.bench.ts`, 'esm'))
    return JSON.parse(execFileSync(process.execPath, [file, ...(SMALL ? ['--small'] : [])]).toString())
  }
  const [stage, camera, levels, cameras] = [await run('stage'), await run('camera'), await run('levels'), await run('cameras')]
  const [edges, needed, planes, cuts] = [await run('edges'), await run('needed'), await run('planes'), await run('cuts')]
  rmSync(folder, { recursive: true, force: true })
  hold('a film’s cut as a timeline, 1,000 shots, written, s', cuts.written / 1000, 2, `${cuts.shots} shots of 10 panels, ${(cuts.bytes / 1e6).toFixed(1)} MB; an edit list ${cuts.listWritten.toFixed(0)} ms`)
  hold('the same, read, s', cuts.read / 1000, 2, `with all of the film in it, checked; an edit list ${cuts.listRead.toFixed(0)} ms`)
  hold('a conform of 1,000 changed shots, previewed, s', cuts.planned / 1000, 2, `${cuts.lines} lines`)
  hold('the same, taken whole, s', cuts.taken / 1000, 10, `${cuts.edits} edits in one step`)
  hold('evaluate a follow, an aim and a hand over 1,000 frames in any order / in order, a frame', cameras.random / cameras.order, 2, `${cameras.random.toFixed(1)} / ${cameras.order.toFixed(1)} µs; the first takes ${cameras.first.toFixed(1)} ms`)
  hold('the slowest frame of them after the first, ms', cameras.worst, 1, 'in any order')
  hold('evaluate a shot of 6 cameras / of one, a frame', cameras.six / cameras.one, 1.2, `${cameras.six.toFixed(1)} / ${cameras.one.toFixed(1)} µs`)
  hold('a minute operated at 120 Hz to framings, s', cameras.fitMs / 1000, 2, `7,201 samples, 1,440 frames to ${cameras.framings} framings, ${cameras.mostPx.toFixed(2)} px off at most at 1920 wide`)
  hold('evaluate 12 levels of 20 keys each / 12 that stand still, a frame', levels.moving / levels.still, 3, `${levels.moving.toFixed(2)} / ${levels.still.toFixed(2)} µs`)
  hold('evaluate a level of 100 keys / of 2, a frame', levels.manyKeys / levels.fewKeys, 1.5, `${levels.manyKeys.toFixed(2)} / ${levels.fewKeys.toFixed(2)} µs`)
  hold('evaluate 100 moving levels / 10, a frame', levels.hundred / levels.ten, 10, `${levels.hundred.toFixed(1)} / ${levels.ten.toFixed(1)} µs`)
  hold('evaluate a moving level shown 100 times / 10 times, each swaying by itself, a frame', levels.hundredTimes / levels.tenTimes, 10, `${levels.hundredTimes.toFixed(1)} / ${levels.tenTimes.toFixed(1)} µs`)
  hold('evaluate 17 moving levels carried 16 deep / each by itself, a frame', levels.sixteenDeep / levels.apart, 2, `${levels.sixteenDeep.toFixed(1)} / ${levels.apart.toFixed(1)} µs`)
  const told = ({ made, walked, parts }) => `${made.toFixed(1)} ms in ${parts} parts, ${walked.toFixed(2)} ms while nothing turns`
  hold('sort and split 40 turned planes that cut each other, ms', planes.some.made, 4, `${told(planes.some)}; heaped so that most cut all others ${told(planes.dense)}`)
  hold('go through them again while nothing turns / sort and split them', planes.some.walked / planes.some.made, 0.2, `${planes.some.walked.toFixed(3)} / ${planes.some.made.toFixed(2)} ms`)
  hold('look for where art ends in 1,000 frames with 12 levels of 200 points each, s', edges.open.ms / 1000, 1.5, `${edges.open.perFrameUs.toFixed(0)} µs a frame and ${edges.open.findMs.toFixed(0)} ms for what is found; with a sky that covers the frame ${(edges.covered.ms / 1000).toFixed(2)} s`)
  hold('what art a set of 12 pieces needs in 100 shots of 96 frames, s', needed.hundred.ms / 1000, 1, `${needed.hundred.gatherMs.toFixed(0)} ms to carry the frames back, ${(needed.hundred.ms - needed.hundred.gatherMs).toFixed(0)} to join them; the quickest of 5, the slowest ${(needed.slowest / 1000).toFixed(2)}`)
  hold('evaluate 100 framings on a bent path / 2 framings, a frame', camera.many / camera.few, 2, `${camera.many.toFixed(2)} / ${camera.few.toFixed(2)} µs; thinning the 100 takes ${camera.thinMs.toFixed(0)} ms`)
  hold('evaluate a frame, 1,000-shot film / 10-shot film', stage.large / stage.small, 1.2, `${stage.large.toFixed(1)} / ${stage.small.toFixed(1)} µs`)
}

async function compositor() {
  const harness = await bundle('bench/harness.ts')
  const workers = await Promise.all(['movie', 'paint', 'encode', 'area'].map(async (name) => [`/${name}.worker.ts`, ['text/javascript', await bundle(`app/workers/${name}.worker.ts`, 'esm')]]))
  const pages = { '/': ['text/html', '<!doctype html><title>bench</title>'], ...Object.fromEntries(workers) }
  const server = createServer((request, response) => {
    const [type, body] = pages[request.url] ?? ['text/plain', '']
    response.writeHead(200, { 'Content-Type': type, 'Cross-Origin-Opener-Policy': 'same-origin', 'Cross-Origin-Embedder-Policy': 'require-corp' }).end(body)
  })
  await new Promise((resolve) => server.listen(0, '127.0.0.1', resolve))
  const address = `http://127.0.0.1:${server.address().port}`
  const browser = await launchChromium({ lean: SMALL })
  try {
    const page = await browser.newPage()
    await page.goto(address)
    await page.addScriptTag({ content: harness })
    const differ = await page.evaluate((px) => rubato.backendsDiffer(px, 'exact'), size(VIEW_PX, 160))
    hold('backends differ at most, /255', Math.max(...Object.values(differ)), 3, Object.entries(differ).map(([take, most]) => `${take} ${most}`).join(', '))
    const cut = await page.evaluate((runs) => rubato.turnedDiffer(runs, 'exact'), size(200, 5))
    hold('backends differ at most over turned levels that cut each other, /255', cut.largest, 3, `${cut.levels} levels in ${cut.parts} parts; ${cut.off} channels by more than 3`)
    const airs = await page.evaluate((runs) => ({ square: rubato.airDiffers(runs, 'exact', true), turned: rubato.airDiffers(runs, 'exact', false) }), size(200, 4))
    for (const [which, most, found] of [['square', 8, airs.square], ['turned', 5, airs.turned]]) hold(`backends differ at most over ${which} levels in haze and soft focus, /255`, found.largest, most, `${found.off} channels by more than 3; ${found.soft} soft and ${found.hazy} hazy levels`)
    const softened = await page.evaluate(() => rubato.softens())
    hold('soft edges against the bell they should be, from 1 px of deviation on, /255', Math.max(...softened.filter(([px]) => px > 1).map(([, off]) => off)), 14, softened.map(([px, off]) => `${px.toFixed(1)} px ${off.toFixed(0)}`).join(', '))
    const frameMs = []
    for (const part of [1, 0.5, 0.25]) frameMs.push([part, await page.evaluate(([px, frames]) => rubato.airFrameMs(px, frames), [1280 * part, size(60, 8)])])
    for (const [part, { clear, haze, both }] of frameMs) hold(`a moving frame of 12 levels with haze and soft focus / with haze, at ${part} of 1280 px`, both / haze, 2.5, `${both.toFixed(1)} / ${haze.toFixed(1)} ms, in clear air ${clear.toFixed(1)}; 2D backend`)
    const script = await page.evaluate(([px, frames]) => rubato.glScriptMs(px, frames), [VIEW_PX, size(240, 12)])
    hold('compositor script a frame, 12 levels / bare three.js', script.ours / script.bare, 1.3, `${script.ours.toFixed(2)} / ${script.bare.toFixed(2)} ms`)
    const frames = await page.evaluate(([px, n]) => rubato.framesScriptMs(px, n), [VIEW_PX, size(240, 8)])
    const part = (name) => `${frames[name].all.toFixed(2)} ms, ${(1000 * frames[name].evaluating).toFixed(0)} µs of it evaluating`
    hold('script a frame, 100 moving levels / 10: evaluated, composed and drawn', frames.hundred.all / frames.ten.all, 10, `${part('hundred')}; ${part('ten')}`)
    hold('the same, a moving level shown 100 times / 10 times', frames.hundredTimes.all / frames.tenTimes.all, 10, `${part('hundredTimes')}; ${part('tenTimes')}`)
    hold('evaluating alone among drawn frames, 12 levels of 20 keys each / 12 that stand still', frames.moving.evaluating / frames.still.evaluating, 3, `${part('moving')}; ${part('still')}`)
    const draw = (resampling) => page.evaluate(([w, h, f, r]) => rubato.drawFrameMs(w, h, f, r), [...PANE_PX, VIEW_PX, resampling])
    const [fast, exact] = [await draw('fast'), await draw('exact')]
    hold('draw a moving frame of shot 040 at the lens view’s size, ms', fast, 42, `median, 2D backend, ${PANE_PX.join(' × ')} px with the surround; at rest, exactly: ${exact.toFixed(1)} ms`)
    const sharp = await page.evaluate(() => rubato.tenfold())
    hold('ten-fold push-in against strokes painted at that size, mean difference /255', sharp.mean, 6, `${sharp.inked.toFixed(2)} over the px that are inked`)
    const fills = []
    for (let round = 0; round < size(5, 1); round++) fills.push(await page.evaluate((url) => rubato.fillMs(url), `${address}/area.worker.ts`))
    fills.sort((a, b) => a.ms - b.ms)
    hold('the page held up while an area is filled, longest, ms', Math.max(...fills.map((fill) => fill.heldMs)), 50, `1920 × 1080 in a worker, gaps of 14 px closed: ${fills[fills.length >> 1].ms.toFixed(0)} ms, the middle of ${fills.length} (${fills[0].ms.toFixed(0)} to ${fills.at(-1).ms.toFixed(0)})`)
    for (const still of size([false, true], [true])) {
      // This machine's pace changes from second to second: the median of rounds, each a ratio of neighbours in time.
      const rounds = []
      for (let round = 0; round < size(3, 1); round++) {
        const parts = await page.evaluate(([s, n]) => rubato.movieParts(n, s), [still, size(still ? 240 : 204, 4)])
        const whole = await page.evaluate(([url, s, n]) => rubato.movieWhole(url, n, s), [`${address}/movie.worker.ts`, still, size(240, 4)])
        const detail = `export ${whole.toFixed(1)}, drawing ${parts.drawing.toFixed(1)}, encoding ${parts.encoding.toFixed(1)} frames/s, 1280×720`
        rounds.push({ ratio: whole / (still ? parts.encoding : Math.min(parts.drawing, parts.encoding)), detail })
      }
      rounds.sort((a, b) => a.ratio - b.ratio)
      const middle = rounds[rounds.length >> 1]
      const detail = `${middle.detail}; the middle of ${rounds.length} rounds, ${rounds[0].ratio.toFixed(2)} to ${rounds.at(-1).ratio.toFixed(2)}`
      if (still) hold('export of a still shot / encoding alone', middle.ratio, 0.6, detail, true)
      else hold('export / the slower of drawing and encoding', middle.ratio, 0.8, detail, true)
    }
  } finally {
    await browser.close()
    server.close()
  }
}

if (only.includes('evaluate')) await evaluate()
if (only.includes('compositor')) await compositor()
await measureServer(hold, only)

const HEAD = ['| measured | value | limit | detail | held |', '| --- | --- | --- | --- | --- |']
const lines = rows.map((row) => `| ${row.name} | ${row.value.toFixed(2)} | ${row.limit} | ${row.detail} | ${row.ok ? 'yes' : 'no'} |`)
const table = [...HEAD, ...lines].join('\n')
if (!SMALL && process.argv.includes('--keep')) {
  const file = join(ROOT, 'docs', 'performance.md')
  const text = readFileSync(file, 'utf8')
  const nameOf = (line) => line.split(' | ')[0]
  const measured = new Map(lines.map((line) => [nameOf(line), line]))
  // Some alone: their rows are made anew, the others stay.
  const before = at < 0 ? [] : (/<!-- table -->([\s\S]*)<!-- \/table -->/.exec(text)?.[1] ?? '').split('\n').filter((line) => line.startsWith('| ') && !HEAD.includes(line))
  const all = [...before.map((line) => measured.get(nameOf(line)) ?? line), ...lines.filter((line) => !before.some((other) => nameOf(other) === nameOf(line)))]
  const made = `${new Date().toISOString().slice(0, 10)}, Node ${process.versions.node}, ${cpus().length} cores, no graphics card, Debian’s Chromium.`
  writeFileSync(file, text.replace(/<!-- table -->[\s\S]*<!-- \/table -->/, () => `<!-- table -->\n${made}\n\n${[...HEAD, ...all].join('\n')}\n<!-- /table -->`))
}
if (!SMALL) say(`\n${table}`)
process.exit(SMALL || rows.every((row) => row.ok) ? 0 : 1)

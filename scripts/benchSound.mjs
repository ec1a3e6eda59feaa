import { execFileSync } from 'node:child_process'
import { mkdtempSync, readFileSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { bestOf, framesMade, openDesk, playTasks, zoomTasks } from './benchPage.mjs'
import { bundle } from './bundle.mjs'
import { longest, watchTasks } from './longTasks.mjs'
import { largestRenderer } from './memory.mjs'

const median = (values) => [...values].sort((a, b) => a - b)[Math.floor(values.length / 2)]
const PLAYED_MS = 60_000
const FPS = 24
/** A page that is held up this long, this often, drops frames. */
const HELD_MS = 130
const HELD_EVERY_MS = 700
const LONG_SECONDS = 600
const DEMO_FRAMES = 664
const LEAST_COMPARED = 600

async function scaleOf(page) {
  const pane = page.locator('[data-test=strip]')
  const box = await pane.boundingBox()
  const [scale, first] = await pane.evaluate((element) => [Number(element.dataset.pxPerFrame), Number(element.dataset.firstFrame)])
  return { box, scale, first }
}

/** A long film with many clips. */
export async function measureClips({ browser, address, films, hold, size }) {
  const film = await films.sound()
  const enough = size(50, Infinity)
  const { page, context } = await openDesk(browser, `${address}/film/${film}?view=desk`, { 'rubato.snap': 'true' })
  await page.keyboard.press('Shift+PageDown')
  await page.keyboard.press('Shift+PageDown')
  await page.keyboard.press('z')
  await page.waitForTimeout(size(6000, 800))
  const head = page.locator('[data-test=lane-head]')
  const dragged = await bestOf(enough, async () => {
    await watchTasks(page)
    for (const lane of [0, 1]) {
      // Shots of 240 frames, a clip in every other; those of the second shot begin at frame 480.
      const { box, scale, first } = await scaleOf(page)
      await head.nth(lane).scrollIntoViewIfNeeded()
      const row = await head.nth(lane).boundingBox()
      const x = box.x + (480 - first) * scale + 60
      await page.mouse.move(x, row.y + row.height * 0.8)
      await page.mouse.down()
      await page.mouse.move(x + 160, row.y + row.height * 0.8, { steps: 60 })
      await page.mouse.up()
      await page.waitForTimeout(size(900, 200))
      await page.keyboard.press('Control+z')
      await page.waitForTimeout(size(900, 200))
    }
    const { most, count } = await longest(page)
    return { value: most, count }
  })
  hold('sound, longest main-thread task while dragging clips of 500 in a 1,000-shot film, ms', dragged.value, 50, `${dragged.count} over 50 ms, two drags of 60 steps and their undo${dragged.told}`)

  const zoomed = await bestOf(enough, () => zoomTasks(page, size(45, 5)))
  hold('sound, longest main-thread task while zooming with 500 clips, ms', zoomed.value, 50, `${zoomed.count} over 50 ms in 135 steps, from a shot to all clips and back${zoomed.told}`)

  await page.getByRole('combobox', { name: 'What playback goes round in' }).selectOption('off')
  const played = await bestOf(enough, () => playTasks(page, size(25_000, 800)))
  hold('sound, longest main-thread task while playing with 500 clips, ms', played.value, 50, `${played.count} over 50 ms in 25 s, all of the film in view; ${played.title}${played.told}`)
  await context.close()
}

/** Notes when each block of sound comes out and which frame is shown when, both on the page's clock. */
const watchClock = (page) =>
  page.evaluate(() => {
    const log = (window.clockLog = { blocks: [], shown: [] })
    const start = AudioBufferSourceNode.prototype.start
    let samples = 0
    AudioBufferSourceNode.prototype.start = function (at = 0, offset = 0) {
      const { context } = this
      const [from, length] = [samples / 48_000, this.buffer.length]
      samples += length
      const due = at - offset
      const note = () => {
        if (context.currentTime < due) return setTimeout(note, 15)
        const stamp = context.getOutputTimestamp()
        log.blocks.push([stamp.performanceTime + (due - stamp.contextTime) * 1000, from])
      }
      note()
      return start.call(this, at, offset)
    }
    const host = document.querySelector('[data-test=lens-host]')
    new MutationObserver(() => log.shown.push([performance.now(), Number(host.dataset.frame)])).observe(host, { attributeFilter: ['data-frame'] })
  })

/** How far each shown frame was from the one that was heard, in frames: 0 while it is that frame's time. */
function apart({ blocks, shown }, lengthFrames) {
  const offs = []
  let from = 0
  for (const [at, frame] of shown) {
    while (from + 1 < blocks.length && blocks[from + 1][0] <= at) from++
    const [began, seconds] = blocks[from]
    const [ended, next] = blocks[from + 1] ?? [began + 1000, seconds + 1]
    // The device may stop for a moment: what is heard goes from the one block's beginning to the next one's.
    const heard = ((seconds + ((at - began) / (ended - began)) * (next - seconds)) * FPS) % lengthFrames
    const off = Math.max(0, frame - heard, heard - (frame + 1))
    // Round the loop's seam.
    offs.push({ frame, at, off: Math.min(off, Math.abs(lengthFrames - off)) })
  }
  return offs
}

/** How far the picture is from the sound that is heard. */
export async function measureClock({ browser, address, films, hold, size }) {
  for (const held of size([false, true], [true])) {
    const best = await bestOf(size(1, Infinity), async () => {
      const { page, context } = await openDesk(browser, `${address}/film/${await films.demo()}?view=desk&shot=030`, { 'rubato.loop': 'film' })
      await page.keyboard.press('Control+Home')
      await page.waitForTimeout(size(2500, 500))
      await watchClock(page)
      if (held) {
        await page.evaluate(([ms, every]) => {
          setInterval(() => {
            const until = performance.now() + ms
            while (performance.now() < until);
          }, every)
        }, [HELD_MS, HELD_EVERY_MS])
      }
      await page.keyboard.press('Space')
      await page.waitForTimeout(size(PLAYED_MS, 4000))
      const { blocks, shown } = await page.evaluate(() => window.clockLog)
      await page.keyboard.press('Space')
      const offs = apart({ blocks, shown: shown.filter(([at]) => at > blocks[1][0] && at < blocks.at(-1)[0]) }, DEMO_FRAMES)
      const title = await page.locator('[data-test=meter]').getAttribute('title')
      await context.close()
      const count = (more) => offs.filter(({ off }) => off > more).length
      const far = offs.filter(({ off }) => off > 0.8).slice(0, 6)
      // Where hardly a frame could be compared, nothing has been measured: as far apart as can be.
      return { value: offs.length < size(LEAST_COMPARED, 10) ? DEMO_FRAMES : Math.max(...offs.map(({ off }) => off)), detail: `${offs.length} frames shown, ${count(0.5)} more than half a frame off, ${count(1)} more than one${far.length === 0 ? '' : ` (of the film ${far.map(({ frame, at, off }) => `${frame} by ${off.toFixed(1)} after ${((at - shown[0][0]) / 1000).toFixed(1)} s`).join(', ')})`}; ${title}` }
    })
    hold(`sound to picture for a minute${held ? ', the page held up' : ''}, frames apart at most`, best.value, 1, `${best.detail}${held ? `; held up ${HELD_MS} ms every ${HELD_EVERY_MS}` : ''}${best.told}`)
  }
}

/** Ten minutes of sound brought in. */
export async function measureRecording({ browser, address, films, hold, size }) {
  const seconds = size(LONG_SECONDS, 20)
  const folder = mkdtempSync(join(tmpdir(), 'rubato-long-sound-'))
  try {
    const file = join(folder, 'Ten minutes.mp3')
    execFileSync('ffmpeg', ['-v', 'error', '-f', 'lavfi', '-i', `aevalsrc=0.4*sin(2*PI*(220+40*sin(t))*t)*abs(sin(t*1.3))|0.3*sin(2*PI*330*t):s=44100:d=${seconds}`, '-c:a', 'libmp3lame', '-b:a', '192k', file])
    const { page, context } = await openDesk(browser, `${address}/film/${await films.small()}?view=desk`)
    const worker = await bundle('app/workers/peaks.worker.ts', 'esm')
    const bytes = readFileSync(file).toString('base64')
    const rounds = []
    const round = (bare) =>
      page.evaluate(
        async ([source, data, only]) => {
          const url = URL.createObjectURL(new Blob([source], { type: 'text/javascript' }))
          const made = new Worker(url, { type: 'module' })
          const sound = new Blob([Uint8Array.from(atob(data), (letter) => letter.charCodeAt(0))])
          const ms = await new Promise((resolve, reject) => {
            made.onmessage = ({ data: answer }) => (answer.kind === 'done' ? resolve(answer.result.tookMs) : answer.kind === 'failed' ? reject(new Error(answer.what)) : null)
            made.postMessage({ number: 1, ask: { source: sound, bare: only } })
          })
          made.terminate()
          return ms
        },
        [worker, bytes, bare],
      )
    for (let i = 0; i < size(5, 1); i++) rounds.push({ bare: await round(true), whole: await round(false) })
    const bare = median(rounds.map((each) => each.bare))
    const extra = median(rounds.map((each) => Math.max(0, each.whole - each.bare)))
    hold('peaks of a ten-minute stereo file / its bare decode', extra / bare, 0.5, `decode ${bare.toFixed(0)} ms, with peaks ${(bare + extra).toFixed(0)} ms, MP3, medians of five pairs in the worker`)
    await context.close()

    // A tab that has been worked in: the demo has been played with its sound.
    const again = await openDesk(browser, `${address}/film/${await films.demo()}?view=desk`)
    await again.page.keyboard.press('Space')
    await again.page.waitForTimeout(size(20_000, 800))
    await again.page.keyboard.press('Space')
    if (size(true, false)) await framesMade(again.page)
    const settled = async () => {
      let least = Infinity
      for (let waited = 0; waited < size(8, 1); waited++) {
        await again.page.waitForTimeout(size(1500, 100))
        // It collects the garbage of the page and of its workers before it counts.
        if (size(true, false)) await again.page.evaluate(() => performance.measureUserAgentSpecificMemory())
        least = Math.min(least, await largestRenderer(browser))
      }
      return least
    }
    const before = await settled()
    await watchTasks(again.page)
    const chooser = again.page.waitForEvent('filechooser')
    await again.page.getByRole('button', { name: 'Sound…' }).click()
    await (await chooser).setFiles(file)
    await again.page.waitForSelector('[data-test=clip-panel]', { timeout: 120_000 })
    const { most } = await longest(again.page)
    const after = await settled()
    hold('memory of the tab after bringing ten minutes in, MB more', after - before, 30, `from ${before.toFixed(0)} to ${after.toFixed(0)} MB; longest main-thread task meanwhile ${most.toFixed(0)} ms`)
    await again.context.close()
  } finally {
    rmSync(folder, { recursive: true, force: true })
  }
}

/** The demo's movie with its sound and without. */
export async function measureExport({ browser, address, films, hold, size }) {
  const { page, context } = await openDesk(browser, `${address}/film/${await films.demo()}?view=desk&shot=030`)
  const make = async (sound) => {
    await page.getByRole('button', { name: 'Hand over…' }).click()
    const dialog = page.getByRole('dialog')
    await dialog.getByRole('combobox', { name: 'What' }).click()
    await page.getByRole('option', { name: size('Whole film', /^Shot /) }).click()
    if (size(false, true)) {
      await dialog.getByRole('combobox', { name: 'Size' }).click()
      await page.getByRole('option', { name: '320 × 180' }).click()
    }
    await dialog.getByRole('checkbox', { name: /the film’s, mixed/ }).setChecked(sound)
    const begun = performance.now()
    const download = page.waitForEvent('download', { timeout: 300_000 })
    await dialog.getByRole('button', { name: 'Make it' }).click()
    await download
    const seconds = (performance.now() - begun) / 1000
    await dialog.getByRole('button', { name: 'Close' }).first().click()
    return DEMO_FRAMES / seconds
  }
  if (size(true, false)) await make(true)
  const rounds = []
  for (let i = 0; i < size(4, 1); i++) {
    // Neighbours in time, each first as often: the machine's pace changes.
    const order = i % 2 === 0 ? [true, false] : [false, true]
    const found = {}
    for (const sound of order) found[sound] = await make(sound)
    rounds.push({ ratio: found.true / found.false, detail: `${found.true.toFixed(1)} / ${found.false.toFixed(1)} frames/s` })
  }
  rounds.sort((a, b) => a.ratio - b.ratio)
  const middle = rounds.slice((rounds.length - 1) >> 1, (rounds.length >> 1) + 1)
  hold('export with sound / without', middle.reduce((sum, each) => sum + each.ratio, 0) / middle.length, 0.95, `${middle.at(-1).detail}; the middle of ${rounds.length} rounds, ${rounds[0].ratio.toFixed(2)} to ${rounds.at(-1).ratio.toFixed(2)}`, true)
  await context.close()
}

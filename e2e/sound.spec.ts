import { execFileSync } from 'node:child_process'
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import type { Page } from '@playwright/test'
import type { Clip } from '@rubato/core/document'
import { removeShot } from '@rubato/core/edits'
import { address, Desk, expect, test } from './desk'
import { framesOf, onlyFormat, onsets, soundOf } from './exporting'
import { addClips, addLane, change, claps, clip, flashFilm, lane, outlineOf, putTransition, tones, transition, twoShots, uploadSound, wav } from './soundFilm'

test.use({ permissions: ['microphone'] })

const clipsOf = async (projectId: string): Promise<Clip[]> => Object.values((await outlineOf(projectId)).clips).sort((a, b) => a.offsetFrames - b.offsetFrames)
const ffmpeg = (...args: string[]) => execFileSync('ffmpeg', ['-v', 'error', '-y', ...args])

/** Two shots with a recording of two seconds over the first, tied to it. */
async function withClip(fields: Partial<Clip> = {}, wave = tones([[0.8, 0.5], [0.4, 0], [0.8, 0.5]])) {
  const film = await twoShots()
  const recording = await uploadSound(wav(wave, 24_000))
  await change(film.projectId, (f) => addLane(f.outline, film.projectId, lane('Voices')), (f) => addLane(f.outline, film.projectId, lane('Effects', 'effects')), (f) => addClips(f.outline, film.projectId, [clip('c', 'Voices', recording, { shotId: film.firstId, ...fields })]))
  return film
}

async function handOver(page: Page, choose: { what?: string; format?: string; burn?: readonly string[] } = {}) {
  await page.getByRole('button', { name: 'Hand over…' }).click()
  const dialog = page.getByRole('dialog')
  await dialog.getByRole('combobox', { name: 'What' }).click()
  await page.getByRole('option', { name: choose.what ?? 'Whole film' }).click()
  await onlyFormat(dialog, choose.format ?? 'Movie (WebM)')
  for (const name of choose.burn ?? []) await dialog.getByLabel(name, { exact: true }).check()
  const download = page.waitForEvent('download', { timeout: 150_000 })
  await dialog.getByRole('button', { name: 'Make it' }).click()
  const path = (await (await download).path())!
  await dialog.getByRole('button', { name: 'Close' }).first().click()
  return path
}

test('recordings of every kind, rate and number of channels come in, and what is none is refused by name', async ({ page }) => {
  const folder = mkdtempSync(join(tmpdir(), 'rubato-sounds-'))
  try {
    const source = join(folder, 'source.wav')
    writeFileSync(source, wav(tones([[1, 0.5]], 48_000)))
    const kinds = [['a 16.wav', '-ar', '44100', '-ac', '2'], ['b 24.wav', '-ar', '96000', '-c:a', 'pcm_s24le'], ['c.flac', '-ar', '32000', '-ac', '1'], ['d.ogg', '-c:a', 'libvorbis', '-ac', '2'], ['e.opus', '-c:a', 'libopus'], ['f.mp3', '-ar', '22050', '-c:a', 'libmp3lame']] as const
    for (const [name, ...args] of kinds) ffmpeg('-i', source, ...args, join(folder, name))
    writeFileSync(join(folder, 'empty.wav'), '')
    writeFileSync(join(folder, 'no sound.mp3'), 'this is a letter, not a sound')
    const cut = readFileSync(join(folder, 'c.flac')).subarray(0, 60)
    writeFileSync(join(folder, 'cut.flac'), cut)
    const film = await twoShots()
    const desk = new Desk(page)
    await desk.open(film.projectId)
    await expect(page.getByText('No sound yet')).toBeVisible()
    const chooser = page.waitForEvent('filechooser')
    await page.getByRole('button', { name: 'Sound…' }).click()
    await (await chooser).setFiles([...kinds.map(([name]) => join(folder, name)), join(folder, 'empty.wav'), join(folder, 'no sound.mp3'), join(folder, 'cut.flac')])
    const toast = page.getByRole('alert')
    await expect(toast).toContainText('“empty.wav” was not brought in. The file is empty.', { timeout: 60_000 })
    await expect(toast).toContainText('“no sound.mp3” was not brought in')
    await expect(toast).toContainText('“cut.flac” was not brought in')
    await desk.savedNow()
    const clips = await clipsOf(film.projectId)
    expect(clips.map((each) => each.name).sort()).toEqual(['a 16', 'b 24', 'c', 'd', 'e', 'f'])
    for (const each of clips) expect(Math.abs(each.sourceSeconds - 1)).toBeLessThan(0.12)
    expect(await page.getByTestId('lane-head').count()).toBe(1)
    await page.getByRole('button', { name: 'Undo' }).click()
    await desk.savedNow()
    expect(await clipsOf(film.projectId)).toHaveLength(5)
  } finally {
    rmSync(folder, { recursive: true, force: true })
  }
})

test('clips are moved, trimmed and pulled out again, split, slipped, faded, copied and taken out', async ({ page }) => {
  // Room for both lanes under the panels.
  await page.setViewportSize({ width: 1280, height: 1000 })
  const film = await withClip()
  const desk = new Desk(page)
  await desk.open(film.projectId)
  const drag = async (from: number, to: number, fromLane = 0, toLane = fromLane, held?: 'Alt') => {
    if (held) await page.keyboard.down(held)
    await desk.drag(await desk.lane(from, fromLane), await desk.lane(to, toLane))
    if (held) await page.keyboard.up(held)
    await desk.savedNow()
  }
  const only = async () => (await clipsOf(film.projectId))[0]!
  await page.getByRole('button', { name: 'snap' }).click()
  await drag(10, 20)
  expect((await only()).offsetFrames).toBeCloseTo(10, 0)
  await drag(20, 20, 0, 1)
  expect((await only()).laneId).toBe('Effects')
  await drag(20, 20, 1, 0)
  // Trimmed at its start by about ten frames, and pulled out all the way.
  const placed = (await only()).offsetFrames
  await drag(placed + 0.2, placed + 10, 0)
  const trimmed = await only()
  expect(trimmed.fromSeconds).toBeCloseTo(10 / 24, 1)
  expect(trimmed.offsetFrames - trimmed.fromSeconds * 24).toBeCloseTo(placed, 5)
  await drag(trimmed.offsetFrames + 0.2, trimmed.offsetFrames - 40, 0)
  expect(await only()).toMatchObject({ fromSeconds: 0, offsetFrames: expect.closeTo(placed, 6), lengthSeconds: expect.closeTo(2, 6) })
  await drag(placed + 47.8, placed + 30, 0)
  expect((await only()).lengthSeconds).toBeCloseTo(30 / 24, 1)
  await drag(placed + 15, placed + 9, 0, 0, 'Alt')
  expect((await only()).fromSeconds).toBeCloseTo(6 / 24, 1)
  await page.getByTestId('clip-fadeInSeconds').locator('input').fill('0.25')
  await page.getByTestId('clip-fadeInSeconds').locator('input').press('Enter')
  await desk.savedNow()
  expect((await only()).fadeInSeconds).toBe(0.25)
  await desk.goTo(24)
  await page.keyboard.press('y')
  await desk.savedNow()
  const parts = await clipsOf(film.projectId)
  expect(parts.map((each) => each.fadeInSeconds)).toEqual([0.25, 0])
  expect(parts[1]!.offsetFrames).toBeCloseTo(24, 6)
  await page.keyboard.press('Shift+N')
  await desk.savedNow()
  expect(await clipsOf(film.projectId)).toHaveLength(3)
  await page.keyboard.press('Delete')
  await desk.savedNow()
  expect(await clipsOf(film.projectId)).toHaveLength(2)
  await page.keyboard.press('Control+z')
  await page.keyboard.press('Control+z')
  await page.keyboard.press('Control+z')
  await desk.savedNow()
  expect(await clipsOf(film.projectId)).toHaveLength(1)
})

test('a clip keeps its place in its shot, waits in the tray while that is gone, and can be tied elsewhere', async ({ page }) => {
  const film = await withClip({ offsetFrames: 4 })
  await change(film.projectId, (f) => addClips(f.outline, film.projectId, [{ ...f.outline.clips.c!, id: 'd', shotId: film.secondId, name: 'bell' }]))
  const desk = new Desk(page)
  await desk.open(film.projectId)
  // The first shot ten frames longer: the second's clip goes along, and is found ten frames on.
  await desk.goTo(0)
  await desk.setPanelLength(34)
  await desk.savedNow()
  await page.mouse.click(...Object.values(await desk.lane(58 + 8, 0)) as [number, number])
  await expect(page.getByTestId('clip-panel')).toContainText('bell')
  await page.getByRole('combobox', { name: 'What the clip is tied to' }).selectOption('')
  await desk.savedNow()
  expect((await outlineOf(film.projectId)).clips.d).toMatchObject({ shotId: null, offsetFrames: 62 })
  // Undo is heard in the list that was chosen from, and on the panel's buttons.
  await page.keyboard.press('Control+z')
  await expect(page.getByRole('combobox', { name: 'What the clip is tied to' })).toHaveValue(film.secondId)
  await page.keyboard.press('Control+Shift+z')
  await page.getByTestId('clip-panel').getByRole('button', { name: 'Duplicate' }).click()
  await desk.savedNow()
  expect(await clipsOf(film.projectId)).toHaveLength(3)
  await page.keyboard.press('Control+z')
  await desk.savedNow()
  expect(await clipsOf(film.projectId)).toHaveLength(2)
  await page.mouse.click(...Object.values(await desk.lane(58 + 8, 0)) as [number, number])
  await page.getByRole('combobox', { name: 'What the clip is tied to' }).selectOption(film.secondId)
  await desk.savedNow()
  expect((await outlineOf(film.projectId)).clips.d).toMatchObject({ shotId: film.secondId, offsetFrames: 4 })

  await change(film.projectId, (f) => removeShot(f.outline, film.projectId, film.secondId))
  await expect(page.getByTestId('tray')).toHaveText('Tray 1')
  await page.getByTestId('tray').click()
  await expect(page.getByTestId('tray-clip')).toContainText('bell')
  await page.getByTestId('tray-clip').getByRole('button', { name: 'Here' }).click()
  await desk.savedNow()
  expect((await outlineOf(film.projectId)).clips.d!.shotId).toBe(film.firstId)
})

test('a line is said by a made-up voice under its panel, and the panel lasts as long as the line', async ({ page }) => {
  const film = await twoShots()
  const desk = new Desk(page)
  await desk.open(film.projectId)
  await desk.goTo(30)
  await page.getByPlaceholder('NAME: what is said').fill('TILDA: Brisket, the oil!')
  await page.getByPlaceholder('What happens').click()
  await page.getByRole('button', { name: 'Scratch line…' }).click()
  const dialog = page.getByRole('dialog')
  await expect(dialog.getByLabel('Who speaks')).toHaveValue('TILDA')
  await expect(dialog.getByLabel('What is said')).toHaveValue('Brisket, the oil!')
  await dialog.getByRole('button', { name: 'Put under panel' }).click()
  await expect(dialog).toBeHidden()
  await desk.savedNow()
  const [said] = await clipsOf(film.projectId)
  expect(said).toMatchObject({ speaker: 'TILDA', line: 'Brisket, the oil!', offsetFrames: 24, panelId: 'p2', shotId: film.firstId })
  await page.getByRole('button', { name: 'Panel to line' }).click()
  await desk.savedNow()
  const frames = Math.ceil(said!.lengthSeconds * 24 - 1e-6) + 6 + 8
  await expect(page.getByTestId('panel-length').locator('input')).toHaveValue(String(frames))
  expect((await clipsOf(film.projectId))[0]!.offsetFrames).toBe(30)
  await page.getByRole('button', { name: 'Place under panel' }).click()
  await desk.savedNow()
  expect((await clipsOf(film.projectId))[0]!.offsetFrames).toBe(24)
})

test('the simulated microphone is recorded while the film plays', async ({ page }) => {
  const film = await twoShots()
  const desk = new Desk(page)
  await desk.open(film.projectId)
  await desk.goTo(12)
  await page.getByRole('button', { name: 'Scratch line…' }).click()
  const dialog = page.getByRole('dialog')
  await dialog.getByRole('button', { name: 'Microphone' }).click()
  await dialog.getByLabel('Who speaks').fill('OSKAR')
  await dialog.getByLabel('What is said').fill('Mind the lamp.')
  await dialog.getByLabel('Microphone', { exact: true }).selectOption({ label: 'Simulated microphone' })
  await dialog.getByRole('button', { name: 'Record' }).click()
  await page.waitForTimeout(1600)
  await dialog.getByRole('button', { name: 'Stop and keep' }).click()
  await expect(dialog).toBeHidden({ timeout: 15_000 })
  await desk.savedNow()
  const [recorded] = await clipsOf(film.projectId)
  expect(recorded).toMatchObject({ speaker: 'OSKAR', line: 'Mind the lamp.', offsetFrames: 12 })
  expect(recorded!.lengthSeconds).toBeGreaterThan(1)
  // What was heard is the line, after a breath.
  const bytes = await page.request.get(`${address()}/api/sounds/${recorded!.assetHash}`)
  const folder = mkdtempSync(join(tmpdir(), 'rubato-recorded-'))
  writeFileSync(join(folder, 'line.wav'), await bytes.body())
  const loud = onsets(soundOf(join(folder, 'line.wav')), 0.02)
  rmSync(folder, { recursive: true, force: true })
  expect(loud[0]!).toBeGreaterThan(0.1)
  expect(loud[0]!).toBeLessThan(0.6)
})

test('pauses of a long recording are proposed as splits, and taken or left one by one', async ({ page }) => {
  const film = await withClip({}, tones([[0.5, 0.5], [0.5, 0], [0.5, 0.5], [0.5, 0], [0.5, 0.5], [0.5, 0], [0.5, 0.5]]))
  const desk = new Desk(page)
  await desk.open(film.projectId)
  await page.mouse.click(...Object.values(await desk.lane(4, 0)) as [number, number])
  await page.getByRole('button', { name: 'Find pauses' }).click()
  const bar = page.getByTestId('splits')
  await expect(bar).toContainText('the first of 3 pauses')
  await bar.getByRole('button', { name: 'Split', exact: true }).click()
  await expect(bar).toContainText('the first of 2 pauses')
  await bar.getByRole('button', { name: 'Leave' }).click()
  await bar.getByRole('button', { name: 'Split', exact: true }).click()
  await expect(bar).toBeHidden()
  await desk.savedNow()
  const parts = await clipsOf(film.projectId)
  expect(parts).toHaveLength(3)
  parts.forEach((each, i) => expect(each.lengthSeconds).toBeCloseTo([0.75, 2, 0.75][i]!, 1))
})

test('the sound’s clock drives the picture: a flash is shown when its clap is heard', async ({ page }) => {
  const film = await flashFilm([24, 1, 23, 1, 23, 1, 23])
  await change(film.projectId, (f) => addLane(f.outline, film.projectId, lane('Effects', 'effects')))
  const recording = await uploadSound(wav(claps(4, [1, 2, 3])))
  await change(film.projectId, (f) => addClips(f.outline, film.projectId, [clip('c', 'Effects', recording)]))
  const desk = new Desk(page)
  await desk.open(film.projectId)
  await page.getByRole('combobox', { name: 'What playback goes round in' }).selectOption('off')
  await desk.goTo(0)
  await page.waitForTimeout(1500)
  await page.evaluate(() => {
    const log = ((window as never as { log: object }).log = { heard: [] as number[], shown: [] as [number, number][] })
    const start = AudioBufferSourceNode.prototype.start
    AudioBufferSourceNode.prototype.start = function (this: AudioBufferSourceNode, at = 0, offset = 0) {
      const wave = this.buffer!.getChannelData(0)
      const context = this.context as AudioContext
      for (let i = Math.ceil(offset * 48_000), quiet = 9999; i < wave.length; i++, quiet++) {
        if (Math.abs(wave[i]!) < 0.2) continue
        if (quiet > 2000) {
          const due = at + i / 48_000 - offset
          // When that sample comes out, on the page's clock.
          const note = () => {
            const stamp = context.getOutputTimestamp()
            if (context.currentTime < due) return void setTimeout(note, 20)
            log.heard.push(stamp.performanceTime! + (due - stamp.contextTime!) * 1000)
          }
          note()
        }
        quiet = 0
      }
      return start.call(this, at, offset)
    }
    const host = document.querySelector<HTMLElement>('[data-test=lens-host]')!
    new MutationObserver(() => log.shown.push([performance.now(), Number(host.dataset.frame)])).observe(host, { attributeFilter: ['data-frame'] })
  })
  await page.keyboard.press('Space')
  await page.waitForTimeout(4800)
  const { heard, shown } = await page.evaluate(() => (window as never as { log: { heard: number[]; shown: [number, number][] } }).log)
  expect(heard).toHaveLength(3)
  const apart = heard.map((at, i) => Math.abs(shown.find(([, number]) => number >= (i + 1) * 24)![0] - at)).sort((a, b) => a - b)
  // A frame's time, and two refreshes of the screen. Of three, as what else the machine does may hold one picture up.
  expect(apart[1]).toBeLessThan(1000 / 24 + 34)
})

test('a movie of three minutes has picture and sound together at its start, middle and end', async ({ page }) => {
  test.setTimeout(240_000)
  const flashes = [24, 2160, 4300]
  const film = await flashFilm([24, 1, 2135, 1, 2139, 1, 19], 160, 90)
  const recording = await uploadSound(wav(claps(180, flashes.map((frame) => frame / 24), 16_000), 16_000))
  await change(film.projectId, (f) => addLane(f.outline, film.projectId, lane('Effects', 'effects')), (f) => addClips(f.outline, film.projectId, [clip('c', 'Effects', recording)]))
  await new Desk(page).open(film.projectId)
  const path = await handOver(page)
  const heard = onsets(soundOf(path))
  const frames = framesOf(path)
  const seen = frames.filter((frame, i) => frame.grey < 60 && (frames[i - 1]?.grey ?? 255) >= 60).map((frame) => frame.at)
  expect(frames).toHaveLength(4320)
  expect(seen).toHaveLength(3)
  expect(heard).toHaveLength(3)
  seen.forEach((at, i) => {
    expect(Math.abs(at - flashes[i]! / 24)).toBeLessThan(0.002)
    expect(Math.abs(heard[i]! - at)).toBeLessThan(0.5 / 24)
  })
})

test('the sound alone is a WAV of the span, clips, gains and lanes as they are heard', async ({ page }) => {
  const film = await withClip({ offsetFrames: 12 }, claps(2, [0.5], 24_000, 30))
  const desk = new Desk(page)
  await desk.open(film.projectId)
  const first = soundOf(await handOver(page, { format: 'Sound alone (WAV)' }))
  expect(first.length).toBe(96 * 2000)
  expect(onsets(first)[0]).toBeCloseTo(1, 3)
  await page.getByRole('button', { name: 'Mute Voices', exact: true }).click()
  await desk.savedNow()
  const muted = soundOf(await handOver(page, { format: 'Sound alone (WAV)' }))
  expect(muted.every((value) => value === 0)).toBe(true)
  await page.getByRole('button', { name: 'Mute Voices', exact: true }).click()
  const span = soundOf(await handOver(page, { what: 'Shot 010', format: 'Sound alone (WAV)' }))
  expect(span.length).toBe(48 * 2000)
})

test('transitions mix both shots in the lens, in playback’s frames and in the movie, and move nothing', async ({ page }) => {
  const film = await twoShots()
  const desk = new Desk(page)
  await desk.open(film.projectId)
  await desk.goTo(47)
  await page.keyboard.press('Shift+C')
  const panel = page.getByTestId('transition-panel')
  await expect(panel).toContainText('010 → 020')
  const length = panel.getByTestId('transition-length').locator('input')
  await expect(length).toHaveValue('12')
  await length.fill('200')
  await length.press('Enter')
  await expect(page.getByRole('alert')).toContainText('have room for')
  await length.fill('11')
  await length.press('Enter')
  await desk.savedNow()
  expect((await outlineOf(film.projectId)).transitions[film.secondId]).toMatchObject({ kind: 'dissolve', lengthFrames: 11, place: 'centre' })
  // Frame 48 is the middle of 43 … 53: half of each.
  await desk.goTo(0)
  await page.mouse.click(...Object.values(await desk.strip(48.4, 'ruler')) as [number, number])
  const half = [0xc2 + 0x2e, 0x45 + 0x7a, 0x2d + 0x68].map((sum) => Math.round(sum / 2))
  await expect.poll(async () => Math.max(...(await desk.pixel(0, 0)).slice(0, 3).map((value, i) => Math.abs(value - half[i]!)))).toBeLessThan(3)
  const path = await handOver(page)
  const frame = (number: number, x: number) => [...execFileSync('ffmpeg', ['-v', 'error', '-i', path, '-vf', `select=eq(n\\,${number}),format=rgb24,crop=2:2:${x}:100`, '-frames:v', '1', '-f', 'rawvideo', '-']).subarray(0, 3)]
  for (const [number, colour] of [[40, [0xc2, 0x45, 0x2d]], [48, half], [56, [0x2e, 0x7a, 0x68]]] as const) frame(number, 200).forEach((value, i) => expect(Math.abs(value - colour[i]!)).toBeLessThanOrEqual(5))
  expect(framesOf(path)).toHaveLength(96)

  await page.mouse.click(...Object.values(await desk.strip(50.5, 'shots')) as [number, number])
  await panel.getByRole('button', { name: 'Wipe' }).click()
  await expect.poll(async () => (await desk.pixel(-0.4, 0))[0]).toBeLessThan(80)
  expect((await desk.pixel(0.4, 0))[0]).toBeGreaterThan(150)
  await panel.getByRole('button', { name: 'Colour' }).click()
  await expect.poll(async () => Math.max(...(await desk.pixel(0, 0)).slice(0, 3))).toBeLessThan(10)
  await panel.getByRole('button', { name: 'Delete' }).click()
  await expect.poll(async () => (await desk.pixel(0, 0))[0]).toBe(0x2e)
})

test('a film fades out of a colour and into one, and its transitions’ lengths are dragged', async ({ page }) => {
  const film = await twoShots()
  await change(film.projectId, (f) => putTransition(f.outline, film.projectId, transition('film-start', { at: 'start', kind: 'colour', lengthFrames: 10 }), 40), (f) => putTransition(f.outline, film.projectId, transition('film-end', { at: 'end', kind: 'colour', lengthFrames: 10 }), 40))
  const desk = new Desk(page)
  await desk.open(film.projectId)
  await expect.poll(async () => Math.max(...(await desk.pixel(0, 0)).slice(0, 3))).toBe(0)
  await desk.goTo(10)
  await expect.poll(async () => (await desk.pixel(0, 0))[0]).toBe(0xc2)
  await page.getByRole('button', { name: 'snap' }).click()
  await desk.drag(await desk.strip(10, 'shots'), await desk.strip(20, 'shots'))
  await desk.savedNow()
  const { transitions } = await outlineOf(film.projectId)
  expect(Math.abs(transitions['film-start']!.lengthFrames - 20)).toBeLessThanOrEqual(1)
  expect(transitions['film-end']!.lengthFrames).toBe(10)
  const grey = framesOf(await handOver(page)).map((frame) => frame.grey)
  expect(grey[0]!).toBeLessThan(25)
  expect(grey.at(-1)!).toBeLessThan(25)
  expect(grey[30]!).toBeGreaterThan(70)
})

test('timecode, labels and captions are written into the picture where they are wanted', async ({ page }) => {
  const film = await twoShots()
  const desk = new Desk(page)
  await desk.open(film.projectId)
  await page.getByPlaceholder('NAME: what is said').fill('TILDA: It’s going out!')
  await page.getByPlaceholder('What happens').click()
  await desk.savedNow()
  const plain = await handOver(page, { what: 'Shot 010' })
  const burnt = await handOver(page, { what: 'Shot 010', burn: ['timecode', 'shot', 'panel', 'captions'] })
  const crop = (path: string, area: string) => execFileSync('ffmpeg', ['-v', 'error', '-i', path, '-vf', `select=eq(n\\,5),format=gray,crop=${area}`, '-frames:v', '1', '-f', 'rawvideo', '-'])
  const differ = (area: string) => {
    const [a, b] = [crop(plain, area), crop(burnt, area)]
    return a.reduce((most, value, i) => Math.max(most, Math.abs(value - b[i]!)), 0)
  }
  for (const area of ['120:16:4:250', '120:16:356:250', '160:20:160:225']) expect(differ(area)).toBeGreaterThan(60)
  expect(differ('480:150:0:0')).toBeLessThan(30)
})

import { EMPTY_TAKE, FORMAT_VERSION, cellIdOf, newLevel, SET_SHOWN, type Drawing, type Outline, type TakeBody, orderOfNumber } from '@rubato/core/document'
import { createHash } from 'node:crypto'
import { wavFile } from '@rubato/core/interchange'
import { strToU8, zipSync } from 'fflate'

const PANELS = 10
const STROKES = 6

/**
 * A film of `shots` shots with ten panels each, three levels, a drawing of its own in every panel: as an archive to take
 * in. With `clips` there are as many of sound, in four lanes, of five recordings; with `sets` every shot stands in one of them: the first
 * hundred in the first, one alone in the second.
 */
export function longFilmArchive(shots: number, clips = 0, sets = 0): Uint8Array {
  const project = { id: 'long', title: `${shots} shots`, rate: { numerator: 24, denominator: 1 }, widthPx: 1280, heightPx: 720, filmBackMm: 36, baseLensMm: 50, defaultPanelFrames: 24 }
  const perSequence = 20
  const outline = {
    project: { long: project },
    sequences: Object.fromEntries(Array.from({ length: Math.ceil(shots / perSequence) }, (_, i) => [`q${i}`, { id: `q${i}`, order: orderOfNumber(i), label: String(i + 1).padStart(2, '0'), title: `Sequence ${i + 1}`, targetFrames: null }])),
    shots: {} as Record<string, object>,
    takes: {} as Record<string, object>,
  }
  const files: Record<string, Uint8Array> = { 'rubato.json': json({ format: 'rubato', version: 1, documentVersion: FORMAT_VERSION, title: project.title, madeAt: new Date().toISOString() }) }
  let seed = 11
  const random = () => (seed = (Math.imul(seed, 1664525) + 1013904223) >>> 0) / 2 ** 32
  for (let s = 0; s < shots; s++) {
    outline.shots[`s${s}`] = { id: `s${s}`, sequenceId: `q${Math.floor(s / perSequence)}`, order: orderOfNumber(s), label: String((s + 1) * 10).padStart(3, '0'), title: '', circledTakeId: `t${s}` }
    outline.takes[`t${s}`] = { id: `t${s}`, shotId: `s${s}`, order: 'a1', letter: 'A' }
    const levels = ['sky', 'ground', 'figure'].map((id, i) => ({ id, order: orderOfNumber(i + 1), name: id, kind: 'drawn', x: 0, y: 0, depth: 4 - i * 2, scale: 1, panDegrees: 0, tiltDegrees: 0, rollDegrees: 0, opacity: 1, visible: true, locked: false }))
    const panels = Array.from({ length: PANELS }, (_, p) => ({ id: `p${p}`, order: orderOfNumber(p), lengthFrames: 24, lengthLocked: false, action: `Shot ${s + 1}, panel ${p + 1}.`, dialogue: '', notes: '' }))
    const cells: { id: string; levelId: string; panelId: string; drawingId: string }[] = []
    const draw = (drawingId: string, levelId: string, panelId: string) => {
      cells.push({ id: cellIdOf(levelId, panelId), levelId, panelId, drawingId })
      files[`drawings/${drawingId}.json`] = json(strokes(random))
    }
    if (sets > 0) {
      const setId = `set${s < SHARED_BY ? 0 : s === SHARED_BY ? 1 : 2 + (s % (sets - 2))}`
      levels.push({ ...levels[1]!, id: 'walk', order: orderOfNumber(9), name: 'Walk', kind: 'set', setId } as (typeof levels)[number])
      cells.push({ id: 'walk.p0', levelId: 'walk', panelId: 'p0', drawingId: SET_SHOWN })
    }
    draw(`d${s}-sky`, 'sky', 'p0')
    draw(`d${s}-ground`, 'ground', 'p0')
    for (const { id } of panels) draw(`d${s}-${id}`, 'figure', id)
    const byId = (records: readonly { readonly id: string }[]) => Object.fromEntries(records.map((record) => [record.id, record]))
    const take = { ...EMPTY_TAKE, panels: byId(panels), levels: byId(levels), cells: byId(cells), cameras: { a: { id: 'a', order: 'a1', letter: 'A', locked: false } } } as unknown as TakeBody
    files[`takes/t${s}.json`] = json(take)
  }
  const names = Object.fromEntries(Array.from({ length: sets }, (_, i) => [`set${i}`, { id: `set${i}`, order: orderOfNumber(i), name: `Set ${i + 1}`, stands: { x: 0, y: 0, depth: 2 } }]))
  for (const id of Object.keys(names)) putSet(id, random, files)
  files['outline.json'] = json({ ...outline, sets: names, ...(clips === 0 ? {} : soundOf(shots, clips, files)) } as unknown as Outline)
  return zipSync(files, { level: 1 })
}

const strokes = (random: () => number): Drawing => ({ marks: Array.from({ length: STROKES }, (_, i) => ({ id: `m${i}`, order: orderOfNumber(i), kind: 'stroke', mode: 'ink', points: stroke(random), widthFw: 0.004, colour: '#27241e', opacity: 1 })) })

/** How many shots stand in the first set. */
const SHARED_BY = 100
const PIECES = 5
function putSet(id: string, random: () => number, files: Record<string, Uint8Array>) {
  const set = { pieces: {} as Record<string, object>, art: {} as Record<string, object> }
  for (let i = 0; i < PIECES; i++) {
    set.pieces[`k${i}`] = { ...newLevel({ id: `k${i}`, name: `Piece ${i + 1}`, order: orderOfNumber(i), depth: i * 0.3 }) }
    set.art[`k${i}`] = { id: `k${i}`, drawingId: `d${id}-${i}` }
    files[`drawings/d${id}-${i}.json`] = json(strokes(random))
  }
  files[`sets/${id}.json`] = json(set)
}

const LANES = 4
const RECORDINGS = 5
const RATE_HZ = 24_000

/** Clips spread over the shots, each tied to its own. */
function soundOf(shots: number, count: number, files: Record<string, Uint8Array>) {
  const recordings = Array.from({ length: RECORDINGS }, (_, i) => {
    const seconds = 3 + 2 * i
    const wave = Float32Array.from({ length: seconds * RATE_HZ }, (_, n) => Math.sin(n * (0.02 + i * 0.007)) * Math.abs(Math.sin((n / RATE_HZ) * (2 + i))) * 0.6)
    const bytes = wavFile([wave], RATE_HZ)
    const hash = createHash('sha256').update(bytes).digest('hex')
    files[`sounds/${hash}.wav`] = bytes
    return { hash, seconds }
  })
  const lanes = Object.fromEntries(Array.from({ length: LANES }, (_, i) => [`lane${i}`, { id: `lane${i}`, order: orderOfNumber(i), name: `Lane ${i + 1}`, kind: i === 0 ? 'voices' : 'effects', gainDb: -6, muted: false, soloed: false }]))
  const clips = Object.fromEntries(
    Array.from({ length: count }, (_, i) => {
      const { hash, seconds } = recordings[i % RECORDINGS]!
      return [`clip${i}`, { id: `clip${i}`, laneId: `lane${i % LANES}`, shotId: `s${Math.floor((i * shots) / count)}`, offsetFrames: (i % 7) * 9, assetHash: hash, name: `Clip ${i + 1}`, sourceSeconds: seconds, fromSeconds: 0, lengthSeconds: seconds, gainDb: 0, fadeInSeconds: 0.2, fadeOutSeconds: 0.3, speaker: '', line: '', passageId: null, panelId: null }]
    }),
  )
  return { lanes, clips }
}

function stroke(random: () => number): number[] {
  let [x, y] = [random() - 0.5, (random() - 0.5) * 0.5]
  return Array.from({ length: 40 }, () => {
    x += (random() - 0.5) * 0.04
    y += (random() - 0.5) * 0.04
    return [Number(x.toFixed(4)), Number(y.toFixed(4)), 0.5]
  }).flat()
}

const json = (value: unknown) => strToU8(JSON.stringify(value))

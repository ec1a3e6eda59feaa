import { describe, expect, it } from 'vitest'
import { panelDropAt, shotDropAt } from './dropPlaces'
import { hitStrip } from './hitStrip'
import { snapPlaces, snapped } from './snap'
import { fitted, frameOfX, keptInView, rulerStep, xOfFrame, zoomedAt, type StripScale } from './stripScale'
import { heightOf } from './stripLanes'
import { LANES_END_PX, rowsEnd, stripRows } from './stripRows'
import type { StripClip, StripScene } from './stripScene'

const SCALE: StripScale = { pxPerFrame: 4, firstFrame: 10, widthPx: 800 }
const panel = (id: string, number: number, startFrame: number, lengthFrames: number) => ({ id, number, startFrame, lengthFrames, locked: false })
const STRIP_HEIGHT_PX = rowsEnd(stripRows(false))
const SCENE: StripScene = {
  rows: stripRows(false),
  shots: [
    {
      id: 's1', takeId: 't1', chosen: false, thumbs: new Map(), found: [], ready: null, label: '010', title: '', startFrame: 10, lengthFrames: 40, current: true,
      body: {
        panels: [panel('p1', 1, 0, 24), panel('p2', 2, 24, 16)],
        beads: [{ id: 'f1', number: 1, frame: 0, shade: 0, selected: false, locked: false }, { id: 'f2', number: 2, frame: 30, shade: 1, selected: false, locked: false }],
        speeds: new Float32Array(40),
        moves: [], keys: [], ways: [], runs: [], spans: [], cuts: [],
      },
    },
    { id: 's2', takeId: 't2', chosen: false, thumbs: new Map(), found: [], ready: null, label: '020', title: '', startFrame: 50, lengthFrames: 10, current: false, body: null },
  ],
  lengthFrames: 60,
  framesPerSecond: 24,
  timecode: String,
  live: null,
  currentPanel: null,
  chosen: new Set(),
  lanes: [],
  transitions: [],
  proposals: [],
  marks: [{ id: 'm1', frame: 20, name: 'door', meaning: 'sound', selected: false }],
  range: { start: 12, end: 40 },
  drop: null,
  snapFrame: null,
}

describe('the strip’s scale', () => {
  it('takes frames to px and back', () => {
    expect(xOfFrame(SCALE, 12)).toBe(8)
    expect(frameOfX(SCALE, 8)).toBe(12)
  })

  it('zooms about the pointer', () => {
    const zoomed = zoomedAt(SCALE, 120, 2)
    expect(frameOfX(zoomed, 120)).toBeCloseTo(frameOfX(SCALE, 120), 9)
    expect(zoomed.pxPerFrame).toBe(8)
    expect(zoomedAt(SCALE, 0, 1e9).pxPerFrame).toBe(40)
  })

  it('stays with the film in view', () => {
    expect(keptInView({ ...SCALE, firstFrame: -50 }, 1000).firstFrame).toBe(0)
    expect(keptInView({ ...SCALE, firstFrame: 5000 }, 1000).firstFrame).toBe(805)
    expect(keptInView({ ...SCALE, firstFrame: 7 }, 20).firstFrame).toBe(0)
  })

  it('fits a range across the width', () => {
    expect(fitted(0, 196, 800).pxPerFrame).toBe(4)
  })

  it('marks the ruler in steps that come out round', () => {
    expect(rulerStep(40, 24, 96)).toBe(4)
    expect(rulerStep(4, 24, 96)).toBe(24)
    expect(rulerStep(0.5, 24, 96)).toBe(240)
  })
})

describe('what is under the pointer', () => {
  it('is a panel’s edge near its end, else the panel', () => {
    expect(hitStrip(SCENE, SCALE, xOfFrame(SCALE, 34) + 3, 90)).toEqual({ kind: 'panel-end', shotId: 's1', takeId: 't1', panelId: 'p1' })
    expect(hitStrip(SCENE, SCALE, xOfFrame(SCALE, 40), 90)).toEqual({ kind: 'panel', shotId: 's1', takeId: 't1', panelId: 'p2', startFrame: 34 })
  })

  it('is the nearest bead, else the camera row', () => {
    expect(hitStrip(SCENE, SCALE, xOfFrame(SCALE, 40) - 6, 140)).toEqual({ kind: 'bead', shotId: 's1', framingId: 'f2' })
    expect(hitStrip(SCENE, SCALE, xOfFrame(SCALE, 25), 140)).toMatchObject({ kind: 'camera', shotId: 's1' })
  })

  it('is the ruler or a shot, loaded or not, and nothing past the film', () => {
    expect(hitStrip(SCENE, SCALE, 60, 5)).toMatchObject({ kind: 'ruler' })
    expect(hitStrip(SCENE, SCALE, xOfFrame(SCALE, 55), 45)).toMatchObject({ kind: 'shot', shotId: 's2' })
    expect(hitStrip(SCENE, SCALE, xOfFrame(SCALE, 55), 90)).toBeNull()
    expect(hitStrip(SCENE, SCALE, xOfFrame(SCALE, 70), 45)).toBeNull()
  })
})

describe('the ruler and the shots', () => {
  it('have ends of the range above, marks below, and shots’ ends in their row', () => {
    expect(hitStrip(SCENE, SCALE, xOfFrame(SCALE, 12) + 2, 5)).toEqual({ kind: 'range-end', which: 'in', frame: 12 })
    expect(hitStrip(SCENE, SCALE, xOfFrame(SCALE, 40) - 3, 5)).toEqual({ kind: 'range-end', which: 'out', frame: 40 })
    expect(hitStrip(SCENE, SCALE, xOfFrame(SCALE, 20) + 5, 25)).toEqual({ kind: 'mark', markId: 'm1', frame: 20 })
    expect(hitStrip(SCENE, SCALE, xOfFrame(SCALE, 20) + 5, 5)).toMatchObject({ kind: 'ruler' })
    expect(hitStrip(SCENE, SCALE, xOfFrame(SCALE, 50) - 2, 45)).toEqual({ kind: 'shot-end', shotId: 's1' })
  })
})

describe('snapping', () => {
  it('takes the nearest thing within reach, else whole frames', () => {
    expect(snapped(33.4, [10, 34, 50], 4)).toEqual({ frame: 34, to: 34 })
    expect(snapped(30.4, [10, 34, 50], 4)).toEqual({ frame: 30, to: null })
    // What is near on the screen depends on the zoom.
    expect(snapped(30.4, [34], 1)).toEqual({ frame: 34, to: 34 })
    expect(snapped(12, [], 4)).toEqual({ frame: 12, to: null })
    // A sound ends between frames: a panel goes to the nearest, a clip to just there.
    expect([snapped(51.2, [51.6], 4), snapped(51.2, [51.6], 4, false)]).toEqual([{ frame: 52, to: 51.6 }, { frame: 51.6, to: 51.6 }])
  })

  it('goes to edges, keys, marks, the range and the playhead, but not to what is dragged or moves along', () => {
    expect(snapPlaces(SCENE, { playhead: 23, not: 34 }).sort((a, b) => a - b)).toEqual([10, 12, 20, 23, 40, 50, 60])
    expect(snapPlaces(SCENE, { playhead: 55, not: 34, upTo: 34 }).sort((a, b) => a - b)).toEqual([10, 12, 20, 55])
  })
})

describe('what is carried', () => {
  it('goes between the panels it is nearest to', () => {
    expect(panelDropAt(SCENE, 15)).toEqual({ takeId: 't1', beforeId: 'p1', frame: 10 })
    expect(panelDropAt(SCENE, 30)).toEqual({ takeId: 't1', beforeId: 'p2', frame: 34 })
    expect(panelDropAt(SCENE, 48)).toEqual({ takeId: 't1', beforeId: null, frame: 50 })
    // A shot that is not loaded takes nothing in.
    expect(panelDropAt(SCENE, 55)).toBeNull()
  })

  it('goes before or after the shot under it', () => {
    expect(shotDropAt(SCENE, 20)).toEqual({ sequenceShotId: 's1', after: false, frame: 10 })
    expect(shotDropAt(SCENE, 49)).toEqual({ sequenceShotId: 's1', after: true, frame: 50 })
    expect(shotDropAt(SCENE, 999)).toEqual({ sequenceShotId: 's2', after: true, frame: 60 })
  })
})

describe('sound and transitions on the strip', () => {
  const clip = (id: string, startFrame: number, endFrame: number, fields: Partial<StripClip> = {}): StripClip => ({ id, startFrame, endFrame, name: id, line: '', fadeInFrames: 0, fadeOutFrames: 0, gain: 1, chosen: false, free: false, wave: null, trouble: null, ...fields })
  const scene: StripScene = {
    ...SCENE,
    lanes: [
      { id: 'voices', top: STRIP_HEIGHT_PX, height: 30, kind: 'voices', heard: true, clips: [clip('a', 12, 30), clip('b', 26, 44, { chosen: true, fadeInFrames: 8 })] },
      { id: 'music', top: STRIP_HEIGHT_PX + 30, height: 50, kind: 'music', heard: true, clips: [] },
    ],
    transitions: [{ id: 's2', kind: 'dissolve', at: 'cut', from: 46, to: 54, cutFrame: 50, colour: '#000000', chosen: false }],
  }
  const at = (frame: number, y: number) => hitStrip(scene, SCALE, xOfFrame(SCALE, frame), y)
  const low = STRIP_HEIGHT_PX + 25

  it('clips are grabbed by their ends, by their fades, and between', () => {
    expect(at(20, low)).toMatchObject({ kind: 'clip', clipId: 'a' })
    expect(at(12.2, low)).toEqual({ kind: 'clip-end', clipId: 'a', end: 'start' })
    expect(at(44, low)).toEqual({ kind: 'clip-end', clipId: 'b', end: 'end' })
    expect(at(34, STRIP_HEIGHT_PX + 2 + 13)).toEqual({ kind: 'fade', clipId: 'b', end: 'in' })
    expect(at(34, low)).toMatchObject({ kind: 'clip', clipId: 'b' })
  })

  it('of clips that lie over each other the later is on top, ends and all', () => {
    expect(at(28, low)).toMatchObject({ kind: 'clip', clipId: 'b' })
    expect(at(26.1, low)).toEqual({ kind: 'clip-end', clipId: 'b', end: 'start' })
    // The end of the one below is not grabbed through the one on top.
    expect(at(30.2, low)).toMatchObject({ kind: 'clip', clipId: 'b' })
  })

  it('an empty lane, and what lies under all lanes', () => {
    expect(at(20, STRIP_HEIGHT_PX + 40)).toMatchObject({ kind: 'lane', laneId: 'music' })
    expect(at(20, STRIP_HEIGHT_PX + 81)).toBeNull()
    expect(heightOf(scene)).toBe(STRIP_HEIGHT_PX + 80 + LANES_END_PX)
  })

  it('a transition is grabbed by its ends and body; the cut under it stays in hand', () => {
    const y = 48
    expect(at(46, y)).toEqual({ kind: 'transition-end', id: 's2', end: 'from' })
    expect(at(54, y)).toEqual({ kind: 'transition-end', id: 's2', end: 'to' })
    expect(at(48, y)).toEqual({ kind: 'transition', id: 's2' })
    expect(at(50, y)).toEqual({ kind: 'shot-end', shotId: 's1' })
    expect(at(40, y)).toMatchObject({ kind: 'shot' })
  })

  it('edges snap to the ends of clips, but not to those of the clips that move', () => {
    expect(snapPlaces(scene, { playhead: 0, not: NaN })).toEqual(expect.arrayContaining([12, 30, 26, 44]))
    const others = snapPlaces(scene, { playhead: 0, not: NaN, without: new Set(['b']) })
    expect(others).toContain(30)
    expect(others).not.toContain(26)
  })
})

describe('rows of the camera', () => {
  const body = SCENE.shots[0]!.body!
  const cut = (fromFrame: number, toFrame: number, dissolve: { from: number; to: number } | null = null) => ({ fromFrame, toFrame, letter: 'A', index: 0, atWork: false, selected: false, dissolve, picture: null })
  const span = (id: string, fromFrame: number, toFrame: number, lane: number) => ({ id, kind: 'follow' as const, name: id, fromFrame, toFrame, open: false, weights: [], lane, lanes: 2, selected: false })
  const rows = stripRows(true)
  const scene: StripScene = { ...SCENE, rows, shots: [{ ...SCENE.shots[0]!, body: { ...body, cuts: [cut(0, 20), cut(20, 40, { from: 16, to: 25 })], spans: [span('f', 4, 30, 0), span('g', 10, 35, 1)] } }] }
  const at = (frame: number, y: number) => hitStrip(scene, SCALE, xOfFrame(SCALE, frame), y)

  it('are there for camera cuts only where a shot has them, and all below goes down', () => {
    expect([stripRows(false).cuts.height, rows.camera.top - stripRows(false).camera.top]).toEqual([0, rows.cuts.height])
    expect([rows.shots, rows.panels]).toEqual([stripRows(false).shots, stripRows(false).panels])
  })

  it('have cuts in hand, each dissolve by its ends, and what is live between', () => {
    const y = rows.cuts.top + 10
    expect(at(30, y)).toEqual({ kind: 'cut-edge', shotId: 's1', fromFrame: 20 })
    expect(at(26, y)).toEqual({ kind: 'dissolve-end', shotId: 's1', fromFrame: 20, end: 'from' })
    expect(at(35, y)).toEqual({ kind: 'dissolve-end', shotId: 's1', fromFrame: 20, end: 'to' })
    expect(at(12, y)).toEqual({ kind: 'cut', shotId: 's1', fromFrame: 0 })
    expect(at(45, y)).toEqual({ kind: 'cut', shotId: 's1', fromFrame: 20 })
    // The shot begins on its first camera: that edge is the shot's.
    expect(at(10, y)).toEqual({ kind: 'cut', shotId: 's1', fromFrame: 0 })
  })

  it('have spans by their ends and whole, those over each other side by side', () => {
    const [upper, lower] = [rows.work.top + 5, rows.work.top + rows.work.height - 6]
    expect(at(14, upper)).toMatchObject({ kind: 'span-end', spanId: 'f', end: 'first' })
    expect(at(41, upper)).toMatchObject({ kind: 'span-end', spanId: 'f', end: 'last' })
    expect(at(25, upper)).toMatchObject({ kind: 'span', spanId: 'f' })
    expect(at(25, lower)).toMatchObject({ kind: 'span', spanId: 'g' })
    expect(at(48, upper)).toMatchObject({ kind: 'work' })
  })
})

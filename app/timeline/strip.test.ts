import { describe, expect, it } from 'vitest'
import { hitStrip } from './hitStrip'
import { fitted, frameOfX, keptInView, rulerStep, xOfFrame, zoomedAt, type StripScale } from './stripScale'
import type { StripScene } from './stripScene'

const SCALE: StripScale = { pxPerFrame: 4, firstFrame: 10, widthPx: 800 }
const panel = (id: string, number: number, startFrame: number, lengthFrames: number) => ({ id, number, startFrame, lengthFrames, locked: false, current: false, thumb: null, level: null })
const SCENE: StripScene = {
  shots: [
    {
      id: 's1', label: '010', title: '', startFrame: 10, lengthFrames: 40, current: true,
      body: {
        panels: [panel('p1', 1, 0, 24), panel('p2', 2, 24, 16)],
        beads: [{ id: 'f1', number: 1, frame: 0, shade: 0, selected: false, locked: false }, { id: 'f2', number: 2, frame: 30, shade: 1, selected: false, locked: false }],
        speeds: new Float32Array(40),
        moves: [],
      },
    },
    { id: 's2', label: '020', title: '', startFrame: 50, lengthFrames: 10, current: false, body: null },
  ],
  lengthFrames: 60,
  framesPerSecond: 24,
  timecode: String,
  live: null,
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
    expect(hitStrip(SCENE, SCALE, xOfFrame(SCALE, 34) + 3, 70)).toEqual({ kind: 'panel-end', shotId: 's1', panelId: 'p1' })
    expect(hitStrip(SCENE, SCALE, xOfFrame(SCALE, 40), 70)).toEqual({ kind: 'panel', shotId: 's1', panelId: 'p2', startFrame: 34 })
  })

  it('is the nearest bead, else the camera row', () => {
    expect(hitStrip(SCENE, SCALE, xOfFrame(SCALE, 40) - 6, 120)).toEqual({ kind: 'bead', shotId: 's1', framingId: 'f2' })
    expect(hitStrip(SCENE, SCALE, xOfFrame(SCALE, 25), 120)).toMatchObject({ kind: 'camera', shotId: 's1' })
  })

  it('is the ruler or a shot, loaded or not, and nothing past the film', () => {
    expect(hitStrip(SCENE, SCALE, 5, 5)).toMatchObject({ kind: 'ruler' })
    expect(hitStrip(SCENE, SCALE, xOfFrame(SCALE, 55), 30)).toMatchObject({ kind: 'shot', shotId: 's2' })
    expect(hitStrip(SCENE, SCALE, xOfFrame(SCALE, 55), 70)).toBeNull()
    expect(hitStrip(SCENE, SCALE, xOfFrame(SCALE, 70), 30)).toBeNull()
  })
})

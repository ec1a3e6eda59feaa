import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { panelDropAt, shotDropAt } from './dropPlaces'
import { snapped, snapPlaces } from './snap'
import { clipAt, heightOf, laneAt } from './stripLanes'
import { rowAt, rowsEnd, stripRows } from './stripRows'
import type { StripClip, StripLane, StripPanel, StripScene, StripShot } from './stripScene'

const panel = (id: string, startFrame: number, lengthFrames: number) => ({ id, number: 1, startFrame, lengthFrames, locked: false }) satisfies StripPanel
const body = (panels: readonly StripPanel[], more: object = {}) => ({ panels, beads: [], cuts: [], spans: [], speeds: new Float32Array(), moves: [], keys: [], runs: [], ways: [], ...more }) as unknown as StripShot['body']
const shot = (id: string, startFrame: number, lengthFrames: number, of: StripShot['body'] = null) => ({ id, takeId: `t-${id}`, label: id, title: '', startFrame, lengthFrames, current: false, chosen: false, body: of, thumbs: new Map(), found: [], ready: null }) satisfies StripShot
const clip = (id: string, startFrame: number, endFrame: number) => ({ id, startFrame, endFrame }) as StripClip
const lane = (id: string, top: number, clips: readonly StripClip[] = []) => ({ id, top, height: 40, kind: 'voices', heard: true, clips }) as StripLane
const sceneOf = (fields: Partial<StripScene>) => ({ shots: [], lengthFrames: 0, marks: [], lanes: [], transitions: [], range: null, rows: undefined, ...fields }) as unknown as StripScene

/** Shots of 40, 20 and 30 frames; the second's panels are not told apart. */
const scene = sceneOf({
  lengthFrames: 90,
  shots: [shot('a', 0, 40, body([panel('a1', 0, 10), panel('a2', 10, 30)], { beads: [{ frame: 3 }], keys: [{ frame: 17 }] })), shot('b', 40, 20), shot('c', 60, 30, body([panel('c1', 0, 30)]))],
  marks: [{ id: 'm', frame: 52 }] as unknown as StripScene['marks'],
  lanes: [lane('v', 0, [clip('x', 5.5, 12.25)])],
  range: { start: 20, end: 70 },
})

describe('what is dragged snaps', () => {
  it('to the nearest that is near on the screen, of two as near to the earlier, and else to a frame', () => {
    expect(snapped(10.4, [12, 9], 4)).toEqual({ frame: 9, to: 9 })
    expect(snapped(10.6, [9, 12], 4)).toEqual({ frame: 12, to: 12 })
    for (const places of [[12, 9], [9, 12]]) expect(snapped(10.5, places, 4)).toEqual({ frame: 9, to: 9 })
    // Seven px are near, whatever they are in frames.
    expect(snapped(10, [17], 1)).toEqual({ frame: 17, to: 17 })
    expect(snapped(10, [17.1], 1)).toEqual({ frame: 10, to: null })
    expect(snapped(10.6, [], 5)).toEqual({ frame: 11, to: null })
  })

  it('to what begins between frames: to the nearest whole one, unless it is let', () => {
    expect(snapped(12, [12.25], 5)).toEqual({ frame: 12, to: 12.25 })
    expect(snapped(12, [12.25], 5, false)).toEqual({ frame: 12.25, to: 12.25 })
  })

  it('never farther than seven px, and never to another than the nearest', () => {
    fc.assert(
      fc.property(fc.double({ min: 0, max: 500, noNaN: true }), fc.array(fc.integer({ min: 0, max: 500 }), { maxLength: 20 }), fc.double({ min: 0.05, max: 40, noNaN: true }), (frame, places, scale) => {
        const { frame: to, to: place } = snapped(frame, places, scale)
        const nearest = Math.min(Infinity, ...places.map((each) => Math.abs(each - frame)))
        if (place === null) expect(nearest * scale).toBeGreaterThan(7)
        else expect([to, Math.abs(place - frame)]).toEqual([place, nearest])
      }),
    )
  })

  it('to edges of panels and shots, keys, marks, clips, the range and the playhead, each once', () => {
    const places = snapPlaces(scene, { playhead: 33, not: -1 })
    expect([...places].sort((a, b) => a - b)).toEqual([0, 3, 5.5, 10, 12.25, 17, 20, 33, 40, 52, 60, 70, 90])
    expect(new Set(places).size).toBe(places.length)
  })

  it('not to itself, not to clips that move along, and not to what moves because of it', () => {
    expect(snapPlaces(scene, { playhead: 33, not: 33 })).not.toContain(33)
    expect(snapPlaces(scene, { playhead: 33, not: 0, without: new Set(['x']) })).not.toContain(5.5)
    // Past the edge that is dragged all is pushed; the playhead is not.
    expect(snapPlaces(scene, { playhead: 80, not: 0, upTo: 20 }).sort((a, b) => a - b)).toEqual([3, 5.5, 10, 12.25, 17, 20, 80])
  })
})

describe('what is carried would be put down', () => {
  it('between the two panels that it is nearest to', () => {
    const at = (frame: number) => panelDropAt(scene, frame)
    expect([0, 4.9].map(at)).toEqual([{ takeId: 't-a', beforeId: 'a1', frame: 0 }, { takeId: 't-a', beforeId: 'a1', frame: 0 }])
    expect([5, 24.9].map(at)).toEqual([{ takeId: 't-a', beforeId: 'a2', frame: 10 }, { takeId: 't-a', beforeId: 'a2', frame: 10 }])
    expect(at(25)).toEqual({ takeId: 't-a', beforeId: null, frame: 40 })
    // Past the film's end it is the last shot's end.
    expect(at(500)).toEqual({ takeId: 't-c', beforeId: null, frame: 90 })
  })

  it('nowhere in a shot whose panels are not there, and in no film', () => {
    expect(panelDropAt(scene, 45)).toBeNull()
    expect([panelDropAt(sceneOf({}), 0), shotDropAt(sceneOf({}), 0)]).toEqual([null, null])
  })

  it('before a shot or after it, by its middle', () => {
    const at = (frame: number) => shotDropAt(scene, frame)
    expect(at(19)).toEqual({ sequenceShotId: 'a', after: false, frame: 0 })
    expect(at(20)).toEqual({ sequenceShotId: 'a', after: true, frame: 40 })
    expect(at(49)).toEqual({ sequenceShotId: 'b', after: false, frame: 40 })
    expect(at(-7)).toEqual({ sequenceShotId: 'a', after: false, frame: 0 })
    expect(at(500)).toEqual({ sequenceShotId: 'c', after: true, frame: 90 })
  })

  it('always at an edge of what it is told of, and as near as any', () => {
    fc.assert(
      fc.property(fc.array(fc.integer({ min: 1, max: 60 }), { minLength: 1, maxLength: 8 }), fc.double({ min: -5, max: 500, noNaN: true }), (lengths, frame) => {
        let start = 0
        const shots = lengths.map((lengthFrames, i) => ((at) => shot(`s${i}`, at, lengthFrames))((start += lengthFrames) - lengthFrames))
        const edges = [0, ...shots.map((each) => each.startFrame + each.lengthFrames)]
        const drop = shotDropAt(sceneOf({ shots, lengthFrames: start }), frame)!
        expect(edges).toContain(drop.frame)
        expect(Math.abs(drop.frame - frame)).toBeCloseTo(Math.min(...edges.map((edge) => Math.abs(edge - frame))), 9)
      }),
    )
  })
})

describe('lanes', () => {
  const lanes = [lane('v', 0, [clip('under', 0, 20), clip('over', 10, 30)]), lane('m', 40)]
  it('are found by where they lie, and of clips that overlap the one that lies on top', () => {
    expect([-1, 0, 39, 40, 79, 80].map((y) => laneAt({ lanes }, y)?.id ?? null)).toEqual([null, 'v', 'v', 'm', 'm', null])
    expect([0, 9.9, 10, 19, 20, 29.9, 30].map((frame) => clipAt(lanes[0]!, frame)?.id ?? null)).toEqual(['under', 'under', 'over', 'over', 'over', 'over', null])
    expect(clipAt(lanes[1]!, 5)).toBeNull()
  })
  it('make the strip as much higher as they are', () => {
    const rows = stripRows(true)
    expect(heightOf({ lanes, rows }) - heightOf({ lanes: [lanes[0]!], rows })).toBe(40)
    // Every px of the rows is one row's, and the row of cuts is there only with cuts.
    for (const withCuts of [true, false]) {
      const own = stripRows(withCuts)
      const names = Array.from({ length: rowsEnd(own) }, (_, y) => rowAt(own, y))
      expect(names).not.toContain(null)
      expect(names.includes('cuts')).toBe(withCuts)
      expect([rowAt(own, -1), rowAt(own, rowsEnd(own))]).toEqual([null, null])
    }
  })
})

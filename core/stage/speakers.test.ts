import { describe, expect, it } from 'vitest'
import { lensOf, project } from '../camera'
import { OPTICS, REST } from '../edits/testing'
import { bestCamera, poseOnSpeakers, sight, speakerBeats, type Utterance } from './speakers'

const says = (speaker: string, fromFrame: number, toFrame: number): Utterance => ({ speaker, fromFrame, toFrame })
const known = (name: string) => ['oskar', 'tilda'].includes(name.toLowerCase())
const SETTINGS = { shortestFrames: 24, aheadFrames: 4 }
const told = (list: readonly Utterance[], settings = SETTINGS, length = 200) => speakerBeats(list, known, length, settings).map(({ fromFrame, toFrame, speakers }) => `${fromFrame}–${toFrame} ${speakers.join('+')}`)

describe('who is to be seen when', () => {
  it('is each as they begin to speak, a little ahead, until someone else does', () => {
    expect(told([says('OSKAR', 20, 50), says('Tilda', 70, 100), says('OSKAR', 140, 160)])).toEqual(['0–66 OSKAR', '66–136 Tilda', '136–200 OSKAR'])
    // Someone who goes on speaking is not cut to again, and who is not there is nobody.
    expect(told([says('OSKAR', 20, 40), says('oskar', 50, 60), says('GOOSE', 70, 80)])).toEqual(['0–200 OSKAR'])
    expect(told([])).toEqual([])
  })

  it('is both who speak within a moment, and nobody for less than the shortest hold', () => {
    expect(told([says('OSKAR', 20, 30), says('TILDA', 80, 90), says('OSKAR', 95, 110)])).toEqual(['0–76 OSKAR', '76–200 TILDA+OSKAR'])
    expect(told([says('OSKAR', 20, 30), says('TILDA', 190, 199)])).toEqual(['0–200 OSKAR+TILDA'])
    expect(told([says('OSKAR', 20, 30), says('TILDA', 80, 90), says('OSKAR', 95, 110)], { shortestFrames: 1, aheadFrames: 0 })).toEqual(['0–80 OSKAR', '80–95 TILDA', '95–200 OSKAR'])
  })
})

describe('a camera on who speaks', () => {
  const body = (x: number) => [-0.1, 0.1].flatMap((dx) => [-0.2, 0.2].map((y) => ({ x: x + dx, y, depth: 0 })))
  it('has them in the frame with the margin, both far enough out', () => {
    for (const points of [body(0.4), [...body(-0.6), ...body(0.7)]]) {
      const pose = poseOnSpeakers(points, REST, OPTICS, 0.1)!
      const lens = lensOf(pose, OPTICS)
      for (const point of points) {
        const { u, v } = project(lens, point)
        expect(Math.abs(u)).toBeLessThanOrEqual(0.4 + 1e-9)
        expect(Math.abs(v)).toBeLessThanOrEqual(0.4 / OPTICS.aspect + 1e-9)
      }
    }
    expect(poseOnSpeakers([], REST, OPTICS, 0.1)).toBeNull()
  })

  it('is chosen of several as the one that has their faces, and largest', () => {
    const cameras = new Map([['wide', { ...REST, depth: -3 }], ['oskar', { ...REST, x: -0.6, depth: -1.1 }], ['tilda', { ...REST, x: 0.6, depth: -1.1 }]])
    expect(bestCamera([body(-0.6)], cameras, OPTICS)).toBe('oskar')
    expect(bestCamera([body(0.6)], cameras, OPTICS)).toBe('tilda')
    expect(bestCamera([body(-0.6), body(0.6)], cameras, OPTICS)).toBe('wide')
    // A close one on the face is better than one that has the feet as well.
    expect(bestCamera([body(0.6)], new Map([...cameras, ['close', { ...REST, x: 0.6, y: 0.1, depth: -0.6 }]]), OPTICS)).toBe('close')
    expect(sight(body(0.6), cameras.get('oskar')!, OPTICS)).toBe(0)
    expect(sight(body(0.6), cameras.get('tilda')!, OPTICS)).toBeGreaterThan(sight(body(0.6), cameras.get('wide')!, OPTICS))
  })
})

import { describe, expect, it } from 'vitest'
import { colourOver, wipeEdge } from './mixPictures'

describe('a transition through a colour', () => {
  it('goes into it from the one shot and out of it to the other', () => {
    const seen = [0, 0.25, 0.5, 0.75, 1].map((share) => colourOver({ at: 'cut' }, share))
    expect(seen.map((each) => each.strength)).toEqual([0, 0.5, 1, 0.5, 0])
    expect(seen.map((each) => each.of)).toEqual(['before', 'before', 'after', 'after', 'after'])
  })

  it('at the film’s ends comes out of it, and goes into it', () => {
    expect([colourOver({ at: 'start' }, 0), colourOver({ at: 'end' }, 1)]).toEqual([{ of: 'after', strength: 1 }, { of: 'before', strength: 1 }])
  })
})

describe('a wipe', () => {
  const frame = { width: 160, height: 90 }

  it('has its edge, softness and all, out of the frame at both ends, at any angle', () => {
    for (const angleDegrees of [0, 30, 90, 135, 180, -45, 300]) {
      for (const softness of [0, 0.2, 1]) {
        const half = (Math.abs(Math.cos((angleDegrees * Math.PI) / 180)) * 160 + Math.abs(Math.sin((angleDegrees * Math.PI) / 180)) * 90) / 2
        expect(wipeEdge({ angleDegrees, softness }, 0, frame).to).toBeCloseTo(-half, 9)
        expect(wipeEdge({ angleDegrees, softness }, 1, frame).from).toBeCloseTo(half, 9)
      }
    }
  })

  it('goes to the right at 0°, up at 90°, and is half way at half time', () => {
    expect(wipeEdge({ angleDegrees: 0, softness: 0 }, 0.5, frame)).toEqual({ dx: 1, dy: -0, from: -0.5, to: 0.5 })
    expect(wipeEdge({ angleDegrees: 90, softness: 0 }, 0.5, frame).dy).toBe(-1)
  })

  it('is as wide as its softness says, and never harder than a pixel', () => {
    const width = (softness: number) => {
      const { from, to } = wipeEdge({ angleDegrees: 0, softness }, 0.3, frame)
      return to - from
    }
    expect([width(0), width(0.25)]).toEqual([expect.closeTo(1, 9), expect.closeTo(40, 9)])
  })
})

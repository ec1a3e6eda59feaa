import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { keyFraming, leastMend, mendEdge } from '../edits'
import { done, level, OPTICS, REST, T } from '../edits/testing'
import type { Level, TakeBody } from '../document'
import { createTakeStage, type TakeStage } from '../stage'
import { EVEN, takeOf, travelling } from './testing'
import { bareOf, createEverCovered, findEdges, reachOf, rectangleOutline, ROWS, seenRings, shareOf, viewEdges, viewsAt, type ArtOutline, type EdgeOptions, type Finding, type Side } from './index'

const H = 0.28125
const optionsOf = (outlines: Readonly<Record<string, ArtOutline>>): EdgeOptions => ({ widthPx: 1920, outlineOf: (id) => outlines[id] ?? null })
const framesOf = (stage: TakeStage, options: EdgeOptions) => Array.from({ length: stage.lengthFrames }, (_, frame) => viewsAt(stage, frame).map((view) => viewEdges(view, options)))
function found(take: TakeBody, outlines: Readonly<Record<string, ArtOutline>>): readonly Finding[] {
  const [stage, options] = [createTakeStage(take, OPTICS), optionsOf(outlines)]
  return findEdges(stage, framesOf(stage, options), options)
}

describe('art that runs out', () => {
  const sea = level('sea', 1, 3.2, { y: -0.2, scale: 1.2 })
  const outlines = { 'd-sea': rectangleOutline(-2.3, -0.25, 2.3, 0.25) }

  it('goes past the frame by what the design says, and is missing from frame 45 on', () => {
    const stage = createTakeStage(travelling(takeOf([sea])), OPTICS)
    const reach = (frame: number) => viewEdges(stage.at(frame), optionsOf(outlines)).reaches.get('sea')!.right!
    expect([0, 24, 36, 48].map((frame) => Math.round(reach(frame) * 1e6) / 1e6)).toEqual([0.335351, 0.153753, 0.062954, -0.027845])
    const [finding, ...others] = found(travelling(takeOf([sea])), outlines).filter(({ kind }) => kind === 'runs-out')
    expect(others).toEqual([])
    expect(finding).toMatchObject({ id: 'sea.right', levelId: 'sea', side: 'right', ranges: [[45, 48]], worstFrame: 48, cameraId: 'a' })
    expect(finding!.amount).toBeCloseTo(0.027845, 6)
    expect(finding!.artFw).toBeCloseTo(0.076667, 6)
    // 147.2 px of art that is drawn at 1920.
    expect(finding!.artFw! * 1920).toBeCloseTo(147.2, 1)
  })

  it('is not guessed of figures, of what moves by itself, of what is narrow, or of what covers nothing; a level that says so owes it', () => {
    const sides = (fields: Partial<Level>, outline = outlines['d-sea']) => found(travelling(takeOf([{ ...sea, ...fields } as Level])), { 'd-sea': outline }).filter(({ kind }) => kind === 'runs-out').map(({ side }) => side)
    expect(sides({})).toEqual(['right'])
    for (const fields of [{ figure: true }, { standIn: true }, { opacity: 0.9 }, { kind: 'reference' }, { bob: { amount: 0.1, periodFrames: 24, phase: 0 } }, { owes: 'none' }, { owes: ['left'] }] as Partial<Level>[]) expect(sides(fields)).toEqual([])
    const post = rectangleOutline(1.7, -0.25, 2.3, 0.25)
    expect(sides({}, post)).toEqual([])
    expect(sides({ owes: ['right'] }, post)).toEqual(['right'])
    expect(sides({ figure: true, owes: 'all' })).toEqual(['right'])
  })

  it('reaches as far as all of a repeated level, and a turned one as far as it is seen before the lens', () => {
    const twice = { ...sea, repeat: { count: 2, seed: 1, about: { x: 0, y: 0 }, lay: { kind: 'step' as const, x: 1, y: 0 }, depth: 0, rollDegrees: 0, size: 1, scatter: { x: 0, y: 0, depth: 0, rollDegrees: 0, size: 0, mirrored: 0 }, stagger: 0 } }
    expect(found(travelling(takeOf([twice as Level])), outlines).filter(({ kind }) => kind === 'runs-out')).toEqual([])
    // A floor that begins behind the lens.
    const stage = createTakeStage(takeOf([level('floor', 1, 0, { y: -0.2, tiltDegrees: -90 })]), OPTICS)
    const rings = seenRings(stage.at(0).lens, stage.at(0).levels[0]!.plane, rectangleOutline(-4, -4, 4, 4))
    const reach = reachOf(rings, H)
    expect(rings.flatMap((ring) => [...ring]).every(Number.isFinite)).toBe(true)
    expect(reach.bottom).toBeGreaterThan(0)
    expect(reach.top).toBeLessThan(0)
    expect([reach.left! > 0, reach.right! > 0]).toEqual([true, true])
  })
})

describe('gaps', () => {
  const paper = (left: number, right: number, bottom = -1, top = 1) => rectangleOutline(left, bottom, right, top)

  it('are owed where some frame of the shot had the paper covered: white on purpose is none', () => {
    // Its left edge comes into the picture with the way; what lies left of it was covered at first.
    const wide = level('wall', 1, 0)
    const moving = travelling(takeOf([wide]), -1.2)
    const [gap] = found(moving, { 'd-wall': paper(-1, 3) }).filter(({ kind }) => kind === 'gap')
    expect(gap).toMatchObject({ id: 'gap.left', side: 'left', worstFrame: 48, cameraId: 'a' })
    expect(gap!.amount).toBeCloseTo(0.7, 3)
    expect(gap!.ranges.at(-1)![1]).toBe(48)
    // A square of art on white paper, seen by a camera that rests: nobody owes the rest.
    expect(found(takeOf([level('thing', 1, 0)]), { 'd-thing': paper(-0.2, 0.2, -0.1, 0.1) })).toEqual([])
    // A hole is inside; it is owed once something else has covered that place.
    const holed = { rings: [[-2, -1, 2, -1, 2, 1, -2, 1], [-0.1, -0.1, 0.1, -0.1, 0.1, 0.1, -0.1, 0.1]] }
    const seen = found(travelling(takeOf([wide]), 0.3), { 'd-wall': holed }).filter(({ kind }) => kind === 'gap')
    expect(seen.map(({ side }) => side)).toEqual(['inside'])
    expect(seen[0]!.amount).toBeCloseTo((0.2 * 0.2) / (2 * H), 3)
  })

  it('are the same whether frames that show the same are one thing or each its own', () => {
    const stage = createTakeStage(travelling(takeOf([level('wall', 1, 0)]), -1.2), OPTICS)
    const options = optionsOf({ 'd-wall': paper(-1, 3) })
    const apart = framesOf(stage, options)
    // The last frame, seen again by every frame after the thirtieth: one and the same, and copies of it.
    const seen = apart.at(-1)!
    const held = (of: () => typeof seen) => apart.map((views, frame) => (frame < 30 ? views : of()))
    const copies = held(() => seen.map((view) => ({ ...view, bare: view.bare.slice() })))
    const found = findEdges(stage, held(() => seen), options)
    expect(found).toEqual(findEdges(stage, copies, options))
    expect(found.find(({ kind }) => kind === 'gap')).toMatchObject({ side: 'left', worstFrame: 30, bare: expect.any(Float64Array) })
  })

  it('are the frame less what is covered, to a pixel along its outline, whatever lies over what', () => {
    const number = (min: number, max: number) => fc.double({ min, max, noNaN: true })
    const star = fc.tuple(number(-0.6, 0.6), number(-0.4, 0.4), number(0.05, 0.6), fc.array(number(0.4, 1), { minLength: 5, maxLength: 30 })).map(([x, y, r, spokes]) => ({ rings: [spokes.flatMap((s, i) => [x + r * s * Math.cos((i / spokes.length) * 2 * Math.PI), y + r * s * Math.sin((i / spokes.length) * 2 * Math.PI)])] }))
    const [W, N] = [480, ROWS]
    /** Where rings cross a height, from one side to the other. */
    const crossings = (rings: readonly (readonly number[])[], y: number) =>
      rings.flatMap((ring) => Array.from({ length: ring.length / 2 }, (_, n) => [n * 2, (n * 2 + ring.length - 2) % ring.length] as const).flatMap(([i, j]) => (ring[i + 1]! > y !== ring[j + 1]! > y ? [((ring[j]! - ring[i]!) * (y - ring[i + 1]!)) / (ring[j + 1]! - ring[i + 1]!) + ring[i]!] : [])))
    fc.assert(
      fc.property(fc.array(star, { minLength: 1, maxLength: 8 }), (art) => {
        const bare = bareOf(art.map(({ rings }) => rings.map((ring) => Float64Array.from(ring))), H)
        let count = 0
        let border = 0
        for (let row = 0; row < N; row++) {
          let before = false
          const lines = art.map(({ rings }) => ({ at: crossings(rings, ((row + 0.5) / N) * 2 * H - H).sort((a, b) => a - b), passed: 0 }))
          for (let column = 0; column < W; column++) {
            const x = (column + 0.5) / W - 0.5
            let covered = false
            for (const line of lines) {
              while (line.passed < line.at.length && line.at[line.passed]! <= x) line.passed++
              if (line.passed % 2 === 1) covered = true
            }
            if (!covered) count++
            if (column > 0 && covered !== before) border++
            before = covered
          }
        }
        expect(Math.abs(shareOf(bare) * W * N - count)).toBeLessThanOrEqual(border + 1e-6)
      }),
      { numRuns: 200 },
    )
  })

  it('ever covered only grows, and what is owed is what is bare and was covered', () => {
    const ever = createEverCovered()
    const at = (u: number) => bareOf([[Float64Array.from([u - 0.2, -1, u + 0.2, -1, u + 0.2, 1, u - 0.2, 1])]], H)
    ever.take(at(-0.3))
    ever.take(at(0))
    expect(shareOf(ever.owed(at(0)))).toBeCloseTo(0.3, 9)
    expect(shareOf(ever.owed(at(-0.3)))).toBeCloseTo(0.3, 9)
    expect(ever.isAll).toBe(false)
    ever.take(bareOf([[Float64Array.from([-1, -1, 1, -1, 1, 1, -1, 1])]], H))
    expect(ever.isAll).toBe(true)
    expect(shareOf(ever.owed(at(0)))).toBeCloseTo(0.6, 9)
  })
})

describe('findings', () => {
  it('miss nothing larger than a pixel and tell nothing smaller', () => {
    fc.assert(
      fc.property(fc.double({ min: -3, max: 3, noNaN: true }), fc.constantFrom<Side>('left', 'right'), (px, side) => {
        fc.pre(Math.abs(Math.abs(px) - 1) > 0.01)
        // So many px are missing at the end of a travel of 0.6 fw.
        const ends = 1.1 - px / 1920
        const outline = side === 'right' ? rectangleOutline(-3, -1, ends, 1) : rectangleOutline(-ends, -1, 3, 1)
        const found_ = found(travelling(takeOf([level('wall', 1, 0)]), side === 'right' ? 0.6 : -0.6), { 'd-wall': outline }).filter(({ kind }) => kind === 'runs-out')
        expect(found_.map((each) => each.side)).toEqual(px > 1 ? [side] : [])
      }),
      { numRuns: 60 },
    )
  })

  it('say another thing they are about as soon as anything of them is another, and the same while nothing is', () => {
    const of = (x: number) => found(travelling(takeOf([level('wall', 1, 0)]), x), { 'd-wall': rectangleOutline(-3, -1, 1, 1) }).find(({ kind }) => kind === 'runs-out')!
    expect(of(0.6).about).toBe(of(0.6).about)
    expect(of(0.6).id).toBe(of(0.7).id)
    expect(of(0.6).about).not.toBe(of(0.7).about)
  })

  it('tell art that runs out first: bare paper comes of it', () => {
    expect(found(travelling(takeOf([level('wall', 1, 0)])), { 'd-wall': rectangleOutline(-3, -1, 1, 1) }).map(({ kind }) => kind)).toEqual(['runs-out', 'gap'])
  })

  it('look at both pictures of a dissolve between cameras', () => {
    const take = takeOf([level('wall', 1, 0)])
    const cameras = { ...take.cameras, b: { id: 'b', order: 'a2', letter: 'B', locked: false } }
    const framings = { fb: { id: 'fb', cameraId: 'b', panelId: 'p1', offsetFrames: 0, pose: { ...REST, x: 1 }, move: EVEN, locked: false } }
    const cuts = { c1: { id: 'c1', panelId: 'p1', offsetFrames: 0, cameraId: 'a', dissolveFrames: 0 }, c2: { id: 'c2', panelId: 'p1', offsetFrames: 20, cameraId: 'b', dissolveFrames: 8 } }
    const [stage, options] = [createTakeStage({ ...take, cameras, framings, cuts }, OPTICS), optionsOf({ 'd-wall': rectangleOutline(-3, -1, 1, 1) })]
    expect(viewsAt(stage, 20).map(({ cameraId }) => cameraId).sort()).toEqual(['a', 'b'])
    const finding = findEdges(stage, framesOf(stage, options), options).find(({ kind }) => kind === 'runs-out')!
    expect(finding).toMatchObject({ side: 'right', cameraId: 'b' })
    expect(finding.ranges[0]![0]).toBeLessThan(20)
  })
})

describe('mends', () => {
  const sea = level('sea', 1, 3.2, { y: -0.2, scale: 1.2 })
  const outlines = { 'd-sea': rectangleOutline(-2.3, -0.25, 2.3, 0.25) }
  const options = optionsOf(outlines)
  const take = travelling(takeOf([sea]))
  const [finding] = found(take, outlines).filter(({ kind }) => kind === 'runs-out')

  it('close every frame with the least that does, and a check finds nothing there after them', () => {
    for (const of of ['larger', 'shorter'] as const) {
      const mend = leastMend(take, finding!, of, OPTICS, options)!
      const after = done(take, mendEdge(take, T, finding!, mend, OPTICS))
      expect(found(after, outlines).filter(({ id }) => id === finding!.id)).toEqual([])
      const less = of === 'larger' ? 1 + (mend.amount - 1) * 0.9 : mend.amount * 0.9
      expect(found(done(take, mendEdge(take, T, finding!, { of, amount: less }, OPTICS)), outlines).some(({ id }) => id === finding!.id)).toBe(true)
    }
    // About the lens's foot at frame 48, x 1.2: its right end at 2.76 has to come to where the frame's edge falls, 2.852.
    expect(leastMend(take, finding!, 'larger', OPTICS, options)!.amount).toBeCloseTo((2.76 + 0.092 - 1.2) / (2.76 - 1.2), 4)
    // The end of the way is drawn in by what is missing there, 0.092 fw of 1.2.
    expect(leastMend(take, finding!, 'shorter', OPTICS, options)!.amount).toBeCloseTo(0.092 / 1.2, 4)
  })

  it('are not offered where they are of no use', () => {
    const locked = { ...take, levels: { sea: { ...sea, locked: true } } }
    expect(leastMend(locked, finding!, 'larger', OPTICS, options)).toBeNull()
    expect(mendEdge(locked, T, finding!, { of: 'larger', amount: 2 }, OPTICS)).toMatchObject({ refusal: { code: 'level-locked' } })
    const held = { ...take, framings: { ...take.framings, f2: { ...take.framings.f2!, locked: true } } }
    expect(leastMend(held, finding!, 'shorter', OPTICS, options)).toBeNull()
    // One framing alone, at which it is missing: there is nothing to draw it to.
    const still = done(takeOf([sea]), keyFraming(takeOf([sea]), T, 'a', 0, { ...REST, x: 1.2 }, 'f1'))
    expect(leastMend(still, { ...finding!, ranges: [[0, 48]] }, 'shorter', OPTICS, options)).toBeNull()
  })
})

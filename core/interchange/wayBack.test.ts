import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { placedBack, readStack, roleName, sheetIn, writeStack, type StackPart, type WayBack } from './index'

const back: WayBack = { owner: { kind: 'set', id: 'boardwalk' }, levelId: '3f2a0d54-1111-4e4e-9c2e-1234567890ab', drawingId: 'd_1-x', left: -0.994666667, top: 0.417833, width: 1.722666667, widthPx: 3208, heightPx: 1805 }
const layer = (name: string, src: string, more: Partial<Extract<StackPart, { kind: 'layer' }>> = {}): StackPart => ({ kind: 'layer', name, src, opacity: 1, visible: true, ...more })
const read = (xml: string) => {
  const found = readStack(xml)
  if (!found.ok) throw new Error(found.refusal.what)
  return found.stack
}

describe('the way back in a layer’s name', () => {
  it('is read again from a file that is written, in groups too, whatever else was done to the name', () => {
    const art = roleName('Planks & <rail>', { kind: 'art', back })
    const parts: StackPart[] = [{ kind: 'group', name: 'Planks', parts: [layer(roleName('Guide', { kind: 'guide' }), 'data/guide.png'), layer(art, 'data/art.png'), layer(roleName('Rough', { kind: 'rough' }), 'data/rough.png', { opacity: 0.4 })] }]
    const stack = read(writeStack(3208, 1805, parts))
    expect([stack.widthPx, stack.heightPx]).toEqual([3208, 1805])
    expect(stack.layers.map(({ name, role, opacity }) => [name, role, opacity])).toEqual([
      ['Guide', { kind: 'guide' }, 1],
      ['Planks & <rail>', { kind: 'art', back }, 1],
      ['Rough', { kind: 'rough' }, 0.4],
    ])
    for (const renamed of [`${art} copy`, `final ${art} #1`]) {
      const [only] = read(writeStack(3208, 1805, [layer(renamed, 'data/1.png')])).layers
      expect(only!.role).toEqual({ kind: 'art', back })
      expect(only!.name).not.toContain('{')
    }
    // A name longer than what is kept of one has its way back all the same.
    expect(read(writeStack(1, 1, [layer(roleName('x'.repeat(300), { kind: 'art', back }), 'a')])).layers[0]!.role).toEqual({ kind: 'art', back })
  })

  it('tells the level’s own opacity, and what was only seen', () => {
    const stack = read(writeStack(3208, 1805, [{ kind: 'layer', name: roleName('Mist', { kind: 'art', back: { ...back, opacity: 0.35 } }), src: 'a', x: -12, y: 40, opacity: 0.35, visible: true }, layer(roleName('Door, as seen', { kind: 'seen' }), 'b')]))
    expect(stack.layers.map(({ role, x, y, opacity }) => [role, x, y, opacity])).toEqual([[{ kind: 'art', back: { ...back, opacity: 0.35 } }, -12, 40, 0.35], [{ kind: 'seen' }, 0, 0, 1]])
    expect(read(writeStack(1, 1, [layer('Mist {rubato t.a.b.c 1,2,1 10x10 0}', 'a'), layer('Mist {rubato t.a.b.c 1,2,1 10x10 1.5}', 'b')])).layers.map(({ role }) => role)).toEqual([null, null])
  })

  it('goes for what was put in beside it: the art under it, else over it, or that of its group', () => {
    const [sky, sea] = ['sky', 'sea'].map((levelId) => roleName(levelId, { kind: 'art', back: { ...back, levelId } }))
    const stack = read(writeStack(10, 10, [layer('Light', 'l'), layer(sky!, 's'), { kind: 'group', name: sea!, parts: [layer('Foam', 'f'), layer('Water', 'w')] }, layer('Last', 'z')]))
    expect(stack.layers.map(({ name, role, added }) => [name, role?.kind === 'art' ? role.back.levelId : null, added])).toEqual([['Light', 'sky', true], ['sky', 'sky', false], ['Foam', 'sea', true], ['Water', 'sea', true], ['Last', 'sea', true]])
    // A file that was not laid out here is as it always was.
    expect(read(writeStack(10, 10, [layer('Light', 'l'), layer('Light', 'm')])).layers.map(({ name, role, added }) => [name, role, added])).toEqual([['Light', null, false], ['Light 2', null, false]])
  })

  it('is nothing where it was damaged', () => {
    for (const name of ['Sky {rubato t.a.b}', 'Sky {rubato t.a.b.c 1,2,0 10x10}', 'Sky {rubato t.a.b.c 1..2,2,1 10x10}', 'Sky {rubato other}']) expect(read(writeStack(10, 10, [layer(name, 's')])).layers[0]!.role).toBeNull()
  })
})

describe('what was painted elsewhere', () => {
  const size = fc.record({ widthPx: fc.integer({ min: 40, max: 16_000 }), heightPx: fc.integer({ min: 40, max: 16_000 }), left: fc.double({ min: -20, max: 20, noNaN: true }), top: fc.double({ min: -20, max: 20, noNaN: true }), width: fc.double({ min: 0.01, max: 40, noNaN: true }) })

  it('lands in its place at any whole multiple of the resolution: every corner to a millionth of a fw', () => {
    fc.assert(
      fc.property(size, fc.integer({ min: 1, max: 4 }), fc.record({ x: fc.double({ min: 0, max: 0.9, noNaN: true }), y: fc.double({ min: 0, max: 0.9, noNaN: true }), w: fc.double({ min: 0.01, max: 0.1, noNaN: true }), h: fc.double({ min: 0.01, max: 0.1, noNaN: true }) }), (sized, times, part) => {
        const went: WayBack = { ...back, ...sized }
        const stack = read(writeStack(went.widthPx * times, went.heightPx * times, [layer(roleName('Sky', { kind: 'art', back: went }), 'a')]))
        const role = stack.layers[0]!.role!
        if (role.kind !== 'art') throw new Error('no art')
        const sheet = sheetIn(role.back, stack, null)!
        const [x, y, width, height] = [part.x * stack.widthPx, part.y * stack.heightPx, Math.max(1, part.w * stack.widthPx), Math.max(1, part.h * stack.heightPx)]
        const at = placedBack(role.back, sheet, { x, y, width, height })
        const fwPerPx = went.width / went.widthPx / times
        const tall = (at.widthFw * height) / width
        expect(at.x - at.widthFw / 2).toBeCloseTo(went.left + x * fwPerPx, 6)
        expect(at.x + at.widthFw / 2).toBeCloseTo(went.left + (x + width) * fwPerPx, 6)
        expect(at.y + tall / 2).toBeCloseTo(went.top - y * fwPerPx, 6)
        expect(at.y - tall / 2).toBeCloseTo(went.top - (y + height) * fwPerPx, 6)
      }),
      { numRuns: 300 },
    )
  })

  it('goes by its guide where the canvas was cut or extended, and is not guessed at without one', () => {
    expect(sheetIn(back, { widthPx: 4000, heightPx: 4000 }, { x: 300, y: 20, width: 3208, height: 1805 })).toEqual({ x: 300, y: 20, width: 3208, height: 1805 })
    expect(sheetIn(back, { widthPx: 4000, heightPx: 4000 }, null)).toBeNull()
    expect(sheetIn(back, { widthPx: 3000, heightPx: 1700 }, { x: 0, y: 0, width: 3000, height: 1700 })).toBeNull()
    // Half the size, rounded.
    expect(sheetIn(back, { widthPx: 1604, heightPx: 903 }, null)).toEqual({ x: 0, y: 0, width: 1604, height: 903 })
  })
})

import { cellIdOf, EMPTY_TAKE, orderOfNumber, type Level, type LevelKey, type TakeBody } from '@rubato/core/document'

/** Their length, frames. */
export const LENGTH = 960

/** A shot of so many levels, each with so many keys of its place, turn, size and opacity; every other way is bent. */
export function takeOf(levels: number, keys: number): TakeBody {
  const ids = Array.from({ length: levels }, (_, i) => `l${i}`)
  const level = (id: string, i: number): Level => ({ id, order: orderOfNumber(i), name: id, kind: 'drawn', x: 0, y: 0, depth: 0.1 * i, scale: 1, panDegrees: 0, tiltDegrees: 0, rollDegrees: 0, opacity: 1, visible: true, locked: false })
  const path = { kind: 'bent', leave: { x: 0.1, y: 0.2, depth: 0 }, arrive: { x: -0.1, y: 0.2, depth: 0 } } as const
  const timing = { kind: 'cushioned', leaveFrames: 4, arriveFrames: 4 } as const
  const levelKeys = ids.flatMap((levelId, n) =>
    Array.from({ length: keys }, (_, i): LevelKey[] => {
      const t = i / Math.max(1, keys - 1)
      const move = { timing, path: i % 2 === 0 ? path : ({ kind: 'straight' } as const), evenness: { kind: 'set' } as const }
      const key = { levelId, panelId: 'p', offsetFrames: Math.round(t * (LENGTH - 101)) + n % 100, move, locked: false }
      return [
        { ...key, id: `p-${n}-${i}`, of: 'place', value: { x: 2 * t, y: 0.3 * Math.sin(9 * t), depth: 0.1 * n } },
        { ...key, id: `t-${n}-${i}`, of: 'turn', value: { panDegrees: 0, tiltDegrees: 0, rollDegrees: 30 * Math.sin(7 * t) } },
        { ...key, id: `s-${n}-${i}`, of: 'size', value: 1 + t },
        { ...key, id: `o-${n}-${i}`, of: 'opacity', value: 0.5 + 0.5 * t },
      ]
    }).flat(),
  )
  return {
    ...EMPTY_TAKE,
    panels: { p: { id: 'p', order: 'a1', lengthFrames: LENGTH, lengthLocked: false, action: '', dialogue: '', notes: '' } },
    levels: Object.fromEntries(ids.map((id, i) => [id, level(id, i)])),
    levelKeys: Object.fromEntries(levelKeys.map((key) => [key.id, key])),
    cells: Object.fromEntries(ids.map((levelId) => [cellIdOf(levelId, 'p', 0), { id: cellIdOf(levelId, 'p', 0), levelId, panelId: 'p', drawingId: `d-${levelId}` }])),
    cameras: { a: { id: 'a', order: 'a1', letter: 'A', locked: false } },
  }
}

/** The same, each carried by the one before it, turn and size too. */
export function chained(take: TakeBody): TakeBody {
  const ids = Object.keys(take.levels)
  const levels = Object.fromEntries(ids.map((id, i) => [id, i === 0 ? take.levels[id]! : { ...take.levels[id]!, carrier: { kind: 'level' as const, levelId: ids[i - 1]!, turn: true, size: true } }]))
  return { ...take, levels }
}

/** One level that moves and sways, so many times, each a little after the one before. */
export function repeated(count: number): TakeBody {
  const take = takeOf(1, 20)
  const scatter = { x: 0.1, y: 0.1, depth: 0.5, rollDegrees: 10, size: 0.2, mirrored: 0.5 }
  const repeat = { count, seed: 1, about: { x: 0, y: 0 }, lay: { kind: 'step' as const, x: 0.1, y: 0 }, depth: 0, rollDegrees: 0, size: 1, scatter, stagger: 0.1 }
  return { ...take, levels: { l0: { ...take.levels.l0!, swing: { amount: 3, periodFrames: 50, phase: 0 }, repeat } } }
}

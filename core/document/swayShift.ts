import type { Drift, Swing } from '../moves/sway'
import type { Level } from './records'
import type { SetBody } from './units'

const SWAYS = ['swing', 'bob', 'drift'] as const

/** Whether a level moves without a key. */
const swaysItself = (level: Pick<Level, (typeof SWAYS)[number]>): boolean => SWAYS.some((name) => level[name] !== undefined)

/** Whether it or, of a set, a piece of it does; of a set that is not loaded it is not known, so it may. */
export function sways(level: Level, sets: Readonly<Record<string, SetBody>> = {}): boolean {
  if (swaysItself(level) || level.kind !== 'set') return swaysItself(level)
  const set = sets[level.setId]
  return set === undefined || Object.values(set.pieces).some(swaysItself)
}

/** A level whose frames are so many later than they were, and look as they did. */
export function swayingLater<L extends Level>(level: L, byFrames: number, sets: Readonly<Record<string, SetBody>> = {}): L {
  if (byFrames === 0 || !sways(level, sets)) return level
  const later = <S extends Swing | Drift>(sway: S): S => {
    const phase = sway.phase - byFrames / sway.periodFrames
    // A drift never comes round to what it was, so its phase goes on.
    return { ...sway, phase: 'seed' in sway ? phase : phase - Math.floor(phase) }
  }
  const shifted = { ...level, ...Object.fromEntries(SWAYS.flatMap((name) => (level[name] === undefined ? [] : [[name, later(level[name])]]))) }
  if (shifted.kind !== 'set') return shifted
  const { laterFrames = 0, ...rest } = shifted as Extract<Level, { readonly kind: 'set' }>
  return { ...rest, ...(laterFrames + byFrames === 0 ? {} : { laterFrames: laterFrames + byFrames }) } as unknown as L
}

import type { Level } from '../../document/records'
import type { Drift, Swing } from '../../moves/sway'

const SWAYS = ['swing', 'bob', 'drift'] as const

/** Whether a level moves without a key. */
export const sways = (level: Level): boolean => SWAYS.some((name) => level[name] !== undefined)

/** A level whose frames are so many later than they were, and look as they did. */
export function swayingLater<L extends Level>(level: L, byFrames: number): L {
  if (byFrames === 0 || !sways(level)) return level
  const later = <S extends Swing | Drift>(sway: S): S => {
    const phase = sway.phase - byFrames / sway.periodFrames
    // A drift never comes round to what it was, so its phase goes on.
    return { ...sway, phase: 'seed' in sway ? phase : phase - Math.floor(phase) }
  }
  return { ...level, ...Object.fromEntries(SWAYS.flatMap((name) => (level[name] === undefined ? [] : [[name, later(level[name])]]))) }
}

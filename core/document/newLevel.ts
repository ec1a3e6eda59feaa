import type { Level } from './records'

const PLAIN = Object.freeze({ kind: 'drawn', x: 0, y: 0, depth: 0, scale: 1, panDegrees: 0, tiltDegrees: 0, rollDegrees: 0, opacity: 1, visible: true, locked: false } as const)

/** A level as it begins: drawn, square on at the picture plane, in its own size; with what is said of it. It has no place in the rack yet. */
export const newLevel = <F extends Pick<Level, 'id' | 'name'> & Partial<Level>>(fields: F): Omit<typeof PLAIN, keyof F> & F => ({ ...PLAIN, ...fields })

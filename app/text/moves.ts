import type { CameraPose } from '@rubato/core/camera'
import { levelPartsOf, movePartsOf, type LevelPart, type LevelValues, type MovePart, type MoveSpec } from '@rubato/core/moves'
import type { Level } from '@rubato/core/document'

function wordPart(part: MovePart): string {
  if (part.does === 'truck' || part.does === 'zoom') return `${part.does} ${part.way} ${part.percent} %`
  return part.does === 'arc' ? `arc ${part.way} ${part.degrees}°` : `${part.does} ${part.way}`
}

export const partsWords = (parts: readonly MovePart[]) => parts.map(wordPart).join(', ')

/** What a move does, in the trade's words: "truck in 32 %, pan right"; a jump is a "cut". */
export function moveName(from: CameraPose, to: CameraPose, spec: MoveSpec, lengthFrames = Infinity): string {
  const { kind, parts } = movePartsOf(from, to, spec, lengthFrames)
  const words = partsWords(parts)
  return kind === 'hold' ? 'hold' : kind === 'cut' ? `cut: ${words}` : words
}

const rounded = (value: number, decimals: number) => String(Number(value.toFixed(decimals)))

function wordLevelPart(part: LevelPart): string {
  switch (part.does) {
    case 'go':
      return part.way === 'nearer' || part.way === 'farther' ? `comes ${part.way}, ${rounded(part.fw, 2)} fw` : `goes ${part.way}, ${rounded(part.fw, 2)} fw`
    case 'turn':
      return `turns ${part.way} ${rounded(part.degrees, 1)}°`
    case 'fade':
      return `fades ${part.way}`
    default:
      return `${part.does}s to ${rounded(part.factor, 2)} ×`
  }
}

const STANDS_STILL = 'stands still'

/** What a level does from one key to the next: "goes right, 1.2 fw, shrinks to 0.5 ×"; out of the picture, "goes out right". */
export function levelMoveName(from: LevelValues, to: LevelValues, leaves = false): string {
  const parts = levelPartsOf(from, to)
  const words = parts.map(wordLevelPart).join(', ')
  return parts.length === 0 ? STANDS_STILL : leaves ? words.replace(/^goes /, 'goes out ') : words
}

/** How a level moves, in a few words for its row; empty where it stands still. */
export function motionWords(level: Pick<Level, 'stepped' | 'swing' | 'bob' | 'drift'>, isKeyed: boolean): string {
  const sways = level.swing !== undefined || level.bob !== undefined || level.drift !== undefined
  if (!isKeyed && !sways) return ''
  const step = level.stepped === undefined ? '' : level.stepped === 'held' ? ' held' : ` on ${level.stepped}s`
  return `${isKeyed ? 'moves' : level.swing !== undefined ? 'swings' : level.bob !== undefined ? 'bobs' : 'drifts'}${step}`
}

import type { CameraPose } from '@rubato/core/camera'
import { movePartsOf, type MovePart, type MoveSpec } from '@rubato/core/moves'

function wordPart(part: MovePart): string {
  if (part.does === 'truck' || part.does === 'zoom') return `${part.does} ${part.way} ${part.percent} %`
  return part.does === 'arc' ? `arc ${part.way} ${part.degrees}°` : `${part.does} ${part.way}`
}

/** What a move does, in the trade's words: "truck in 32 %, pan right"; a jump is a "cut". */
export function moveName(from: CameraPose, to: CameraPose, spec: MoveSpec, lengthFrames = Infinity): string {
  const { kind, parts } = movePartsOf(from, to, spec, lengthFrames)
  const words = parts.map(wordPart).join(', ')
  return kind === 'hold' ? 'hold' : kind === 'cut' ? `cut: ${words}` : words
}

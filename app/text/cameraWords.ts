import type { CameraPose } from '@rubato/core/camera'
import { targetOf, type CameraSpan, type PlacedSpan, type TakeBody } from '@rubato/core/document'
import { changedBy, type TakeStage } from '@rubato/core/stage'
import { moveName } from './moves'

/** What a span does, in the trade's words: "follow Tilda", "aim at Lantern", "hand-held". */
export function spanName(take: Pick<TakeBody, 'levels'>, span: CameraSpan): string {
  const name = take.levels[targetOf(span)?.levelId ?? '']?.name ?? ''
  return span.kind === 'hand' ? 'hand-held' : span.kind === 'follow' ? `follow ${name}` : `aim at ${name}`
}

/** Something that a camera does over some frames of its shot. */
export interface CameraDoes {
  readonly fromFrame: number
  readonly toFrame: number
  readonly name: string
}

/** What a camera's moves are called from framing to framing: what a span has in hand for most of one is not a move's. */
export function movesNamed(stage: TakeStage, cameraId: string): readonly CameraDoes[] {
  const framings = stage.framings(cameraId)
  const spans = stage.workOf(cameraId)?.spans ?? []
  return framings.slice(1).map((to, i) => {
    const { frame: fromFrame, framing: { pose: from, move } } = framings[i]!
    const held = new Set(spans.filter((placed) => placed.span.kind !== 'hand' && shareOf(placed, fromFrame, to.frame) > 0.5).flatMap(({ span }) => changedBy(span)))
    const arrives = { ...to.framing.pose } as Record<keyof CameraPose, number>
    for (const field of held) arrives[field] = from[field]
    return { fromFrame, toFrame: to.frame, name: moveName(from, arrives, move, to.frame - fromFrame) }
  })
}

const shareOf = ({ first, last }: PlacedSpan, from: number, to: number) => Math.max(0, Math.min(last, to) - Math.max(first, from)) / Math.max(1, to - from)

/** All that a camera does in its shot, one after the other: "follow Tilda, then truck in 32 %". */
export function cameraWords(stage: TakeStage, cameraId: string): string {
  const spans = (stage.workOf(cameraId)?.spans ?? []).map(({ span, first, last }): CameraDoes => ({ fromFrame: first, toFrame: last, name: spanName(stage.take, span) }))
  const moves = movesNamed(stage, cameraId)
  const does = [...moves.filter(({ name }) => name !== 'hold'), ...spans].sort((a, b) => a.fromFrame - b.fromFrame)
  if (does.length > 0) return does.map(({ name }) => name).join(', then ')
  return moves.length > 0 ? moves.map(({ name }) => name).join(', then ') : 'locked off'
}

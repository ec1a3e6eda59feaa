import type { CutPlan } from '@rubato/core/edits'
import { startsOf } from '@rubato/core/stage'

/** A shot as a block of one of two rows. */
export interface CutBlock {
  readonly row: 'now' | 'then'
  readonly from: number
  readonly to: number
  readonly label: string
  readonly shotId: string | null
  /** The lines of the plan that are about it. */
  readonly lines: readonly string[]
  readonly tone: 'same' | 'longer' | 'shorter' | 'moved' | 'dropped' | 'new'
}
/** The same shot before and after. */
export interface CutTie {
  readonly now: CutBlock
  readonly then: CutBlock
}
export interface CutPicture {
  readonly blocks: readonly CutBlock[]
  readonly ties: readonly CutTie[]
  readonly lengthFrames: number
}
interface Placed {
  readonly shot: { readonly id: string; readonly label: string }
  readonly startFrame: number
  readonly lengthFrames: number
}

/** The film as it is over the film as the list has it. */
export function layCuts(shots: readonly Placed[], { list, lines, shots: matched }: CutPlan): CutPicture {
  const of = new Map<string, string[]>()
  const note = (key: string, id: string) => of.set(key, [...(of.get(key) ?? []), id])
  const tones = new Map<string, CutBlock['tone']>()
  for (const line of lines) {
    if (line.kind === 'ends') {
      note(line.shotId, line.id)
      tones.set(line.shotId, line.ends.head + line.ends.tail >= 0 ? 'longer' : 'shorter')
    } else if (line.kind === 'moved' || line.kind === 'dropped' || line.kind === 'returned') {
      note(line.shotId, line.id)
      tones.set(line.shotId, line.kind === 'returned' ? 'new' : line.kind)
    } else if (line.kind === 'new' || line.kind === 'again') note(`#${line.index}`, line.id)
  }
  const now = shots.map(({ shot, startFrame, lengthFrames }): CutBlock => ({ row: 'now', from: startFrame, to: startFrame + lengthFrames, label: shot.label, shotId: shot.id, lines: of.get(shot.id) ?? [], tone: tones.get(shot.id) ?? 'same' }))
  const starts = startsOf(list.pictures)
  const then = list.pictures.map(({ label, lengthFrames }, i): CutBlock => {
    const fresh = of.get(`#${i}`)
    const shotId = fresh === undefined ? (matched[i] ?? null) : null
    return { row: 'then', from: starts[i]!, to: starts[i]! + lengthFrames, label, shotId, lines: fresh ?? of.get(shotId ?? '') ?? [], tone: fresh !== undefined ? 'new' : (tones.get(shotId ?? '') ?? 'same') }
  })
  const byShot = new Map(now.map((block) => [block.shotId, block]))
  const ties = then.flatMap((block): CutTie[] => ((before) => (before === undefined || block.shotId === null ? [] : [{ now: before, then: block }]))(byShot.get(block.shotId)))
  return { blocks: [...now, ...then], ties, lengthFrames: Math.max(1, now.at(-1)?.to ?? 0, starts.at(-1) ?? 0) }
}

export interface CutInk {
  readonly paper: string
  readonly rule: string
  readonly ink: string
  readonly tones: Readonly<Record<CutBlock['tone'], string>>
}
export interface CutView {
  readonly widthPx: number
  readonly heightPx: number
  readonly from: number
  readonly framesPerPx: number
  readonly hover: CutBlock | null
  readonly off: ReadonlySet<string>
}
const ROW = 30
export const rowTop = (row: CutBlock['row'], heightPx: number) => (row === 'now' ? 0 : heightPx - ROW)

export function drawCuts(context: CanvasRenderingContext2D, { blocks, ties }: CutPicture, { widthPx, heightPx, from, framesPerPx, hover, off }: CutView, ink: CutInk): void {
  const x = (frame: number) => (frame - from) / framesPerPx
  const seen = (a: number, b: number) => b >= 0 && a <= widthPx
  context.clearRect(0, 0, widthPx, heightPx)
  for (const { now, then } of ties) {
    const [a, b, c, d] = [x(now.from), x(now.to), x(then.to), x(then.from)]
    if (!seen(Math.min(a, d), Math.max(b, c))) continue
    const isHover = hover !== null && (hover === now || hover === then)
    if (now.tone === 'same' && !isHover && b - a < 3) continue
    context.globalAlpha = isHover ? 0.5 : now.tone === 'same' ? 0.1 : 0.28
    context.fillStyle = ink.tones[now.tone]
    context.beginPath()
    context.moveTo(a, ROW)
    context.lineTo(b, ROW)
    context.lineTo(c, heightPx - ROW)
    context.lineTo(d, heightPx - ROW)
    context.fill()
  }
  context.globalAlpha = 1
  context.textBaseline = 'middle'
  for (const block of blocks) {
    const [a, b] = [x(block.from), x(block.to)]
    if (!seen(a, b)) continue
    const top = rowTop(block.row, heightPx)
    const isOff = block.lines.length > 0 && block.lines.every((id) => off.has(id))
    context.fillStyle = ink.paper
    context.fillRect(a, top, b - a, ROW)
    context.globalAlpha = block.tone === 'same' ? 0.16 : isOff ? 0.2 : 0.55
    context.fillStyle = ink.tones[block.tone]
    context.fillRect(a, top, b - a, ROW)
    context.globalAlpha = 1
    if (b - a > 2) {
      context.strokeStyle = block === hover ? ink.ink : ink.rule
      context.strokeRect(a + 0.5, top + 0.5, b - a - 1, ROW - 1)
    }
    if (b - a < 26) continue
    context.save()
    context.beginPath()
    context.rect(a, top, b - a, ROW)
    context.clip()
    context.fillStyle = ink.ink
    context.fillText(block.label, a + 5, top + ROW / 2)
    context.restore()
  }
}

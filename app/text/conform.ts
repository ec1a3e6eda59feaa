import type { Clip, Outline, Shot } from '@rubato/core/document'
import type { CutLine, CutPlan } from '@rubato/core/edits'
import { listTimecode, startsOf } from '@rubato/core/stage'
import { quoted } from './quoted'

/** What a line of a conform is, in the words that lists and filters use. */
export const LINE_KINDS = Object.freeze(['longer', 'shorter', 'moved', 'dropped', 'returned', 'new', 'transition', 'sound', 'mark'] as const)
export type LineKind = (typeof LINE_KINDS)[number]
export const KIND_WORDS: Readonly<Record<LineKind, string>> = { longer: 'longer', shorter: 'shorter', moved: 'moved', dropped: 'dropped', returned: 'back from the tray', new: 'new', transition: 'transition', sound: 'sound', mark: 'mark' }

export function kindOfLine(line: CutLine): LineKind {
  if (line.kind === 'ends') return line.ends.head + line.ends.tail >= 0 ? 'longer' : 'shorter'
  if (line.kind === 'again') return 'new'
  return line.kind === 'unheard' ? 'sound' : line.kind
}

const frames = (count: number) => (Math.abs(count) === 1 ? '1 frame' : `${Math.abs(count)} frames`)
const end = (by: number, where: string) => (by === 0 ? '' : `${frames(by)} ${by > 0 ? 'more' : 'fewer'} at its ${where}`)
const exact = (count: number) => String(Number(count.toFixed(2)))

/** One line of a plan, as it is read. */
export function lineWords(line: CutLine, { list, shots }: CutPlan, outline: Pick<Outline, 'shots' | 'clips'>): string {
  const named = (shot: Shot | undefined) => (shot === undefined ? '' : shot.title === '' ? shot.label : `${shot.label} ${shot.title}`)
  const at = (index: number) => {
    const picture = list.pictures[index]
    const shot = outline.shots[shots[index] ?? '']
    return shot === undefined ? (picture?.kind === 'gap' ? 'nothing' : quoted(picture?.label || 'without a name')) : shot.label
  }
  const starts = startsOf(list.pictures)
  const moment = (frame: number) => listTimecode(list, list.startFrame + frame)
  switch (line.kind) {
    case 'ends':
      return `${[end(line.ends.head, 'head'), end(line.ends.tail, 'tail')].filter((each) => each !== '').join(', ')}: lasts ${frames(line.lengthFrames)}`
    case 'moved': {
      const index = shots.indexOf(line.shotId)
      return index === 0 ? 'goes to the film’s beginning' : `goes after ${at(index - 1)}`
    }
    case 'dropped':
      return 'is not in the cut any more: into the tray, as it is'
    case 'returned':
      return 'is in the cut again: out of the tray'
    case 'new': {
      const picture = list.pictures[line.index]!
      return `${picture.kind === 'gap' ? 'a hole' : 'new'} at ${moment(starts[line.index]!)}, ${frames(picture.lengthFrames)}: an empty shot${line.index === 0 ? '' : ` after ${at(line.index - 1)}`}`
    }
    case 'again':
      return `seen once more at ${moment(starts[line.index]!)}: a copy${line.index === 0 ? '' : ` after ${at(line.index - 1)}`}`
    case 'transition': {
      const where = line.index === 0 ? 'at the film’s beginning' : line.index === list.pictures.length ? 'at the film’s end' : `into ${at(line.index)}`
      const what = { dissolve: 'dissolve', wipe: 'wipe', colour: 'through a colour' }
      if (line.wanted === null) return `a plain cut ${where}, no ${what[line.before!.kind]} any more`
      return `${what[line.wanted.kind]} ${where}, ${frames(line.wanted.before + line.wanted.after)}${line.before === null ? '' : `, not ${what[line.before.kind]} of ${line.before.lengthFrames}`}`
    }
    case 'sound':
      return soundWords(line, outline.clips[line.clipId], (id) => named(outline.shots[id ?? '']))
    case 'unheard':
      return 'is not heard any more: into the tray'
    case 'mark':
      return `${quoted(line.mark.name)} at ${moment(line.mark.frame)}`
  }
}

function soundWords({ fields, byFrames }: Extract<CutLine, { readonly kind: 'sound' }>, clip: Clip | undefined, shotName: (id: string | null) => string): string {
  const said: string[] = []
  if (fields.offsetFrames !== undefined) said.push(fields.shotId === clip?.shotId ? `${exact(Math.abs(byFrames))} frames ${byFrames > 0 ? 'later' : 'sooner'} in its shot` : `tied to ${fields.shotId === null ? 'the film’s start' : shotName(fields.shotId ?? null)}`)
  if (fields.fromSeconds !== undefined) said.push(`begins at ${fields.fromSeconds.toFixed(2)} s of its recording`)
  if (fields.lengthSeconds !== undefined) said.push(`lasts ${fields.lengthSeconds.toFixed(2)} s`)
  if (fields.laneId !== undefined) said.push('on another lane')
  if (fields.gainDb !== undefined) said.push(`${fields.gainDb.toFixed(1)} dB`)
  if (fields.fadeInSeconds !== undefined || fields.fadeOutSeconds !== undefined) said.push('other fades')
  return said.join(', ')
}

/** What a line is about, for the first column. */
export function lineSubject(line: CutLine, plan: CutPlan, outline: Pick<Outline, 'shots' | 'clips'>): string {
  if (line.kind === 'sound' || line.kind === 'unheard') return outline.clips[line.clipId]?.name ?? ''
  if (line.kind === 'mark') return 'Mark'
  if (line.kind === 'new') return plan.list.pictures[line.index]?.label ?? ''
  if (line.kind === 'transition') return ((id) => (id === undefined || id === null ? '' : (outline.shots[id]?.label ?? '')))(plan.shots[Math.min(line.index, plan.shots.length - 1)])
  return outline.shots[line.shotId]?.label ?? ''
}

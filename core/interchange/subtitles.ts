import { secondsOfFrames, type Rate } from '../time/rate'
import { spokenLines, type SpokenLine } from '../script/passages'

/** A panel's words at their place in the film. */
export interface TimedWords {
  readonly startFrame: number
  readonly lengthFrames: number
  readonly dialogue: string
}

export interface Cue {
  readonly startFrame: number
  readonly endFrame: number
  readonly lines: readonly SpokenLine[]
}

/** One cue for each panel in which something is said; panels that go on with the very same words make one. */
export function cuesOf(panels: readonly TimedWords[]): readonly Cue[] {
  const cues: (Cue & { readonly dialogue: string })[] = []
  for (const { startFrame, lengthFrames, dialogue } of panels) {
    const lines = spokenLines(dialogue)
    if (lines.length === 0) continue
    const last = cues.at(-1)
    if (last !== undefined && last.endFrame === startFrame && last.dialogue === dialogue) cues[cues.length - 1] = { ...last, endFrame: startFrame + lengthFrames }
    else cues.push({ startFrame, endFrame: startFrame + lengthFrames, lines, dialogue })
  }
  return cues
}

function clock(frame: number, rate: Rate, point: string): string {
  // Milliseconds from the exact rate, rounded once.
  const ms = Math.round(secondsOfFrames(frame, rate) * 1000)
  const part = (value: number, digits: number) => String(value).padStart(digits, '0')
  return `${part(Math.floor(ms / 3_600_000), 2)}:${part(Math.floor(ms / 60_000) % 60, 2)}:${part(Math.floor(ms / 1000) % 60, 2)}${point}${part(ms % 1000, 3)}`
}

/** SubRip. With two speakers at once each line begins with a dash and says who. */
export function writeSrt(cues: readonly Cue[], rate: Rate): string {
  return cues
    .map(({ startFrame, endFrame, lines }, index) => {
      const text = lines.map(({ speaker, text }) => (lines.length > 1 ? `- ${speaker === '' ? '' : `${speaker}: `}${text}` : text)).join('\n')
      // An empty line would end the cue.
      return `${index + 1}\n${clock(startFrame, rate, ',')} --> ${clock(endFrame, rate, ',')}\n${text.replace(/\n\s*\n/g, '\n')}\n`
    })
    .join('\n')
}

const escaped = (text: string) => text.replace(/&/g, '&amp;').replace(/</g, '&lt;').replace(/>/g, '&gt;').replace(/\n\s*\n/g, '\n')

/** WebVTT (W3C), with voice spans. */
export function writeVtt(cues: readonly Cue[], rate: Rate): string {
  const blocks = cues.map(({ startFrame, endFrame, lines }, index) => {
    const text = lines.map(({ speaker, text }) => (speaker === '' ? escaped(text) : `<v ${escaped(speaker).replace(/\n/g, ' ')}>${escaped(text)}</v>`)).join('\n')
    return `${index + 1}\n${clock(startFrame, rate, '.')} --> ${clock(endFrame, rate, '.')}\n${text}\n`
  })
  return ['WEBVTT\n', ...blocks].join('\n')
}

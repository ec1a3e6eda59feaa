import type { Passage } from '../document/records'

/** A passage as a script file has it: no id, no place, no sequence. */
export type ScriptPassage = Pick<Passage, 'kind' | 'speaker' | 'manner' | 'text'>

/** Passages that can be boarded; the others stand around them. */
export function canBeBoarded(passage: Pick<Passage, 'kind'>): boolean {
  return passage.kind === 'action' || passage.kind === 'dialogue'
}

/** What a panel takes of a passage: `OSKAR (quietly): Mind the lamp.` for dialogue, else the text. */
export function passageWords(passage: ScriptPassage): string {
  if (passage.kind !== 'dialogue') return passage.text
  return `${passage.speaker}${passage.manner === '' ? '' : ` (${passage.manner})`}: ${passage.text}`
}

/** One spoken line of a panel's dialogue. A line without a speaker goes on with the one before. */
export interface SpokenLine {
  readonly speaker: string
  readonly manner: string
  readonly text: string
}

/** No colon, no sentence end, and at most a few words: a name. */
const SPEAKER = /^([^:.!?\n]{1,60}?)(?:\s*\(([^)\n]{1,120})\))?\s*:\s*(.*)$/u

/** Reads a panel's dialogue field, a line each: the way `passageWords` writes it. */
export function spokenLines(dialogue: string): readonly SpokenLine[] {
  const lines: SpokenLine[] = []
  for (const line of dialogue.split('\n')) {
    if (line.trim() === '') continue
    const found = SPEAKER.exec(line.trim())
    const last = lines.at(-1)
    if (found !== null) lines.push({ speaker: found[1]!.trim(), manner: found[2]?.trim() ?? '', text: found[3]!.trim() })
    else if (last !== undefined) lines[lines.length - 1] = { ...last, text: `${last.text}\n${line.trim()}` }
    else lines.push({ speaker: '', manner: '', text: line.trim() })
  }
  return lines
}

import type { Sequence } from '../document/records'
import { writeFountain } from '../script/fountain'
import { spokenLines, type ScriptPassage } from '../script/passages'

export interface BoardedSequence {
  readonly sequence: Pick<Sequence, 'title' | 'label'>
  /** The heading of the scene it was made from; null where there was none. */
  readonly heading: string | null
  readonly shots: readonly { readonly label: string; readonly panels: readonly { readonly action: string; readonly dialogue: string }[] }[]
}

/** What the boards say, in their order, as a screenplay: sequences as scenes, shots as notes, captions as action and dialogue. */
export function writeBoardedScript(title: string, sequences: readonly BoardedSequence[]): string {
  const passages: ScriptPassage[] = [{ kind: 'title', speaker: '', manner: '', text: `Title: ${title.replace(/\n/g, ' ')}` }]
  const add = (kind: ScriptPassage['kind'], text: string) => text.trim() !== '' && passages.push({ kind, speaker: '', manner: '', text: text.trim() })
  for (const { sequence, heading, shots } of sequences) {
    if (shots.length === 0) continue
    add('scene', heading ?? (sequence.title === '' ? `Sequence ${sequence.label}` : sequence.title))
    for (const shot of shots) {
      add('note', `Shot ${shot.label}`)
      for (const panel of shot.panels) {
        add('action', panel.action)
        for (const { speaker, manner, text } of spokenLines(panel.dialogue)) {
          if (speaker === '') add('action', text)
          else passages.push({ kind: 'dialogue', speaker, manner, text })
        }
      }
    }
  }
  return writeFountain(passages)
}

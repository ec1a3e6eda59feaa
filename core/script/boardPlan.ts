import type { Passage } from '../document/records'
import type { Rate } from '../time/rate'
import { canBeBoarded, passageWords } from './passages'
import { spokenFrames } from './spokenLength'

/** A panel to be made of passages. */
export interface PlannedPanel {
  readonly passages: readonly Passage[]
  readonly action: string
  readonly dialogue: string
  readonly lengthFrames: number
}

/**
 * Panels for passages in script order: each action begins one, and the dialogue that follows is said in it; dialogue
 * after dialogue by another speaker begins the next. A panel lasts as long as its words take to say, `restFrames` at least.
 */
export function planPanels(passages: readonly Passage[], wordsAMinute: number, rate: Rate, restFrames: number): readonly PlannedPanel[] {
  const groups: Passage[][] = []
  for (const passage of passages) {
    if (!canBeBoarded(passage)) continue
    const group = groups.at(-1)
    const said = group?.findLast((each) => each.kind === 'dialogue')
    const joins = passage.kind === 'dialogue' && group !== undefined && (said === undefined || said.speaker === passage.speaker)
    if (joins) group.push(passage)
    else groups.push([passage])
  }
  return groups.map((group) => {
    const words = (kind: Passage['kind']) => group.filter((passage) => passage.kind === kind).map(passageWords).join('\n')
    const spoken = group.filter((passage) => passage.kind === 'dialogue').map((passage) => passage.text).join(' ')
    return { passages: group, action: words('action'), dialogue: words('dialogue'), lengthFrames: Math.max(restFrames, spokenFrames(spoken, wordsAMinute, rate)) }
  })
}

/** Passages by the scene they stand in, so that a selection over a scene heading becomes a shot on each side. */
export function byScene(script: readonly Passage[], chosen: ReadonlySet<string>): readonly { readonly scene: Passage | null; readonly passages: readonly Passage[] }[] {
  const groups: { scene: Passage | null; passages: Passage[] }[] = []
  let scene: Passage | null = null
  for (const passage of script) {
    if (passage.kind === 'scene') scene = passage
    if (!chosen.has(passage.id) || !canBeBoarded(passage)) continue
    const group = groups.at(-1)
    if (group !== undefined && group.scene === scene) group.passages.push(passage)
    else groups.push({ scene, passages: [passage] })
  }
  return groups
}

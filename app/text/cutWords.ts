import type { CutReading, Eye, Heading, MotionSays, Verdict } from '@rubato/core/checks'

/** What a reading at a cut is called, its figures, and what they mean. */
export interface CutWords {
  readonly name: string
  readonly figures: string
  readonly says: string
}

const percent = (share: number) => `${(share * 100).toFixed(share < 0.1 ? 1 : 0)} %`
const seconds = (value: number) => `${value.toFixed(1)} s`
const at = ({ by, name }: Eye) => (by === 'centre' ? 'the middle' : by === 'speaker' ? `${name}, who speaks` : (name ?? ''))
const WAY: Readonly<Record<Heading, string>> = { left: '←', right: '→', 'to us': '↓ to us', away: '↑ away', still: 'stands' }
const MOTION: Readonly<Record<MotionSays, string>> = {
  'rest to rest': 'rest to rest',
  'comes to rest': 'it comes to rest first',
  'sets off': 'it sets off after the cut',
  alike: 'alike on both sides',
  'stops dead': 'a moving camera stops dead at the cut',
  'starts at full speed': 'rest cuts to a camera at full speed',
  'another speed': 'from one speed to quite another',
  'against each other': 'the cameras move against each other',
}
export const VERDICT_WORDS: Readonly<Record<Verdict, string>> = { well: 'well', look: 'to look at', fix: 'to mend' }

export function cutWords(reading: CutReading): CutWords {
  switch (reading.kind) {
    case 'eye':
      return { name: 'Eye', figures: percent(reading.travel), says: `${reading.verdict === 'well' ? 'easy to find' : reading.verdict === 'look' ? 'some way to go' : 'far to go'}: ${at(reading.from)} › ${at(reading.to)}` }
    case 'size': {
      const { name, ratio, turnDegrees, verdict } = reading
      return { name: 'Size, angle', figures: `×${ratio.toFixed(2)}, ${turnDegrees.toFixed(0)}°`, says: verdict === 'well' ? `${name}: a clear change` : `${name}: too like the picture before, reads as a jump` }
    }
    case 'direction': {
      const { name, before, after, says } = reading
      return { name: 'Direction', figures: `${WAY[before]} then ${WAY[after]}`, says: says === 'flipped' ? `${name} flips, and seems to turn back` : says === 'kept' ? `${name}: kept` : says === 'begins' ? `${name} ${before === 'still' ? 'sets off' : 'has stopped'}` : `${name} passes through` }
    }
    case 'line':
      return { name: 'Line', figures: reading.verdict === 'well' ? 'kept' : 'crossed', says: `between ${reading.names[0]} and ${reading.names[1]}${reading.verdict === 'well' ? '' : ': they change sides'}` }
    case 'motion':
      return { name: 'Camera', figures: `${percent(reading.before)}/s › ${percent(reading.after)}/s`, says: MOTION[reading.says] }
    case 'length': {
      const { seconds: long, asks, neighbours, verdict } = reading
      const beside = neighbours === null ? '' : `, beside it ${seconds(neighbours)}`
      return { name: 'Length', figures: seconds(long), says: verdict === 'look' ? `what is said and to be read takes ${seconds(asks)}${beside}` : asks > 0 ? `enough for what is said and to be read${beside}` : `the shot before${beside}` }
    }
  }
}

export const countWords = (text: string): number => text.split(/\s+/u).filter((word) => /[\p{L}\p{N}]/u.test(word)).length
/** Of dialogue, without who speaks: `TILDA: Brisket, the oil!` is three. */
export const spokenWords = (dialogue: string): number => dialogue.split('\n').reduce((sum, line) => sum + countWords(line.replace(/^\s*[^:]{1,40}:\s/u, '')), 0)

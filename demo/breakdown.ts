import { levelWorkId, orderOfNumber, setWorkId, shotWorkId, type Breakdown, type Work } from '@rubato/core/document'

const PALETTE = 'palette'
const said: readonly Work[] = [
  { id: setWorkId('boardwalk'), state: 'work', who: 'Ines', notes: 'Wet planks after the rain, dry at the rail', own: { [PALETTE]: 'tar and lichen' } },
  { id: levelWorkId('shot-040', 'tilda'), state: 'work', who: 'Jonas', days: 3 },
  { id: levelWorkId('shot-040', 'lighthouse'), state: 'done', who: 'Ines' },
  { id: levelWorkId('shot-040', 'sky'), state: 'done', who: 'Ines', own: { [PALETTE]: 'late yellow' } },
  { id: levelWorkId('shot-040', 'goose'), state: 'look', who: 'Jonas', notes: 'Is she too proud?' },
  { id: levelWorkId('shot-040', 'moth'), state: 'out' },
  { id: shotWorkId('shot-010'), state: 'done', who: 'Ines' },
  { id: shotWorkId('shot-040'), state: 'work', who: 'Jonas', days: 4, notes: 'The follow first, then the lantern' },
  { id: shotWorkId('shot-050'), state: 'look', who: 'Jonas' },
]

/** Who makes what of Salt Lantern, as far as it is. */
export const BREAKDOWN: Breakdown = {
  work: Object.fromEntries(said.map((work) => [work.id, work])),
  columns: { [PALETTE]: { id: PALETTE, order: orderOfNumber(1), name: 'Palette', of: 'things' } },
  weights: {},
}

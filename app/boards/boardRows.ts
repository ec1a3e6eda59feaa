export type BoardSize = 'small' | 'medium' | 'large'

export interface CardSize {
  readonly cardPx: number
  readonly picturePx: number
  readonly captionPx: number
}

const WIDTHS: Readonly<Record<BoardSize, readonly [cardPx: number, captionPx: number]>> = { small: [132, 38], medium: [178, 62], large: [300, 84] }
export const CARD_GAP_PX = 8
const HEAD_PX = 28
const SEQUENCE_PX = 44
/** Left of the cards, where the bracket is. */
const BRACKET_PX = 14
const AFTER_SHOT_PX = 14

export function cardSize(size: BoardSize, aspect: number): CardSize {
  const [cardPx, captionPx] = WIDTHS[size]
  return { cardPx, captionPx, picturePx: Math.round(cardPx / aspect) }
}

/** How many cards fit beside each other; one at least. */
export function cardsInRow(widthPx: number, size: CardSize): number {
  return Math.max(1, Math.floor((widthPx - BRACKET_PX + CARD_GAP_PX) / (size.cardPx + CARD_GAP_PX)))
}

export interface BoardShot {
  readonly shotId: string
  readonly takeId: string
  readonly sequenceId: string
  readonly panelCount: number
}

export type BoardRow =
  | { readonly kind: 'sequence'; readonly key: string; readonly heightPx: number; readonly sequenceId: string; readonly empty: boolean }
  | { readonly kind: 'head'; readonly key: string; readonly heightPx: number; readonly shotIndex: number }
  | { readonly kind: 'panels'; readonly key: string; readonly heightPx: number; readonly shotIndex: number; readonly from: number; readonly to: number; readonly last: boolean }

/** The rows of the board page, top to bottom. Sequences without shots have a row too, to be filled. */
export function layBoard(sequenceIds: readonly string[], shots: readonly BoardShot[], perRow: number, size: CardSize): readonly BoardRow[] {
  const rows: BoardRow[] = []
  const cardHeight = size.picturePx + size.captionPx + 2
  let next = 0
  for (const sequenceId of sequenceIds) {
    const heading = rows.length
    rows.push({ kind: 'sequence', key: `q:${sequenceId}`, heightPx: SEQUENCE_PX, sequenceId, empty: shots[next]?.sequenceId !== sequenceId })
    for (; shots[next]?.sequenceId === sequenceId; next++) {
      const { shotId, panelCount } = shots[next]!
      rows.push({ kind: 'head', key: `h:${shotId}`, heightPx: HEAD_PX, shotIndex: next })
      for (let from = 0; from < Math.max(1, panelCount); from += perRow) {
        const to = Math.min(panelCount, from + perRow)
        const last = to >= panelCount
        rows.push({ kind: 'panels', key: `p:${shotId}:${from}`, heightPx: cardHeight + (last ? AFTER_SHOT_PX : CARD_GAP_PX), shotIndex: next, from, to, last })
      }
    }
    if (rows[heading]!.kind === 'sequence' && (rows[heading] as { empty: boolean }).empty) rows[heading] = { ...rows[heading]!, heightPx: SEQUENCE_PX + 56 } as BoardRow
  }
  return rows
}

/** The row that a panel of a shot is in; -1 where there is none. */
export function rowOfPanel(rows: readonly BoardRow[], shotIndex: number, panelIndex: number): number {
  return rows.findIndex((row) => row.kind === 'panels' && row.shotIndex === shotIndex && panelIndex >= row.from && (panelIndex < row.to || row.last))
}

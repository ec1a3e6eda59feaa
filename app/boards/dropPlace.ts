/** A panel by its take. */
export interface BoardPanel {
  readonly takeId: string
  readonly panelId: string
}

/** Where what is dragged would go. */
export type DropPlace =
  | { readonly kind: 'beside'; readonly ref: BoardPanel; readonly side: 'before' | 'after' }
  | { readonly kind: 'into'; readonly ref: BoardPanel }
  | { readonly kind: 'end'; readonly takeId: string }
  | { readonly kind: 'shot'; readonly shotId: string; readonly side: 'before' | 'after' }
  | { readonly kind: 'sequence'; readonly sequenceId: string }

/** The strip’s colours and types. */
export interface StripInk {
  readonly paper: string
  readonly sheet: string
  readonly panel: string
  /** On panels and clips, which are paper by night too. */
  readonly onPanel: string
  readonly wrongOnPanel: string
  readonly ink: string
  readonly quiet: string
  readonly faint: string
  readonly rule: string
  readonly blue: string
  readonly vermilion: string
  readonly ochre: string
  readonly sea: string
  readonly plum: string
  readonly ribbon: string
  readonly beads: readonly string[]
  readonly font: string
  readonly mono: string
  readonly serif: string
}

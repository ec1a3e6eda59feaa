/** As many ids as may be asked for; each call gives another. */
export interface NewIds {
  (): string
}

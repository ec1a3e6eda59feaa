import type { AreaFound } from '~/workers/messages'

/** Why an area was not filled, and what to do now. */
export function wordArea(answer: Exclude<AreaFound, { kind: 'found' }>): string {
  switch (answer.refusal.code) {
    case 'on-a-line':
      return 'That is on a line, or the gap setting closes this place altogether. Choose a place beside the line, or a smaller gap.'
    case 'runs-out':
      return 'This area is open: it runs out of the drawing. Close its outline, or raise the gap that is taken as closed.'
    case 'no-ink':
      return 'There are no lines on this level here to put a back behind. Draw the figure first.'
  }
}

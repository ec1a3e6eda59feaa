import type { Finding } from '@rubato/core/checks'

/** What a check found, in words. `nameOf`: what a level is called. */
export function findingTitle(finding: Finding, nameOf: (levelId: string) => string): string {
  if (finding.kind === 'runs-out') return `${nameOf(finding.levelId!)} runs out at ${finding.side}`
  return finding.side === 'inside' ? 'Bare paper inside the frame' : `Bare paper at ${finding.side}`
}

/** Where and how much: `frames 188–204 · 0.14 fw · worst 204`. */
export function findingFacts({ kind, ranges, worstFrame, amount }: Finding): string {
  const [one] = ranges
  const isOne = ranges.length === 1 && one![0] === one![1]
  const much = kind === 'runs-out' ? `${amount < 0.01 ? amount.toFixed(4) : amount.toFixed(2)} fw` : `${(amount * 100).toFixed(amount < 0.01 ? 2 : 1)} % of the frame`
  return `${frameRanges(ranges)} · ${much}${isOne ? '' : ` · worst ${worstFrame}`}`
}

/** `frame 7`, `frames 188–204`, `frames 3, 8–12, 20 and 2 more`. */
export function frameRanges(ranges: readonly (readonly [first: number, last: number])[]): string {
  const spans = ranges.map(([first, last]) => (first === last ? `${first}` : `${first}–${last}`))
  const isOne = ranges.length === 1 && ranges[0]![0] === ranges[0]![1]
  return `${isOne ? 'frame' : 'frames'} ${spans.length > 3 ? `${spans.slice(0, 3).join(', ')} and ${spans.length - 3} more` : spans.join(', ')}`
}

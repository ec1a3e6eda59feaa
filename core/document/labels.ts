/**
 * The label for a shot between two others, as the trade numbers them: tens at the end (010, 020 …), the middle
 * between neighbours (015), then letters (015A) where no number is left.
 */
export function labelBetween(before: string | null, after: string | null, taken: ReadonlySet<string>): string {
  const low = before === null ? 0 : Number.parseInt(before, 10)
  const lowNumber = Number.isNaN(low) ? 0 : low
  const high = after === null ? NaN : Number.parseInt(after, 10)
  const pad = (value: number) => String(value).padStart(3, '0')
  if (Number.isNaN(high)) {
    let next = Math.floor(lowNumber / 10) * 10 + 10
    while (taken.has(pad(next))) next += 10
    return pad(next)
  }
  const middle = Math.floor((lowNumber + high) / 2)
  for (const candidate of [middle, ...range(lowNumber + 1, high)]) {
    if (candidate > lowNumber && candidate < high && !taken.has(pad(candidate))) return pad(candidate)
  }
  for (let letter = 0; ; letter++) {
    const label = pad(lowNumber) + String.fromCharCode(65 + (letter % 26)).repeat(1 + Math.floor(letter / 26))
    if (!taken.has(label)) return label
  }
}

function range(from: number, to: number): number[] {
  return Array.from({ length: Math.max(0, to - from) }, (_, i) => from + i)
}

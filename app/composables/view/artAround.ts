/**
 * Shots by index, in the order in which their art is wanted at one of them: there, next to it, and then what is likely to be reached soon. One who
 * steps on from shot to shot is met with more of them ahead, whichever way they go.
 */
export function artAround(index: number, before: number | null): readonly number[] {
  if (before === null || before === index) return [index, index + 1, index - 1, index + 2]
  const way = index > before ? 1 : -1
  return [index, index + way, index - way, index + 2 * way, index + 3 * way]
}

import { quoted } from './quoted'
import type { Difference } from '@rubato/core/edits'
import { fieldWord } from './fields'
import { thingWords } from './things'

const NAMED = 3

/** "2 panels changed (length), level “Sky” removed, 14 marks of drawings added": what was done, not each record. */
export function wordDifferences(differences: readonly Difference[]): readonly string[] {
  const groups = new Map<string, Difference[]>()
  for (const each of differences) {
    const key = `${each.collection}:${each.how}`
    groups.set(key, [...(groups.get(key) ?? []), each])
  }
  return [...groups.values()].map((group) => {
    const { collection, how } = group[0]!
    const [one, many] = thingWords(collection)
    const names = group.flatMap(({ name }) => (name === null ? [] : [quoted(name, 120)]))
    const what = group.length === 1 ? [one, ...names].join(' ') : `${group.length} ${many}${names.length === 0 ? '' : ` (${names.slice(0, NAMED).join(', ')}${names.length > NAMED ? ' …' : ''})`}`
    const fields = [...new Set(group.flatMap((each) => each.fields).map(fieldWord))]
    return `${what} ${how}${fields.length === 0 ? '' : `: ${fields.slice(0, 4).join(', ')}`}`
  })
}

const UNITS = ['KB', 'MB', 'GB'] as const
export function wordBytes(bytes: number): string {
  if (bytes < 1000) return bytes === 1 ? '1 byte' : `${bytes} bytes`
  let [value, unit] = [bytes / 1000, 0]
  // By what is written: a thousand of one is one of the next.
  for (; Math.round(value) >= 1000 && unit < UNITS.length - 1; unit++) value /= 1000
  return `${value < 9.95 ? value.toFixed(1) : Math.round(value)} ${UNITS[unit]}`
}

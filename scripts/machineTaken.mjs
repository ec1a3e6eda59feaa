import { readFileSync } from 'node:fs'

const STEAL = 7
/** The first eight columns: those after them are parts of the first two. */
const COLUMNS = 8

/** Ticks of all processors by what they went into; null where the system doesn't tell. */
function ticks(text) {
  const [name, ...columns] = text.split('\n', 1)[0].trim().split(/\s+/)
  const numbers = columns.slice(0, COLUMNS).map(Number)
  return name === 'cpu' && numbers.length === COLUMNS && numbers.every(Number.isFinite) ? numbers : null
}
const fromSystem = () => {
  try {
    return readFileSync('/proc/stat', 'utf8')
  } catch {
    return ''
  }
}

/** Asked, it tells what part of the machine's time (0…1) its host gave to others since it was asked before; 0 where that isn't known. */
export function machineTaken(read = fromSystem) {
  let before = ticks(read())
  return () => {
    const now = ticks(read())
    const spent = before === null || now === null ? null : now.map((value, i) => value - before[i])
    before = now
    const all = spent?.reduce((sum, value) => sum + value, 0) ?? 0
    return all > 0 ? spent[STEAL] / all : 0
  }
}

/**
 * A short name for any JSON value that is the same wherever the same value is, whatever the order of its keys: 53 bits
 * (cyrb53). It tells whether someone has changed something, and keeps no secret.
 */
export function contentHash(value: unknown): string {
  let [a, b] = [0xdeadbeef, 0x41c6ce57]
  const text = (words: string) => {
    for (let i = 0; i < words.length; i++) {
      const code = words.charCodeAt(i)
      a = Math.imul(a ^ code, 2654435761)
      b = Math.imul(b ^ code, 1597334677)
    }
  }
  const walk = (each: unknown) => {
    if (Array.isArray(each)) {
      text('[')
      for (const item of each) walk(item)
      text(']')
    } else if (typeof each === 'object' && each !== null) {
      text('{')
      for (const key of Object.keys(each).sort()) {
        const inner = (each as Record<string, unknown>)[key]
        if (inner === undefined) continue
        text(`${key}:`)
        walk(inner)
      }
      text('}')
    } else text(typeof each === 'string' ? JSON.stringify(each) : `${String(each)},`)
  }
  walk(value)
  a = Math.imul(a ^ (a >>> 16), 2246822507) ^ Math.imul(b ^ (b >>> 13), 3266489909)
  b = Math.imul(b ^ (b >>> 16), 2246822507) ^ Math.imul(a ^ (a >>> 13), 3266489909)
  return (4294967296 * (2097151 & b) + (a >>> 0)).toString(36)
}

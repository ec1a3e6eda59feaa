import { readFileSync, writeFileSync } from 'node:fs'

const FILE = 'docs/reliability.md'

/** Rows that are measured; with RUBATO_HOSTILE_KEEP they are written in place of their section's before. */
export function createTable(section: string) {
  const rows: string[] = []
  return {
    row: (what: string, found: string, limit: string, held: boolean | null) => void rows.push(`| ${what} | ${found} | ${limit} | ${held === null ? '' : held ? 'yes' : 'no'} |`),
    write(about: string) {
      const table = `| measured | found | limit | held |\n| --- | --- | --- | --- |\n${rows.join('\n')}`
      console.info(table)
      if (!process.env.RUBATO_HOSTILE_KEEP) return
      const text = readFileSync(FILE, 'utf8')
      const place = new RegExp(`<!-- ${section} -->[\\s\\S]*<!-- /${section} -->`)
      if (!place.test(text)) throw new Error(`${FILE} has no place for ${section}`)
      writeFileSync(FILE, text.replace(place, () => `<!-- ${section} -->\n${new Date().toISOString().slice(0, 10)}, ${about}.\n\n${table}\n<!-- /${section} -->`))
    },
  }
}

/** A screenplay of 300 pages has about half a million letters. */
export const SCRIPT_LIMIT_BYTES = 5 * 1024 * 1024

export interface ReadText {
  readonly text: string
  /** What was assumed of the file, to be told; null where nothing was. */
  readonly note: string | null
}

/** The text of a script file. Throws, with the reason, for what is no text. */
export function scriptText(bytes: Uint8Array): ReadText {
  if (bytes.length > SCRIPT_LIMIT_BYTES) throw new Error(`The file is larger than ${SCRIPT_LIMIT_BYTES / 1024 ** 2} MB, which no script is. Bring in its parts one by one.`)
  const starts = (...signs: number[]) => signs.every((sign, i) => bytes[i] === sign)
  if (starts(0x25, 0x50, 0x44, 0x46)) throw new Error('This is a PDF. Export the script as Fountain (plain text) where it was written, then bring that in.')
  if (starts(0x50, 0x4b)) throw new Error('This is a packed document. Export the script as Fountain (plain text) where it was written, then bring that in.')
  if (starts(0xff, 0xfe)) return { text: new TextDecoder('utf-16le').decode(bytes), note: null }
  if (starts(0xfe, 0xff)) return { text: new TextDecoder('utf-16be').decode(bytes), note: null }
  if (bytes.includes(0)) throw new Error('This is not a text file. A script is brought in as Fountain, which is plain text.')
  let text: string
  let note: string | null = null
  try {
    text = new TextDecoder('utf-8', { fatal: true }).decode(bytes)
  } catch {
    text = new TextDecoder('windows-1252').decode(bytes)
    note = 'The file is not UTF-8; it was read as Western European text. Look whether accents and quotes are right, and save it as UTF-8 if they are not.'
  }
  if (/^\s*<\?xml|^\s*<[a-z]+[\s>]/i.test(text.slice(0, 400))) throw new Error('This is a marked-up document, not Fountain. Export the script as Fountain (plain text), then bring that in.')
  return { text, note }
}

import { holdable, pieces, shorten } from '../document/text'
import type { ScriptPassage } from './passages'

/** Something in a script that is not as its format has it. It is taken as the text that it is. */
export interface ScriptDoubt {
  /** From 1. */
  readonly line: number
  readonly what: 'open-comment' | 'open-note' | 'too-long'
}

export interface ReadScript {
  /** From the title page; null where it has none. */
  readonly title: string | null
  readonly passages: readonly ScriptPassage[]
  readonly doubts: readonly ScriptDoubt[]
}

/** The most letters of a passage's text, speaker and manner. */
const MOST = Object.freeze({ text: 20_000, speaker: 200, manner: 500 })

const HEADING = /^(?:int\.?\/ext|ext\.?\/int|int|ext|est|i\/e)[. ]/i
const TITLE_KEY = /^([A-Za-z][A-Za-z ]{0,30}):(.*)$/
const FORCED_HEADING = /^\.[^.\s]|^\. +\S/
const SECTION = /^(#{1,6})\s*(\S.*)$/
const SYNOPSIS = /^=(?!=)\s*(\S.*)$/
const PAGE_BREAK = /^={3,}$/
const CENTERED = /^>.*<$/
const REST_OF_LINE = / *\n/y
const PARENTHETICAL = /^\((.*)\)$/

// What looks for an end with a pattern looks from every beginning: a line of many spaces or brackets would take minutes.

/** Without the sign of dual dialogue. */
const withoutCaret = (line: string) => (line.endsWith('^') ? line.slice(0, -1).trimEnd() : line)

/** Without what stands in brackets at its end. */
function withoutBrackets(line: string): string {
  let rest = line
  while (rest.endsWith(')')) {
    const from = rest.indexOf('(', rest.lastIndexOf(')', rest.length - 2) + 1)
    if (from < 0) return rest
    rest = rest.slice(0, from).trimEnd()
  }
  return rest
}

/** Without spaces at its end, but for a line of nothing else. */
function withoutEnd(line: string): string {
  let end = line.length
  while (end > 0 && line[end - 1] === ' ') end--
  return line.trim() === '' ? line : line.slice(0, end)
}

/** Without empty lines before and after. */
function withoutBlank(text: string): string {
  let [from, to] = [0, text.length]
  while (from < to && text[from] === '\n') from++
  while (to > from && text[to - 1] === '\n') to--
  return text.slice(from, to)
}

/** A name in capitals, with what may stand in brackets after it. */
function isName(line: string): boolean {
  if (line.startsWith('@')) return line.length > 1
  const name = withoutBrackets(withoutCaret(line))
  return /\p{L}/u.test(name) && name === name.toUpperCase() && !/^[!.>~=#[(]/.test(name)
}

const isTransition = (line: string) => (line.startsWith('>') && !CENTERED.test(line)) || (/TO:$/.test(line) && line === line.toUpperCase() && /\p{L}/u.test(line))

/** A line of nothing at all parts what is above it from what is below; one of spaces, two at least, does not. */
const parts = (line: string) => line.length < 2 && line.trim() === ''

/** Signs that would mean something else get one more backslash, and lose it in reading: any text can be written. */
const hideComments = (text: string) => text.replace(/\/(\\*)\*/g, '/\\$1*')
const showComments = (text: string) => text.replace(/\/\\(\\*)\*/g, '/$1*')
const hideNoteEnds = (text: string) => text.replace(/\](\\*)(?=\])/g, ']\\$1')
const showNoteEnds = (text: string) => text.replace(/\]\\(\\*)(?=\])/g, ']$1')
const hideBracket = (line: string) => line.replace(/^(\\*)\(/, '\\$1(')
const showBracket = (line: string) => line.replace(/^\\(\\*)\(/, '$1(')

interface Line {
  readonly text: string
  /** In the file, from 1. */
  readonly number: number
}

/**
 * Reads a screenplay in Fountain, by the format's public rules (fountain.io/syntax). Line ends and a byte order mark don't
 * matter; dual dialogue comes one after the other. Emphasis, escapes, lyrics, centred text and scene numbers stay in the
 * text as they are written; what is commented out is a note that keeps its signs, and so are synopses and page breaks.
 * Nothing makes a script unreadable: what is no Fountain is action, and named where it seems meant as something else.
 */
export function readFountain(source: string): ReadScript {
  const doubts: ScriptDoubt[] = []
  const passages: ScriptPassage[] = []
  const text = holdable(source.replace(/^\uFEFF/, '')).replace(/\r\n?/g, '\n').replace(/\t/g, '    ')
  const put = (kind: ScriptPassage['kind'], words: string, line: number, as = '', how = '', asWritten = false) => {
    const [whole, speaker, manner] = asWritten ? [words, as, how] : [showComments(words), showComments(as), showComments(how)]
    if (whole.length > MOST.text || speaker.length > MOST.speaker || manner.length > MOST.manner) doubts.push({ line, what: 'too-long' })
    for (const text of pieces(whole, MOST.text)) passages.push({ kind, speaker: shorten(speaker, MOST.speaker), manner: shorten(manner, MOST.manner), text })
  }
  const { lines, comments } = withoutComments(text, doubts)
  let at = 0
  const title = readTitlePage(lines, (words, end) => {
    put('title', words, 1)
    at = end
  })
  let told = 0
  const comment = (until: number) => {
    // A comment keeps its signs, all of them.
    while (told < comments.length && comments[told]!.before <= until) put('note', comments[told++]!.text, until, '', '', true)
  }
  while (at < lines.length) {
    if (parts(lines[at]!.text)) {
      at++
      continue
    }
    const begin = at
    while (at < lines.length && !parts(lines[at]!.text)) at++
    comment(begin)
    readBlock(lines.slice(begin, at), put, doubts)
    comment(at - 1)
  }
  comment(Infinity)
  return { title, passages, doubts }
}

type Put = (kind: ScriptPassage['kind'], words: string, line: number, speaker?: string, manner?: string) => void

interface Comment {
  readonly text: string
  /** The line, counted without comments, that it stood before or in. */
  readonly before: number
}

/** Comments are taken out whole; one that is never closed is text. */
function withoutComments(text: string, doubts: ScriptDoubt[]): { readonly lines: readonly Line[]; readonly comments: Comment[] } {
  const lines: Line[] = []
  const comments: Comment[] = []
  let number = 1
  let open = ''
  // Kept beside it: a line of many comments would be trimmed anew after each.
  let blank = true
  let begun = number
  const add = (words: string) => {
    const found = words.split('\n')
    open += found[0]!
    blank &&= found[0]!.trim() === ''
    for (const next of found.slice(1)) {
      lines.push({ text: open, number: begun })
      number++
      begun = number
      open = next
      blank = next.trim() === ''
    }
  }
  let at = 0
  for (;;) {
    const from = text.indexOf('/*', at)
    const to = from < 0 ? -1 : text.indexOf('*/', from + 2)
    if (from >= 0 && to < 0) doubts.push({ line: number + text.slice(at, from).split('\n').length - 1, what: 'open-comment' })
    if (from < 0 || to < 0) break
    add(text.slice(at, from))
    comments.push({ text: text.slice(from, to + 2), before: lines.length })
    number += text.slice(from, to + 2).split('\n').length - 1
    at = to + 2
    // A comment alone on its lines leaves no line behind.
    REST_OF_LINE.lastIndex = at
    if (blank && REST_OF_LINE.test(text)) {
      at = text.indexOf('\n', at) + 1
      number++
      begun = number
      open = ''
      blank = true
    }
  }
  add(text.slice(at))
  lines.push({ text: open, number: begun })
  return { lines: lines.map((line) => ({ ...line, text: withoutEnd(line.text) })), comments }
}

/** Keys and values up to the first blank line, where the file begins with them. */
function readTitlePage(lines: readonly Line[], found: (words: string, end: number) => void): string | null {
  let begin = 0
  while (begin < lines.length && lines[begin]!.text.trim() === '') begin++
  let end = begin
  while (end < lines.length && !parts(lines[end]!.text)) end++
  const page = lines.slice(begin, end).map((line) => line.text)
  if (!isTitlePage(page)) return null
  found(page.join('\n'), end)
  const at = page.findIndex((line) => /^title:/i.test(line))
  if (at < 0) return null
  const value = [page[at]!.replace(/^title:/i, '')]
  for (let i = at + 1; i < page.length && /^ {3,}/.test(page[i]!); i++) value.push(page[i]!)
  const title = value.map((line) => line.replace(/[*_]/g, '').trim()).filter((line) => line !== '').join(' ')
  return title === '' ? null : title
}

function isTitlePage(page: readonly string[]): boolean {
  const first = page[0] === undefined ? null : TITLE_KEY.exec(page[0])
  if (first === null || HEADING.test(page[0]!)) return false
  // `FADE IN:` alone is how many scripts begin.
  if (first[2]!.trim() === '' && !/^ {3,}\S/.test(page[1] ?? '')) return false
  return page.every((line) => TITLE_KEY.test(line) || /^ {3,}/.test(line))
}

/** Lines without a blank one between them: those that each say what they are, and then what the rest is together. */
function readBlock(block: readonly Line[], put: Put, doubts: ScriptDoubt[]): void {
  const alone = block.findIndex((line) => !readAlone(line, put))
  if (alone >= 0) readTogether(block.slice(alone), put, doubts)
}

/** A line that is one thing whatever stands around it; false where it isn't. */
function readAlone({ text, number }: Line, put: Put): boolean {
  const line = text.trim()
  const section = SECTION.exec(line)
  if (section !== null) put('section', `${section[1]} ${section[2]!.trim()}`, number)
  else if (PAGE_BREAK.test(line)) put('note', line, number)
  else if (SYNOPSIS.test(line)) put('note', `= ${SYNOPSIS.exec(line)![1]!.trim()}`, number)
  else if (HEADING.test(line)) put('scene', line, number)
  else if (FORCED_HEADING.test(line)) put('scene', line.slice(1).trim(), number)
  else return line === ''
  return true
}

function readTogether(block: readonly Line[], put: Put, doubts: ScriptDoubt[]): void {
  const [first, ...rest] = block as readonly [Line, ...Line[]]
  const line = first.text.trim()
  const action = (from: readonly Line[]) => put('action', withoutBlank(from.map(({ text }) => (text.trim() === '' ? '' : text)).join('\n')), first.number)
  if (line.startsWith('!')) return action([{ ...first, text: first.text.replace('!', '') }, ...rest])
  if (isTransition(line) && rest.length === 0) return put('transition', line.replace(/^>\s*/, ''), first.number)
  if (isName(line) && rest.length > 0) return readDialogue(first, rest, put)
  const notes = onlyNotes(block)
  if (notes !== null) return notes.forEach((note) => put('note', note, first.number))
  if (block.some(({ text }) => text.includes('[[')) && !closesNotes(block)) doubts.push({ line: first.number, what: 'open-note' })
  action(block)
}

const joined = (block: readonly Line[]) => block.map(({ text }) => text).join('\n')
const closesNotes = (block: readonly Line[]) => (joined(block).match(/\[\[/g) ?? []).length <= (joined(block).match(/\]\]/g) ?? []).length

/** The notes that a block is made of, or null where it has other words too. */
function onlyNotes(block: readonly Line[]): string[] | null {
  const notes: string[] = []
  const text = joined(block)
  let at = 0
  for (;;) {
    const from = text.indexOf('[[', at)
    let to = from < 0 ? -1 : text.indexOf(']]', from + 2)
    while (to >= 0 && text[to + 2] === ']') to++
    if (to < 0 || text.slice(at, from).trim() !== '') break
    notes.push(showNoteEnds(text.slice(from + 2, to).split('\n').map((line) => line.trim()).join('\n').trim()))
    at = to + 2
  }
  return text.slice(at).trim() === '' && notes.length > 0 ? notes : null
}

function readDialogue(name: Line, lines: readonly Line[], put: Put): void {
  const speaker = withoutCaret(name.text.trim().replace(/^@/, '')).trim()
  let manner = ''
  let said: string[] = []
  let any = false
  const end = () => {
    if (any) put('dialogue', withoutBlank(said.join('\n')), name.number, speaker, manner)
    ;[manner, said, any] = ['', [], false]
  }
  for (const { text } of lines) {
    const line = text.trim()
    const how = PARENTHETICAL.exec(line)
    if (how !== null) {
      end()
      manner = how[1]!.trim()
    } else said.push(showBracket(line))
    any = true
  }
  end()
}

/** Writes passages as Fountain, so that reading them gives them back. */
export function writeFountain(passages: readonly ScriptPassage[]): string {
  const blocks: string[] = []
  passages.forEach((passage, index) => {
    const { kind } = passage
    const [text, speaker, manner] = [passage.text, passage.speaker, passage.manner].map(hideComments) as [string, string, string]
    if (kind === 'title') blocks.push(passage.text)
    else if (kind === 'scene') blocks.push(HEADING.test(text) ? oneLine(text) : `.${text.startsWith('.') ? ' ' : ''}${oneLine(text)}`)
    else if (kind === 'section') blocks.push(oneLine(text))
    else if (kind === 'note') blocks.push(noteText(passage.text))
    else if (kind === 'transition') blocks.push(`> ${oneLine(text)}`)
    else if (kind === 'action') blocks.push(actionText(text, index === 0))
    else {
      const before = passages[index - 1]
      const goesOn = before?.kind === 'dialogue' && before.speaker === passage.speaker && manner !== ''
      const said = text === '' && manner !== '' ? [] : text.split('\n').map((line) => (line.trim() === '' ? '  ' : hideBracket(line)))
      const lines = [...(manner === '' ? [] : [`(${oneLine(manner)})`]), ...said]
      const name = oneLine(speaker) || '?'
      if (goesOn) blocks[blocks.length - 1] += `\n${lines.join('\n')}`
      else {
        const plain = isName(name) && !name.startsWith('@') && !HEADING.test(name) && !SECTION.test(name) && !(index === 0 && isTitlePage([name, ...lines]))
        blocks.push([plain ? name : `@${name}`, ...lines].join('\n'))
      }
    }
  })
  return `${blocks.join('\n\n')}\n`
}

const oneLine = (text: string) => text.replace(/\s*\n\s*/g, ' ')
/** Blank lines inside would part it in two. */
const unparted = (text: string) => text.split('\n').map((line) => (line.trim() === '' ? '  ' : line)).join('\n')

function noteText(text: string): string {
  const comment = text.startsWith('/*') && text.endsWith('*/') && text.length >= 4 && !text.slice(2, -2).includes('*/')
  if (comment || PAGE_BREAK.test(text) || (SYNOPSIS.test(text) && !text.includes('\n') && text === `= ${SYNOPSIS.exec(text)![1]!.trim()}`)) return comment ? text : hideComments(text)
  return `[[${unparted(hideNoteEnds(hideComments(text)))}${text.endsWith(']') ? ' ' : ''}]]`
}

/** A line that would be read as something else gets the sign that says what it is. */
function actionText(text: string, isFirst: boolean): string {
  const kept = unparted(text)
  const lines = kept.split('\n')
  const first = lines[0]!.trim()
  const mistaken =
    first === '' ||
    /^[!.@#=>[]/.test(first) ||
    HEADING.test(first) ||
    isTransition(first) ||
    (isName(first) && lines.length > 1) ||
    (isFirst && isTitlePage(lines)) ||
    onlyNotes(lines.map((line) => ({ text: line, number: 0 }))) !== null
  // Centred text is its own sign.
  return mistaken && !(lines.length === 1 && CENTERED.test(first)) ? `!${kept}` : kept
}

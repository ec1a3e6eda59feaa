import * as fountain from 'fountain-js'
import type { ScriptPassage } from './passages'

export interface ReadScript {
  /** From the title page; null where it has none. */
  readonly title: string | null
  readonly passages: readonly ScriptPassage[]
}

/** The parser takes time by the square of the length: long scripts are read in parts of about this many characters. */
const PART_CHARACTERS = 16_000
const HEADING = /^(?:\.(?=[^.\s])|(?:int|ext|est|int\.?\/ext|i\/e)[. ])/i

/**
 * Reads a screenplay in Fountain. Line ends and a byte order mark don't matter; what is commented out is left out;
 * dual dialogue comes one after the other. Text that is not Fountain at all comes out as action.
 */
export function readFountain(source: string): ReadScript {
  const text = source.replace(/^\uFEFF/, '').replace(/\r\n?/g, '\n').replace(/\/\*[\s\S]*?\*\//g, '').replace(/\t/g, '    ')
  const passages: ScriptPassage[] = []
  let title: string | null = null
  for (const [index, part] of parts(text).entries()) {
    const { tokens } = new fountain.Fountain().parse(part, true)
    const page = tokens.filter((token) => token.is_title === true)
    if (index === 0 && page.length > 0) {
      title = page.find((token) => token.type === 'title')?.text?.replace(/[*_]/g, '').trim() ?? null
      passages.push({ kind: 'title', speaker: '', manner: '', text: page.map((token) => `${named(token.type)}: ${indented(token.text ?? '')}`).join('\n') })
    }
    read(tokens.filter((token) => token.is_title !== true), passages)
  }
  return { title, passages }
}

/** Cut before scene headings, so that nothing that belongs together is parted. */
function parts(text: string): string[] {
  const found: string[] = []
  let from = 0
  while (text.length - from > PART_CHARACTERS) {
    let cut = -1
    for (let at = text.indexOf('\n\n', from + PART_CHARACTERS / 2); at >= 0 && at < from + PART_CHARACTERS * 4; at = text.indexOf('\n\n', at + 2)) {
      if (HEADING.test(text.slice(at + 2, at + 40).trimStart())) {
        cut = at
        break
      }
    }
    // A scene without end is cut between paragraphs, one without paragraphs where it must be.
    if (cut < 0) cut = text.indexOf('\n\n', from + PART_CHARACTERS)
    if (cut < 0) break
    found.push(text.slice(from, cut + 1))
    from = cut + 2
  }
  found.push(text.slice(from))
  return found
}

function read(tokens: readonly fountain.Token[], into: ScriptPassage[]) {
  let speaker = ''
  let manner = ''
  for (const token of tokens) {
    const text = (token.text ?? '').trim()
    const plain = (kind: ScriptPassage['kind']) => text !== '' && into.push({ kind, speaker: '', manner: '', text })
    switch (token.type) {
      case 'scene_heading':
        plain('scene')
        break
      case 'action':
      case 'centered':
      case 'lyrics':
        plain('action')
        break
      case 'transition':
        // The parser minds the ending before the sign that makes it action.
        if (text.startsWith('!')) into.push({ kind: 'action', speaker: '', manner: '', text: text.slice(1) })
        else into.push({ kind: 'transition', speaker: '', manner: '', text: text.replace(/^>\s*/, '') })
        break
      case 'section':
        into.push({ kind: 'section', speaker: '', manner: '', text: `${'#'.repeat(token.depth ?? 1)} ${text}` })
        break
      case 'synopsis':
      case 'note':
        plain('note')
        break
      case 'character':
        speaker = text.replace(/\s*\^\s*$/, '').slice(0, 200)
        manner = ''
        break
      case 'parenthetical':
        manner = text.replace(/^\(|\)$/g, '').trim().slice(0, 500)
        break
      case 'dialogue':
        if (text !== '') into.push({ kind: 'dialogue', speaker, manner, text })
        manner = ''
        break
    }
  }
}

const named = (type: string) => type.split('_').map((word) => word.charAt(0).toUpperCase() + word.slice(1)).join(' ')
const indented = (text: string) => (text.includes('\n') ? text.split('\n').map((line) => `\n    ${line.trim()}`).join('') : text)

/** A line that would be read as something else gets the sign that says what it is. */
const AS_HEADING = /^(?:int|ext|est|int\.?\/ext|i\/e)[. ]/i
const oneLine = (text: string) => text.replace(/\s*\n\s*/g, ' ')

/** Writes passages as Fountain, so that reading them gives them back. */
export function writeFountain(passages: readonly ScriptPassage[]): string {
  const blocks: string[] = []
  passages.forEach((passage, index) => {
    const { kind, speaker, manner, text } = passage
    if (kind === 'title') blocks.push(text)
    else if (kind === 'scene') blocks.push(AS_HEADING.test(text) ? oneLine(text) : `.${oneLine(text)}`)
    else if (kind === 'section') blocks.push(oneLine(text))
    else if (kind === 'note') blocks.push(`[[${text.replace(/\]\]/g, '] ]')}]]`)
    else if (kind === 'transition') blocks.push(`> ${oneLine(text)}`)
    else if (kind === 'action') blocks.push(actionText(text))
    else {
      const before = passages[index - 1]
      const goesOn = before?.kind === 'dialogue' && before.speaker === speaker && manner !== ''
      const lines = [...(manner === '' ? [] : [`(${manner})`]), ...text.split('\n').map((line) => (line.trim() === '' ? '  ' : line))]
      if (goesOn) blocks[blocks.length - 1] += `\n${lines.join('\n')}`
      else blocks.push([/^[^a-z]*[A-Z][^a-z]*(?:\(.*\))?$/.test(speaker) ? speaker : `@${speaker || '?'}`, ...lines].join('\n'))
    }
  })
  return `${blocks.join('\n\n')}\n`
}

function actionText(text: string): string {
  // Blank lines inside would part it in two.
  const kept = text.replace(/\n[ \t]*\n/g, '\n  \n')
  const first = kept.split('\n')[0]!
  const mistaken = AS_HEADING.test(first) || /^[.!@#=>~[]/.test(first) || (/^[^a-z]*[A-Z][^a-z]*$/.test(first) && first.length < 80) || /TO:\s*$/.test(first)
  return mistaken ? `!${kept}` : kept
}

import plainUrl from '@fontsource/archivo/files/archivo-latin-400-normal.woff?url'
import plainMoreUrl from '@fontsource/archivo/files/archivo-latin-ext-400-normal.woff?url'
import boldUrl from '@fontsource/archivo/files/archivo-latin-700-normal.woff?url'
import boldMoreUrl from '@fontsource/archivo/files/archivo-latin-ext-700-normal.woff?url'
import typedUrl from '@fontsource/ibm-plex-mono/files/ibm-plex-mono-latin-400-normal.woff?url'
import typedMoreUrl from '@fontsource/ibm-plex-mono/files/ibm-plex-mono-latin-ext-400-normal.woff?url'
import bookUrl from '@fontsource/newsreader/files/newsreader-latin-400-normal.woff?url'
import bookMoreUrl from '@fontsource/newsreader/files/newsreader-latin-ext-400-normal.woff?url'
import handUrl from '@fontsource/patrick-hand/files/patrick-hand-latin-400-normal.woff?url'
import handMoreUrl from '@fontsource/patrick-hand/files/patrick-hand-latin-ext-400-normal.woff?url'
import wideUrl from 'dejavu-fonts-ttf/ttf/DejaVuSansCondensed.ttf?url'
import type { Font } from '@pdf-lib/fontkit'
import type { WordFont, Words } from '@rubato/core/document'
import type { PathStep } from '@rubato/core/ink'

export const FONT_NAMES: Readonly<Record<WordFont, string>> = { plain: 'Plain', bold: 'Bold', book: 'Book', hand: 'Hand', typed: 'Typewriter' }
/** The face itself, what it has beyond, and one with most of the world’s alphabets. */
const FACES: Readonly<Record<WordFont, readonly string[]>> = {
  plain: [plainUrl, plainMoreUrl, wideUrl],
  bold: [boldUrl, boldMoreUrl, wideUrl],
  book: [bookUrl, bookMoreUrl, wideUrl],
  hand: [handUrl, handMoreUrl, wideUrl],
  typed: [typedUrl, typedMoreUrl, wideUrl],
}
/** Ems from line to line. */
const LINE_EM = 1.2

const loaded = new Map<string, Promise<Font>>()
function load(url: string): Promise<Font> {
  const known = loaded.get(url)
  if (known !== undefined) return known
  const coming = Promise.all([import('@pdf-lib/fontkit'), fetch(url)]).then(async ([{ default: fontkit }, response]) => {
    if (!response.ok) throw new Error(`A font could not be loaded (${response.status}). Is the server running? Try again.`)
    return fontkit.create(new Uint8Array(await response.arrayBuffer()) as unknown as Parameters<typeof fontkit.create>[0])
  })
  // What failed is asked for anew.
  coming.catch(() => loaded.delete(url))
  loaded.set(url, coming)
  return coming
}

export interface SetLetters {
  /** In ems, y up; the first line stands on 0. */
  readonly steps: readonly PathStep[]
  /** Signs that no font has: they are shown as boxes. */
  readonly missing: string
}

/** Sets words in a shipped font, with its kerning and ligatures. */
export async function setLetters({ text, font, align }: Pick<Words, 'text' | 'font' | 'align'>): Promise<SetLetters> {
  const faces: Font[] = []
  for (const url of FACES[font]) {
    faces.push(await load(url))
    if ([...text].every((sign) => sign === '\n' || faces.some((face) => face.hasGlyphForCodePoint(sign.codePointAt(0)!)))) break
  }
  const missing = new Set<string>()
  const steps: PathStep[] = []
  text.split('\n').forEach((line, row) => {
    const runs: { face: Font; text: string }[] = []
    for (const sign of line) {
      let face = faces.find((each) => each.hasGlyphForCodePoint(sign.codePointAt(0)!))
      let shown = sign
      if (face === undefined) {
        missing.add(sign)
        face = faces.at(-1)!
        shown = '□'
      }
      const last = runs.at(-1)
      if (last?.face === face) last.text += shown
      else runs.push({ face, text: shown })
    }
    const laid = runs.map(({ face, text: part }) => ({ face, run: face.layout(part) }))
    const width = laid.reduce((sum, { face, run }) => sum + run.positions.reduce((all, { xAdvance }) => all + xAdvance, 0) / face.unitsPerEm, 0)
    let pen = align === 'start' ? 0 : align === 'middle' ? -width / 2 : -width
    for (const { face, run } of laid) {
      run.glyphs.forEach((glyph, i) => {
        const { xAdvance, xOffset, yOffset } = run.positions[i]!
        steps.push(...stepsOf(glyph.path as unknown as FontPath, 1 / face.unitsPerEm, pen + xOffset / face.unitsPerEm, yOffset / face.unitsPerEm - row * LINE_EM))
        pen += xAdvance / face.unitsPerEm
      })
    }
  })
  return { steps, missing: [...missing].join('') }
}

/** As the library has them, which its types don’t tell. */
interface FontPath {
  readonly commands: readonly { readonly command: 'moveTo' | 'lineTo' | 'quadraticCurveTo' | 'bezierCurveTo' | 'closePath'; readonly args: readonly number[] }[]
}

function stepsOf({ commands }: FontPath, scale: number, x: number, y: number): PathStep[] {
  return commands.map(({ command, args }): PathStep => {
    const at = (i: number) => [args[i]! * scale + x, args[i + 1]! * scale + y] as const
    switch (command) {
      case 'moveTo':
        return { kind: 'move', to: at(0) }
      case 'lineTo':
        return { kind: 'line', to: at(0) }
      case 'quadraticCurveTo':
        return { kind: 'quadratic', by: at(0), to: at(2) }
      case 'bezierCurveTo':
        return { kind: 'cubic', by: at(0), then: at(2), to: at(4) }
      case 'closePath':
        return { kind: 'close' }
    }
  })
}

import fontkit from '@pdf-lib/fontkit'
import wideUrl from 'dejavu-fonts-ttf/ttf/DejaVuSansCondensed.ttf?url'
import plainUrl from '@fontsource/archivo/files/archivo-latin-400-normal.woff?url'
import boldUrl from '@fontsource/archivo/files/archivo-latin-600-normal.woff?url'
import plainMoreUrl from '@fontsource/archivo/files/archivo-latin-ext-400-normal.woff?url'
import boldMoreUrl from '@fontsource/archivo/files/archivo-latin-ext-600-normal.woff?url'
import type { PDFDocument, PDFFont } from 'pdf-lib'

interface Face {
  readonly font: PDFFont
  readonly has: ReadonlySet<number>
}

export type Weight = 'plain' | 'bold'
export interface Run {
  readonly text: string
  readonly font: PDFFont
}

export interface PrintFonts {
  /** Text as runs of one font each. Signs that none has become boxes, and are remembered. */
  runs(text: string, weight: Weight): readonly Run[]
  measure(text: string, weight: Weight, size: number): number
  readonly missing: ReadonlySet<string>
}

/** The product's own face first, then one with most of the world's alphabets; each embedded with the signs used only. */
export async function embedFonts(pdf: PDFDocument, wanted: string): Promise<PrintFonts> {
  pdf.registerFontkit(fontkit)
  const load = async (url: string): Promise<Face> => {
    const response = await fetch(url)
    if (!response.ok) throw new Error(`A font could not be loaded (${response.status}). Is the server running? Try again.`)
    const font = await pdf.embedFont(await response.arrayBuffer(), { subset: true })
    return { font, has: new Set(font.getCharacterSet()) }
  }
  const faces: Record<Weight, Face[]> = { plain: [await load(plainUrl)], bold: [await load(boldUrl)] }
  const signs = [...new Set(wanted)].map((sign) => sign.codePointAt(0)!).filter((code) => code > 31)
  const lacking = (weight: Weight) => signs.some((code) => !faces[weight].some((face) => face.has.has(code)))
  if (lacking('plain') || lacking('bold')) {
    faces.plain.push(await load(plainMoreUrl))
    faces.bold.push(await load(boldMoreUrl))
  }
  if (lacking('plain') || lacking('bold')) {
    const wide = await load(wideUrl)
    faces.plain.push(wide)
    faces.bold.push(wide)
  }
  const missing = new Set<string>()
  const box = (weight: Weight) => (faces[weight].some((face) => face.has.has(0x25a1)) ? '□' : '?')

  function runs(text: string, weight: Weight): readonly Run[] {
    const found: { text: string; font: PDFFont }[] = []
    for (const sign of text) {
      const code = sign.codePointAt(0)!
      if (code < 32) continue
      let shown = sign
      let face = faces[weight].find((each) => each.has.has(code))
      if (face === undefined) {
        missing.add(sign)
        shown = box(weight)
        face = faces[weight].find((each) => each.has.has(shown.codePointAt(0)!)) ?? faces[weight][0]!
      }
      const last = found.at(-1)
      if (last?.font === face.font) last.text += shown
      else found.push({ text: shown, font: face.font })
    }
    return found
  }
  return { runs, missing, measure: (text, weight, size) => runs(text, weight).reduce((sum, run) => sum + run.font.widthOfTextAtSize(run.text, size), 0) }
}

import { drawingProblems, drawingsWith, openDrawing, openTakeBody, takeLengthFrames, takeProblems, type Drawing, type TakeBody } from '@rubato/core/document'

/** A take or drawing out of a film's file, whole and of the present format, as the text that is kept. */
export interface FoundUnit {
  readonly kind: 'take' | 'drawing'
  readonly text: string
  readonly lengthFrames: number
  /** The drawings that a take shows. */
  readonly drawings: readonly string[]
  /** The pictures that a drawing shows. */
  readonly pictures: readonly string[]
}

/** Reads one; what is wrong with it, as text, where it can't be taken. `either`: whichever it is. */
export function readUnit(json: string, wanted: 'take' | 'drawing' | 'either', format: number): FoundUnit | string {
  let value: unknown
  try {
    value = JSON.parse(json)
  } catch (error) {
    return `can't be read (${(error as Error).message.slice(0, 200)}).`
  }
  if (wanted === 'either') {
    const body = value as { format?: unknown; content?: unknown } | null
    const of = typeof body?.format === 'number' ? body.format : format
    const found = [take(body?.content, of), drawing(body?.content, of)].find((each) => typeof each !== 'string')
    return found ?? 'is neither a take nor a drawing.'
  }
  return wanted === 'take' ? take(value, format) : drawing(value, format)
}

const says = (problem: { readonly path: readonly string[]; readonly code: string }) => `${problem.path.join('.')}: ${problem.code}.`

function take(value: unknown, format: number): FoundUnit | string {
  const opened = openTakeBody(value, format)
  if (!opened.ok) return `${opened.issues[0]?.message ?? 'it is of a newer format'}.`
  const body = opened.value as TakeBody
  const [problem] = takeProblems(body)
  if (problem !== undefined) return says(problem)
  return { kind: 'take', text: JSON.stringify(body), lengthFrames: takeLengthFrames(body), drawings: drawingsWith(body), pictures: [] }
}

function drawing(value: unknown, format: number): FoundUnit | string {
  const opened = openDrawing(value, format)
  if (!opened.ok) return `${opened.issues[0]?.message ?? 'it is of a newer format'}.`
  const drawn = opened.value as Drawing
  const [problem] = drawingProblems(drawn)
  if (problem !== undefined) return says(problem)
  return { kind: 'drawing', text: JSON.stringify(drawn), lengthFrames: 0, drawings: [], pictures: [...new Set(drawn.marks.flatMap((mark) => (mark.kind === 'picture' ? [mark.assetHash] : [])))] }
}

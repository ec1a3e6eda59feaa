import { namedDrawings, shownAt, shownOver, takeLengthFrames, type Drawing, type Level } from '@rubato/core/document'
import { changeExposures, deleteExposures, drawingNamed, dropDrawing, endRun, exposeFrames, exposeFrom, exposeNew, insertExposures, onSteps, renameDrawing, repeated, reversedRuns, runAt, shiftExposures, shuffled, thereAndBack, type FrameSpan, type Made, type Shown } from '@rubato/core/edits'
import { readExposures, writeExposures } from '@rubato/core/interchange'
import { fileTitle, saveFile } from '~/composables/handover/useWordsOut'
import { useDeskStore } from '~/stores/desk'
import { useFilmStore } from '~/stores/film'
import { useSheetStore } from '~/stores/sheet'
import { wordExposureRefusal } from '~/text/exposureRefusals'
import { together } from '~/stores/levelHand'

const MOST_CSV_BYTES = 20 * 1024 * 1024

/** Exposures of the selected level, changed in the sheet and from Draw. */
export function useExposures() {
  const film = useFilmStore()
  const desk = useDeskStore()
  const sheet = useSheetStore()

  function level(): Level | null {
    if (desk.selectedLevel !== null) return desk.selectedLevel
    film.refuse('No level is selected. Choose one first.')
    return null
  }
  const perform = (label: string, how: (take: Parameters<typeof exposeFrom>[0], takeId: string) => Made, joins: string | null = null) => {
    const takeId = desk.takeId
    return takeId !== null && film.perform(label, (f) => how(f.takes[takeId]!, takeId), joins)
  }
  /** The chosen frames; of one alone its run from there on; without any, the run at the playhead. */
  function chosen(own: Level): FrameSpan {
    const { span } = sheet
    if (span !== null && span.to - span.from > 1) return { from: span.from, to: span.to }
    const run = runAt(desk.take!, own.id, span?.from ?? desk.shotFrame)
    return { from: span?.from ?? run.from, to: run.to }
  }
  const many = ({ from, to }: FrameSpan) => (to - from === 1 ? `f ${from}` : `f ${from}–${to - 1}`)

  /** A new drawing of the selected level, at the playhead: empty, to be drawn in. */
  function newHere(from: Drawing | null = null) {
    const own = level()
    if (own === null) return
    const [id, frame] = [crypto.randomUUID(), sheet.span?.from ?? desk.shotFrame]
    if (from === null) film.startDrawing(id)
    perform(from === null ? `new drawing of ${own.name}` : `copy of a drawing of ${own.name}`, (take, takeId) => {
      const made = exposeNew(take, takeId, own.id, frame, id)
      if (!made.ok || from === null || from.marks.length === 0) return made
      return { ok: true, edits: [...made.edits, { kind: 'drawing-copy', unit: { kind: 'drawing', id }, changes: { marks: Object.fromEntries(from.marks.map((mark) => [mark.id, { before: null, after: mark }])) } }] }
    })
  }
  function copyHere() {
    const own = level()
    if (own === null || desk.take === null) return
    const shown = shownAt(desk.take, own.id, sheet.span?.from ?? desk.shotFrame)
    const drawing = shown === null ? null : film.drawingOf(shown.drawingId)
    if (shown === null) return film.refuse(`${own.name} shows nothing here, so there is nothing to copy. Make a new drawing (I).`)
    if (drawing === null) return film.refuse('The drawing is still being loaded. Try again in a moment.')
    newHere(drawing)
  }

  /** A drawing over the chosen frames; over one, until the next exposure. */
  function expose(drawingId: Shown) {
    const own = level()
    if (own === null) return false
    const span = sheet.span ?? { from: desk.shotFrame, to: desk.shotFrame + 1 }
    const label = drawingId === null ? `show nothing of ${own.name}, ${many(span)}` : `expose ${own.name} ${nameOf(own, drawingId)}, ${many(span)}`
    return perform(label, (take, takeId) => (span.to - span.from === 1 ? exposeFrom(take, takeId, own.id, span.from, drawingId) : exposeFrames(take, takeId, own.id, span.from, Array<Shown>(span.to - span.from).fill(drawingId))))
  }
  const nameOf = (own: Level, drawingId: string) => namedDrawings(desk.take!, own.id).find((each) => each.drawingId === drawingId)?.name ?? ''

  /** What was typed: a drawing's name, or 0 for nothing. False where there is none of that name, which is told. */
  function exposeNamed(name: string): boolean {
    const own = level()
    if (own === null || desk.take === null) return false
    const found = drawingNamed(desk.take, own.id, name)
    if (found === null && name.trim() !== '0') {
      const names = namedDrawings(desk.take, own.id).map((each) => each.name)
      film.refuse(names.length === 0 ? `${own.name} has no drawing yet. Make one here first (I).` : `${own.name} has no drawing ${name}. It has ${names.length > 12 ? `${names.slice(0, 12).join(', ')} …` : names.join(', ')}; make a new one here with I.`)
      return false
    }
    return expose(found)
  }

  /** The chosen frames hold what came before them. */
  function hold() {
    const own = level()
    if (own === null) return
    const span = chosen(own)
    perform(`hold ${own.name} over ${many(span)}`, (take, takeId) => exposeFrames(take, takeId, own.id, span.from, Array<Shown>(span.to - span.from).fill(span.from === 0 ? null : (shownAt(take, own.id, span.from - 1)?.drawingId ?? null))))
  }

  /** To the end of what was chosen, or of the panel that it ends in, or of the shot where that is its panel's end already. */
  function untilOf({ to }: FrameSpan): number {
    const take = desk.take!
    const end = film.panelsOf(desk.takeId!).map(({ panel, startFrame }) => startFrame + panel.lengthFrames).find((each) => each > to)
    return end ?? takeLengthFrames(take)
  }
  function order(label: string, make: (shown: readonly Shown[], frames: number) => readonly Shown[], grows: boolean) {
    const own = level()
    if (own === null || desk.take === null) return
    const span = chosen(own)
    const frames = (grows ? untilOf(span) : span.to) - span.from
    if (new Set(shownOver(desk.take, own.id, span.from, span.to - span.from)).size < 2) return film.refuse('Choose frames that show at least two drawings first: drag over them in the sheet.')
    if (perform(`${label} ${own.name}, f ${span.from}–${span.from + frames - 1}`, (take, takeId) => changeExposures(take, takeId, own.id, span, (shown) => make(shown, frames)))) sheet.span = { from: span.from, to: span.from + frames, cursor: span.from + frames - 1 }
  }
  const repeat = () => order('repeat', repeated, true)
  const reverse = () => order('reverse', (shown) => reversedRuns(shown), false)
  const backAndForth = () => order('there and back:', thereAndBack, true)
  function shuffle() {
    const seed = crypto.getRandomValues(new Uint32Array(1))[0]!
    order('shuffle', (shown, frames) => shuffled(shown, frames, sheet.each, seed), true)
  }
  /** Each of the chosen drawings so many frames; typing goes on so. */
  function setEach(each: 1 | 2 | 3 | 4) {
    sheet.each = each
    const [own, { span }] = [desk.selectedLevel, sheet]
    if (own === null || span === null || desk.take === null || new Set(shownOver(desk.take, own.id, span.from, span.to - span.from)).size < 2) return
    const frames = onSteps(shownOver(desk.take, own.id, span.from, span.to - span.from), each).length
    if (perform(`${own.name} on ${each}s, ${many(span)}`, (take, takeId) => changeExposures(take, takeId, own.id, span, (shown) => onSteps(shown, each)))) sheet.span = { from: span.from, to: Math.min(span.from + frames, takeLengthFrames(desk.take)), cursor: span.from }
  }

  const chosenOr = () => sheet.span ?? { from: desk.shotFrame, to: desk.shotFrame + 1 }
  function insert() {
    const own = level()
    if (own === null) return
    const span = chosenOr()
    perform(`put ${span.to - span.from} f into ${own.name} at f ${span.from}`, (take, takeId) => insertExposures(take, takeId, own.id, span.from, span.to - span.from))
  }
  function cutOut() {
    const own = level()
    if (own === null) return
    const span = chosenOr()
    perform(`take ${many(span)} out of ${own.name}`, (take, takeId) => deleteExposures(take, takeId, own.id, span))
  }
  function shift(by: number) {
    const own = level()
    if (own === null) return
    const span = chosen(own)
    const length = takeLengthFrames(desk.take!)
    const moved = { from: Math.max(0, span.from + by), to: Math.min(length, span.to + by) }
    if (moved.to <= moved.from || span.from + by < 0) return
    if (perform(`shift ${own.name} ${many(span)}`, (take, takeId) => shiftExposures(take, takeId, own.id, span, by), `shift:${own.id}`)) sheet.span = { ...moved, cursor: moved.from }
  }

  function copy(): boolean {
    const own = level()
    if (own === null || desk.take === null) return false
    const { from, to } = chosen(own)
    sheet.copied = { levelId: own.id, shown: shownOver(desk.take, own.id, from, to - from) }
    return true
  }
  /** On another level by name: drawings are each level’s own. */
  function paste() {
    const [own, { copied }] = [level(), sheet]
    if (own === null || desk.take === null) return
    if (copied === null) return film.refuse('Nothing has been copied in the sheet yet. Choose frames and copy them first (Ctrl C).')
    const names = new Map(namedDrawings(desk.take, copied.levelId).map(({ drawingId, name }) => [drawingId, name]))
    const missing = new Set<string>()
    const shown = copied.shown.map((id): Shown => {
      if (id === null || own.id === copied.levelId) return id
      const name = names.get(id) ?? ''
      const found = drawingNamed(desk.take!, own.id, name)
      if (found === null) missing.add(name)
      return found
    })
    if (missing.size > 0) return film.refuse(`${own.name} has no drawing ${[...missing].join(', ')}, so the frames can’t be pasted on it. Copy those of its own drawings.`)
    const from = chosenOr().from
    if (perform(`paste ${shown.length} f on ${own.name}`, (take, takeId) => exposeFrames(take, takeId, own.id, from, shown))) sheet.span = { from, to: Math.min(takeLengthFrames(desk.take), from + shown.length), cursor: from }
  }

  const rename = (own: Level, drawingId: string, name: string) => perform(`rename a drawing of ${own.name}`, (take, takeId) => renameDrawing(take, takeId, own.id, drawingId, name))
  const drop = (own: Level, drawingId: string) => perform(`take drawing ${nameOf(own, drawingId)} out of ${own.name}`, (take, takeId) => dropDrawing(take, takeId, own.id, drawingId))

  function out() {
    const [take, shot] = [desk.take, desk.placedShot]
    if (take === null || shot === null) return
    saveFile(`${fileTitle(film.project?.title ?? '')} ${shot.shot.label} exposures.csv`, new Blob([writeExposures(take)], { type: 'text/csv;charset=utf-8' }))
  }
  async function bring(file: File) {
    if (desk.take === null || desk.takeId === null) return
    try {
      if (file.size > MOST_CSV_BYTES) throw new Error('It is larger than 20 MB, which no sheet is.')
      const bytes = new Uint8Array(await file.arrayBuffer())
      let text: string
      try {
        text = new TextDecoder('utf-8', { fatal: true }).decode(bytes)
      } catch {
        throw new Error('It is not text in UTF-8. Save it as CSV, UTF-8, and try again.')
      }
      const read = readExposures(desk.take, text)
      if (!read.ok) throw new Error(wordExposureRefusal(read.refusal))
      perform(`exposures from ${file.name.slice(0, 80)}`, (take, takeId) => together([...read.shown], ([id, shown]) => exposeFrames(take, takeId, id, 0, shown)))
    } catch (error) {
      film.refuse(`${file.name} was not taken, and nothing is changed. ${(error as Error).message}`)
    }
  }

  return { newHere: () => newHere(), copyHere, expose, exposeNamed, hold, repeat, reverse, backAndForth, shuffle, setEach, insert, cutOut, shift, copy, paste, rename, drop, out, bring, endRun, chosen }
}

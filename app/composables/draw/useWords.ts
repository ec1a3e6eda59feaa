import { holdable, MOST_LETTERS, shorten, type Fill, type Mark, type Words } from '@rubato/core/document'
import { drawMark, removeMarks, replaceMarks } from '@rubato/core/edits'
import type { Point2 } from '@rubato/core/geometry'
import { emOf, markBounds, outlinesOfWords, resized, turnedTo, turnOfWords, wordsPlace } from '@rubato/core/ink'
import { onBeforeUnmount, shallowRef, watch } from 'vue'
import type { Ground, usePen } from '~/composables/draw/usePen'
import { setLetters } from '~/composables/draw/letters'
import { followDrag } from '~/gestures/drag'
import { useDeskStore } from '~/stores/desk'
import { useFilmStore } from '~/stores/film'
import type { Gesture } from '~/stores/editing'
import { usePenStore } from '~/stores/pen'

/** Words being written, before they are a mark. */
export interface Writing {
  /** Of the mark that is changed; null for new words. */
  readonly id: string | null
  readonly ground: Ground
  readonly words: Words
  readonly colour: string
  readonly opacity: number
  readonly forPrint: boolean
  readonly outlines: readonly number[][]
  /** Signs that no font has. */
  readonly missing: string
  /** What its mark said before; null for new words. */
  readonly was: string | null
}
type Said = Pick<Writing, 'words' | 'colour' | 'opacity' | 'forPrint'>
const said = ({ words: { text, font, align, place }, colour, opacity, forPrint }: Said) => JSON.stringify([text, font, align, place, colour, opacity, forPrint])
/** Where a line stands under the point it was asked for, ems. */
const UNDER_EM = 0.35
/** How near to words counts as on them, ems. */
const REACH_EM = 0.2
export const EM_FW = { min: 0.004, max: 1 } as const

/** Words on a level: where the tool is put down they are written, on words they are changed. */
export function useWords(hand: ReturnType<typeof usePen>) {
  const film = useFilmStore()
  const desk = useDeskStore()
  const pen = usePenStore()
  const writing = shallowRef<Writing | null>(null)
  let asked = 0
  /** Words that are changed are shown so as they are written: the film as it would be. */
  let gesture: Gesture | null = null

  async function lay(next: Writing) {
    writing.value = next
    const mine = ++asked
    const { text } = next.words
    try {
      const { steps, missing } = text.trim() === '' ? { steps: [], missing: '' } : await setLetters(next.words)
      if (mine !== asked || writing.value === null) return
      const laid = (writing.value = { ...writing.value, outlines: outlinesOfWords(steps, writing.value.words), missing })
      gesture?.update((f) => tried(laid, f))
    } catch (error) {
      film.refuse((error as Error).message)
    }
  }
  const markOf = ({ id, words, outlines, colour, opacity, forPrint }: Writing) => ({
    id: id ?? crypto.randomUUID(),
    kind: 'fill' as const,
    mode: 'ink' as const,
    outlines: outlines.map((ring) => [...ring]),
    colour,
    opacity,
    words,
    ...(forPrint ? { forPrint: true as const } : {}),
  })
  const tried = (now: Writing, f: typeof film.film) => {
    const place = hand.placeOf(now.ground)(f)
    return now.outlines.length === 0 ? removeMarks(place, [now.id!]) : replaceMarks(place, [markOf(now)])
  }
  /** Changes what is written; the rest stays. */
  function set(fields: Partial<Pick<Words, 'text' | 'font' | 'align' | 'place'>> & Partial<Pick<Writing, 'colour' | 'opacity' | 'forPrint'>>) {
    const now = writing.value
    if (now === null) return
    const { colour = now.colour, opacity = now.opacity, forPrint = now.forPrint, ...words } = fields
    if (words.text !== undefined) words.text = shorten(holdable(words.text), MOST_LETTERS)
    void lay({ ...now, colour, opacity, forPrint, words: { ...now.words, ...words } })
    pen.words = { ...pen.words, font: words.font ?? pen.words.font, align: words.align ?? pen.words.align, forPrint }
  }
  const emOnScreen = (now: Writing) => emOf(now.words) * now.ground.grows
  const setEm = (fw: number) => {
    const now = writing.value
    if (now === null) return
    const em = Math.min(EM_FW.max, Math.max(EM_FW.min, fw))
    set({ place: resized(now.words, em / now.ground.grows) })
    pen.words = { ...pen.words, emFw: em }
  }
  const setTurn = (degrees: number) => writing.value !== null && set({ place: turnedTo(writing.value.words, degrees) })

  const wordsAt = (at: Point2): Fill | null =>
    (hand.drawingHere()?.marks.findLast((mark): mark is Fill => {
      if (mark.kind !== 'fill' || mark.words === undefined) return false
      const reach = emOf(mark.words) * REACH_EM
      const { left, right, bottom, top } = markBounds(mark)
      return at.x >= left - reach && at.x <= right + reach && at.y >= bottom - reach && at.y <= top + reach
    }) ?? null)

  /** Opens words to be changed. */
  function open(mark: Mark) {
    const ground = hand.ground()
    if (ground === null || mark.kind !== 'fill' || mark.words === undefined) return
    keep()
    gesture = film.beginGesture(`change words “${shortOf(mark.words.text)}” on ${ground.level.name}`)
    const shown = { words: mark.words, colour: mark.colour, opacity: mark.opacity, forPrint: mark.forPrint === true }
    void lay({ ...shown, id: mark.id, ground, outlines: mark.outlines, missing: '', was: said(shown) })
  }

  function begin(event: PointerEvent) {
    const ground = hand.ground()
    const at = ground === null ? null : hand.artAt(ground, event)
    if (ground === null || at === null) return
    // The field that opens takes the focus, which the press would take away from it.
    event.preventDefault()
    const there = wordsAt(at)
    if (there !== null) return open(there)
    const em = pen.words.emFw / ground.grows
    void lay({
      id: null,
      ground,
      words: { text: '', font: pen.words.font, align: pen.words.align, place: wordsPlace({ a: em, b: 0, c: 0, d: em, e: at.x, f: at.y - em * UNDER_EM }) },
      colour: pen.brush.colour,
      opacity: 1,
      forPrint: pen.words.forPrint,
      outlines: [],
      missing: '',
      was: null,
    })
  }

  function drag(event: PointerEvent) {
    const now = writing.value
    const from = now === null ? null : hand.artAt(now.ground, event)
    if (now === null || from === null) return
    const start = now.words.place
    const to = (place: Words['place']) => writing.value !== null && set({ place })
    followDrag(event, {
      move: ({ event: step }) => {
        const at = hand.artAt(now.ground, step)
        if (at !== null) to([...start.slice(0, 4), start[4]! + at.x - from.x, start[5]! + at.y - from.y])
      },
      end: () => undefined,
      cancel: () => to(start),
    })
  }

  const giveUp = () => {
    asked++
    writing.value = null
    gesture?.abandon()
    gesture = null
  }

  /** What is written becomes a mark, or changes its own; emptied, it is taken out. */
  function keep() {
    const now = writing.value
    if (now === null) return
    const words = { ...now.words, text: now.words.text.replace(/\s+$/u, '') }
    if (words.text !== '' && now.was !== said({ ...now, words })) {
      asked++
      writing.value = null
      const open = gesture
      gesture = null
      return void finish({ ...now, words }, open)
    }
    giveUp()
    const place = hand.placeOf(now.ground)
    if (words.text === '' && now.id !== null) film.perform(`take words out of ${now.ground.level.name}`, (f) => removeMarks(place(f), [now.id!]))
  }
  async function finish(now: Writing, open: Gesture | null) {
    const { level, takeId, panelId, offsetFrames } = now.ground
    // A letter may have come since they were last set.
    const letters = await setLetters(now.words).catch((error: Error) => void film.refuse(`“${shortOf(now.words.text)}” could not be set. ${error.message}`))
    const laid = { ...now, outlines: letters === undefined ? [] : outlinesOfWords(letters.steps, now.words) }
    if (laid.outlines.length === 0) return open?.abandon()
    const drawingId = crypto.randomUUID()
    const mark = markOf(laid)
    const added = (f: typeof film.film) => drawMark(f.takes[takeId]!, takeId, f.drawings, level.id, panelId, mark, drawingId, pen.editHeld, offsetFrames)
    if (now.id === null) film.perform(`words “${shortOf(now.words.text)}” on ${level.name}`, added)
    else if (open?.update((f) => tried(laid, f)) === true) open.commit()
    else {
      film.perform(`change words “${shortOf(now.words.text)}” on ${level.name}`, (f) => {
        const made = tried(laid, f)
        // Someone has taken them out meanwhile: what was written is not lost.
        return made.ok && made.edits.every(({ changes }) => Object.keys(changes).length === 0) ? added(f) : made
      })
    }
  }

  // Going elsewhere keeps what was written.
  watch(() => [desk.selectedLevelId, desk.takeId, desk.placedPanel?.panel.id, pen.tool, desk.playing], keep)
  onBeforeUnmount(keep)

  return { writing, begin, open, set, setEm, setTurn, emOnScreen, turn: (now: Writing) => turnOfWords(now.words), drag, keep, giveUp }
}

const shortOf = (text: string) => {
  const line = text.trim().split('\n')[0]!
  return line.length > 24 ? `${line.slice(0, 23)}…` : line
}

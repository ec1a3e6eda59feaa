import { EMPTY_DRAWING, EMPTY_OUTLINE, EMPTY_TAKE, orderOfNumber, type Film, type TakeBody } from '@rubato/core/document'
import { applyChange, editPanel, setPanelLength, type Change, type Whereabouts } from '@rubato/core/edits'
import fc from 'fast-check'
import { beforeEach, describe, expect, it } from 'vitest'
import { shallowRef } from 'vue'
import { createAside } from './aside'
import { createEditing, type Make } from './editing'
import { KEEPS_NOTHING, type SetAside } from './kept'

const panel = (id: string, order: number) => ({ id, order: orderOfNumber(order), lengthFrames: 24, lengthLocked: false, action: '', dialogue: '', notes: '' })
const take: TakeBody = { ...EMPTY_TAKE, panels: { a: panel('a', 0), b: panel('b', 1) } }
const outline = {
  ...EMPTY_OUTLINE,
  sequences: { q: { id: 'q', order: 'a0', label: '01', title: '', targetFrames: null } },
  shots: { s: { id: 's', sequenceId: 'q', order: 'a0', label: '010', title: '', circledTakeId: 't' } },
  takes: { t: { id: 't', shotId: 's', order: 'a0', letter: 'A' } },
}
const BEGINNING: Film = { outline, takes: { t: take }, drawings: {} }
const words = (id: string, action: string): Make => (film) => editPanel(film.takes.t!, 't', id, { action })
const frames = (id: string, lengthFrames: number): Make => (film) => setPanelLength(film.takes.t!, 't', id, lengthFrames)
const actionOf = (film: Film, id = 'a') => film.takes.t!.panels[id]!.action

function setUp() {
  const film = shallowRef(BEGINNING)
  const sent: Change[] = []
  const refusals: string[] = []
  const at = { shotId: 's' as string | null, frame: 0, selection: [] as readonly string[] }
  const log: string[] = []
  const looking = { name: null as string | null }
  const revisions = new Map<string, number>([['take:t', 1], ['drawing:d', 1]])
  const ensure = async (kind: string, ids: readonly string[]) => {
    if (ids.length > 0) log.push(`fetch ${kind} ${ids.join()}`)
  }
  const editing = createEditing({
    film,
    projectId: () => null,
    lookingAt: () => looking.name,
    openedSet: () => null,
    revisions,
    whereabouts: (): Whereabouts => ({ ...at }),
    giveBack: (there) => void log.push(`back to ${there.frame}`),
    refuse: (text) => void refusals.push(text),
    send: (change) => void sent.push(change),
    released: () => void log.push('released'),
    ensure,
  })
  return { film, sent, refusals, at, log, looking, revisions, editing }
}

describe('changing a film', () => {
  let { film, sent, refusals, at, log, looking, revisions, editing } = setUp()
  beforeEach(() => ({ film, sent, refusals, at, log, looking, revisions, editing } = setUp()))

  it('makes one change for one thing, undone and done again by its name, where the artist was', () => {
    at.frame = 7
    expect(editing.perform('words', words('a', 'Tilda runs.'))).toBe(true)
    expect([actionOf(film.value), sent.map(({ label }) => label)]).toEqual(['Tilda runs.', ['words']])
    expect(editing.undo()).toBe('words')
    expect([film.value.takes.t, log.at(-1)]).toEqual([take, 'back to 7'])
    expect(editing.redo()).toBe('words')
    expect(actionOf(film.value)).toBe('Tilda runs.')
    expect(sent).toHaveLength(3)
    expect([editing.undo(), editing.undo()]).toEqual(['words', null])
  })

  it('says why something is refused, and changes nothing', () => {
    expect(editing.perform('too short', frames('a', 0))).toBe(false)
    expect([film.value, sent, refusals.length]).toEqual([BEGINNING, [], 1])
    looking.name = 'Monday'
    expect(editing.perform('words', words('a', 'x'))).toBe(false)
    expect(refusals.at(-1)).toContain('“Monday”')
  })

  it('that is nothing is no step', () => {
    expect(editing.perform('the same', words('a', ''))).toBe(true)
    expect([sent, editing.history.value.past]).toEqual([[], []])
  })

  it('of what nobody can keep is refused before anyone waits for it', () => {
    expect(editing.perform('words', words('a', 'x'.repeat(10_001)))).toBe(false)
    expect([actionOf(film.value), sent.length]).toEqual(['', 0])
  })

  it('tries from where it began, over and over, and keeps one change, or none', () => {
    const gesture = editing.beginGesture('drag')
    for (const length of [30, 40, 50]) expect(gesture.update(frames('a', length))).toBe(true)
    expect([film.value.takes.t!.panels.a!.lengthFrames, sent.length, gesture.changed, editing.gestureOpen.value]).toEqual([50, 0, true, true])
    expect(gesture.update(frames('a', 0))).toBe(false)
    gesture.commit()
    expect([sent.length, (sent[0]!.edits[0]!.changes.panels!.a!.before as { lengthFrames?: number }).lengthFrames, log.at(-1)]).toEqual([1, 24, 'released'])
    const other = editing.beginGesture('drag')
    other.update(frames('b', 90))
    other.abandon()
    expect([film.value.takes.t!.panels.b!.lengthFrames, sent.length]).toEqual([24, 1])
    // Over is over.
    expect(other.update(frames('b', 91))).toBe(false)
  })

  it('keeps what is being tried before anything else is done, and units that were loaded meanwhile', () => {
    const gesture = editing.beginGesture('drag')
    gesture.update(frames('a', 30))
    film.value = { ...film.value, drawings: { d: EMPTY_DRAWING } }
    gesture.update(frames('a', 31))
    expect(Object.keys(film.value.drawings)).toEqual(['d'])
    editing.perform('words', words('b', 'Brisket honks.'))
    expect(sent.map(({ label }) => label)).toEqual(['drag', 'words'])
    expect(editing.isTrying()).toBe(false)
  })

  it('steps of one gesture undo as one', () => {
    editing.perform('nudge', frames('a', 25), 'nudge')
    editing.perform('nudge', frames('a', 26), 'nudge')
    expect(editing.undo()).toBe('nudge')
    expect(film.value.takes.t).toEqual(take)
    expect(editing.undo()).toBeNull()
  })

  it('does not undo what someone else has changed since, and says so', () => {
    editing.perform('words', words('a', 'mine'))
    const theirs = words('a', 'theirs')(film.value)
    if (!theirs.ok) throw new Error('theirs')
    const applied = applyChange(film.value, { edits: theirs.edits })
    if (!applied.ok) throw new Error('theirs')
    film.value = applied.value
    expect(editing.undo()).toBeNull()
    expect([actionOf(film.value), refusals.at(-1)?.includes('someone else')]).toEqual(['theirs', true])
  })

  it('fetches what a step changes where it has left memory, then does it', async () => {
    editing.perform('words', words('a', 'x'))
    const held = film.value.takes.t!
    film.value = { ...film.value, takes: {} }
    revisions.delete('take:t')
    expect(editing.undo()).toBeNull()
    expect(log).toContain('fetch take t')
    film.value = { ...film.value, takes: { t: held } }
    await new Promise((resolve) => setTimeout(resolve))
    expect(film.value.takes.t).toEqual(take)
  })

  it('all of it undone is the beginning, whatever was done, tried and undone on the way', () => {
    const act = fc.oneof(
      fc.record({ kind: fc.constantFrom('words' as const, 'frames' as const, 'drag' as const), id: fc.constantFrom('a', 'b'), n: fc.integer({ min: 1, max: 60 }) }),
      fc.constant({ kind: 'undo' as const, id: 'a', n: 0 }),
      fc.constant({ kind: 'redo' as const, id: 'a', n: 0 }),
    )
    fc.assert(
      fc.property(fc.array(act, { maxLength: 30 }), (acts) => {
        const now = setUp()
        for (const { kind, id, n } of acts) {
          if (kind === 'words') now.editing.perform('words', words(id, `w${n}`))
          else if (kind === 'frames') now.editing.perform('frames', frames(id, n))
          else if (kind === 'drag') {
            const gesture = now.editing.beginGesture('drag')
            gesture.update(frames(id, n))
            gesture.update(frames(id, n + 1))
            if (n % 3 === 0) gesture.abandon()
            else gesture.commit()
          } else now.editing[kind]()
        }
        while (now.editing.undo() !== null);
        expect(now.film.value.takes.t).toEqual(take)
        // What the server was sent, made one after the other, is what is here.
        let there = BEGINNING
        for (const change of now.sent) {
          const applied = applyChange(there, change)
          if (!applied.ok) throw new Error(applied.refusal.code)
          there = applied.value
        }
        expect(there.takes.t).toEqual(now.film.value.takes.t)
      }),
      { numRuns: 60 },
    )
  })
})

describe('setting aside', () => {
  function withAside() {
    const parts = setUp()
    const kept: SetAside[] = []
    let waiting: readonly Change[] = []
    const beside = createAside({
      film: parts.film,
      projectId: () => 'p',
      kept: () => ({ ...KEEPS_NOTHING, addAside: async (_, put) => void kept.push(put), dropAside: async (id) => void kept.splice(kept.findIndex((each) => each.id === id), 1) }),
      waiting: () => waiting,
      replaceWaiting: (changes) => (waiting = changes),
      settle: parts.editing.settle,
      forget: parts.editing.forget,
      noteMade: parts.editing.noteMade,
      whereabouts: () => ({ shotId: null, frame: 0, selection: [] }),
      refuse: (text) => void parts.refusals.push(text),
    })
    return { ...parts, beside, kept, wait: (changes: readonly Change[]) => (waiting = changes), waitingNow: () => waiting }
  }

  it('takes one change out of the film with what was built on it; all others stay, and nothing of it can be undone', () => {
    const { editing, film, sent, beside, kept, wait, waitingNow, refusals } = withAside()
    editing.perform('first', words('a', 'one'))
    editing.perform('second', words('a', 'two'))
    editing.perform('other', words('b', 'three'))
    wait([...sent])
    beside.setAside(sent[0]!.id, 'It is too odd.')
    expect([actionOf(film.value), actionOf(film.value, 'b')]).toEqual(['', 'three'])
    expect(waitingNow().map(({ label }) => label)).toEqual(['other'])
    expect([kept.length, kept[0]!.changes.map(({ label }) => label), refusals.at(-1)?.includes('with 1 more')]).toEqual([1, ['first', 'second'], true])
    expect([editing.undo(), editing.undo()]).toEqual(['other', null])
  })

  it('is tried again on the film as it is now, or refused where it no longer goes with it', () => {
    const { editing, film, sent, beside, kept, wait } = withAside()
    editing.perform('first', words('a', 'one'))
    wait([...sent])
    beside.setAside(sent[0]!.id, 'Later.')
    const [{ id }] = beside.aside.value as [SetAside]
    expect(beside.tryAside(id)).toBe(true)
    expect([actionOf(film.value), beside.aside.value, kept, editing.undo()]).toEqual(['one', [], [], 'first'])
    editing.perform('again', words('a', 'one'))
    wait(sent.slice(-1))
    beside.setAside(sent.at(-1)!.id, 'Later.')
    editing.perform('theirs', words('a', 'another'))
    expect(beside.tryAside(beside.aside.value[0]!.id)).toBe(false)
    expect([actionOf(film.value), beside.aside.value.length]).toEqual(['another', 1])
    expect(beside.tryAside('nothing')).toBe(false)
  })
})

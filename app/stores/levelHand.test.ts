import { EMPTY_OUTLINE, EMPTY_TAKE, levelKeys, newLevel, opticsOf, orderOfNumber, placedKeys, type Film, type TakeBody } from '@rubato/core/document'
import { applyChange, editLevel, keyLevel, type Change, type Made } from '@rubato/core/edits'
import { createTakeStage } from '@rubato/core/stage'
import { describe, expect, it } from 'vitest'
import { computed, ref, shallowRef } from 'vue'
import { createEditing } from './editing'
import { createLevelHand, type LevelTrial } from './levelHand'

const OPTICS = opticsOf({ filmBackMm: 36, baseLensMm: 50, widthPx: 1920, heightPx: 1080 } as Parameters<typeof opticsOf>[0])
const panel = { id: 'p', order: orderOfNumber(0), lengthFrames: 48, lengthLocked: false, action: '', dialogue: '', notes: '' }
const level = (id: string, order: number) => newLevel({ id, name: id, order: orderOfNumber(order) })
const bare: TakeBody = { ...EMPTY_TAKE, panels: { p: panel }, levels: { tilda: level('tilda', 0), goose: level('goose', 1) } }
const at = (x: number, y = 0) => ({ x, y, depth: 0 })
function after(take: TakeBody, made: Made): TakeBody {
  const applied = made.ok ? applyChange({ outline: EMPTY_OUTLINE, takes: { t: take }, drawings: {} }, made) : null
  if (!applied?.ok) throw new Error('not made')
  return applied.value.takes.t!
}
const keyed = (take: TakeBody, id: string, ...frames: readonly number[]) => frames.reduce((now, frame) => after(now, keyLevel(now, 't', id, frame, { place: at(frame / 10) }, () => `${id}-${frame}`)), take)

/** A desk that stands on a frame of a take. */
function stand(take: TakeBody, frame: number, auto = false) {
  const film = shallowRef<Film>({ outline: EMPTY_OUTLINE, takes: { t: take }, drawings: {} })
  const sent: Change[] = []
  const refusals: string[] = []
  const editing = createEditing({ film, projectId: () => null, lookingAt: () => null, openedSet: () => null, revisions: new Map(), whereabouts: () => ({ shotId: 's', frame, selection: [] }), giveBack: () => undefined, refuse: (text) => void refusals.push(text), send: (change) => void sent.push(change), released: () => undefined, ensure: async () => undefined })
  const levelTrial = shallowRef<LevelTrial | null>(null)
  const now = computed(() => film.value.takes.t!)
  const nudge = ref(0)
  const hand = createLevelHand({
    film: { ...editing, refuse: (text) => void refusals.push(text) },
    takeId: ref('t'),
    take: now,
    stage: computed(() => createTakeStage(now.value, OPTICS)),
    shotFrame: ref(frame),
    shotId: ref('s'),
    levelTrial,
    triedHere: computed(() => levelTrial.value?.values ?? null),
    autoKey: ref(auto),
    nudge,
  })
  const places = (id: string) => placedKeys(now.value, levelKeys(id, 'place')).map(({ frame: key }) => key)
  return { hand, levelTrial, sent, refusals, nudge, places, now }
}

describe('the hand on levels', () => {
  it('moves one without keys for the whole shot, as one step', () => {
    const { hand, sent, now } = stand(bare, 20)
    expect(hand.modeOf('tilda')).toBe('whole-shot')
    const change = hand.begin(['tilda'], ['place'], 'move tilda')
    for (const x of [0.1, 0.2, 0.3]) change.update((_, start) => ({ place: { ...start.place, x } }))
    expect(sent).toEqual([])
    change.end()
    expect([sent.length, now.value.levels.tilda!.x, now.value.levelKeys]).toEqual([1, 0.3, {}])
    expect(sent[0]!.label).toBe('move tilda')
  })

  it('only looks between keys: nothing is written until it is keyed, and giving up puts back what was seen', () => {
    const { hand, levelTrial, sent, places, now } = stand(keyed(bare, 'tilda', 0, 40), 20)
    expect([hand.modeOf('tilda'), hand.modeOf('tilda', ['size'])]).toEqual(['looking', 'whole-shot'])
    const change = hand.begin(['tilda'], ['place'], 'move tilda')
    change.update((_, start) => ({ place: { ...start.place, y: 5 } }))
    expect([levelTrial.value?.values.get('tilda')?.place, hand.valuesOf('tilda')!.place.y, sent]).toEqual([{ x: 2, y: 5, depth: 0 }, 5, []])
    change.abandon()
    expect(levelTrial.value).toBeNull()
    hand.begin(['tilda'], ['place'], 'move tilda').update(() => ({ place: at(7, 5) }))
    hand.key(['tilda'])
    expect([places('tilda'), levelTrial.value, sent.length]).toEqual([[0, 20, 40], null, 1])
    expect(createTakeStage(now.value, OPTICS).motionOf('tilda').keyedAt(20).place).toEqual(at(7, 5))
  })

  it('of several with one between its keys looks at all; on their keys’ frames changes the keys', () => {
    const take = keyed(keyed(bare, 'tilda', 0, 40), 'goose', 20)
    const between = stand(take, 20)
    between.hand.begin(['tilda', 'goose'], ['place'], 'move').update((_, start) => ({ place: { ...start.place, y: 1 } }))
    expect([[...between.levelTrial.value!.values.keys()], between.sent]).toEqual([['tilda', 'goose'], []])
    const on = stand(take, 40)
    const change = on.hand.begin(['tilda', 'goose'], ['place'], 'move')
    change.update((_, start) => ({ place: { ...start.place, y: 1 } }))
    change.end()
    expect([on.places('tilda'), on.sent.length, on.now.value.levelKeys['tilda-40']!.value, on.now.value.levelKeys['goose-20']!.value]).toEqual([[0, 40], 1, at(4, 1), at(2, 1)])
  })

  it('keys by itself where Auto-key is lit, each key once however often it is tried', () => {
    const { hand, places, sent } = stand(keyed(bare, 'tilda', 0, 40), 20, true)
    expect(hand.modeOf('tilda')).toBe('auto-key')
    const change = hand.begin(['tilda'], ['place', 'size'], 'size of tilda')
    for (const size of [1.1, 1.2, 1.3]) change.update(() => ({ size }))
    change.end()
    expect([places('tilda'), sent.length, Object.values(sent[0]!.edits[0]!.changes.levelKeys!).length]).toEqual([[0, 40], 1, 1])
  })

  it('keys what has keys, else its place; or what it is asked to', () => {
    const first = stand(bare, 8)
    first.hand.key(['tilda'])
    expect([first.places('tilda'), Object.keys(first.now.value.levelKeys).length]).toEqual([[8], 1])
    first.hand.key(['tilda'], ['opacity'])
    expect(Object.values(first.now.value.levelKeys).map(({ of }) => of).sort()).toEqual(['opacity', 'place'])
  })

  it('refuses what is locked, by name, and moves nothing', () => {
    const { hand, refusals, nudge, sent } = stand(after(bare, editLevel(bare, 't', 'goose', { locked: true })), 0)
    hand.begin(['tilda', 'goose'], ['place'], 'move').update(() => ({ place: at(9) }))
    expect([refusals, nudge.value, sent]).toEqual([['goose is locked. Unlock it in the depth rack to change it.'], 1, []])
    const take = keyed(bare, 'tilda', 0)
    const locked = stand({ ...take, levelKeys: { 'tilda-0': { ...take.levelKeys['tilda-0']!, locked: true } } }, 0)
    expect(locked.hand.modeOf('tilda')).toBe('locked')
    locked.hand.begin(['tilda'], ['place'], 'move')
    expect(locked.refusals).toEqual(['This key is locked. Unlock it in the inspector to change it.'])
    expect(locked.hand.begin(['nobody'], ['place'], 'move').update(() => ({ size: 2 }))).toBeUndefined()
  })
})

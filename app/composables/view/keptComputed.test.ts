import { expect, it } from 'vitest'
import { shallowRef } from 'vue'
import { keptComputed } from './keptComputed'

it('stays the object that it was while it says the same, and is another once anything in it differs', () => {
  const source = shallowRef({ bars: [{ id: 'sky', ends: [0, 1] }], scale: 2 })
  let made = 0
  const kept = keptComputed(() => (made++, { bars: source.value.bars.map((bar) => ({ ...bar })), scale: source.value.scale }))
  const first = kept.value
  source.value = { bars: [{ id: 'sky', ends: [0, 1] }], scale: 2 }
  expect([kept.value === first, made]).toEqual([true, 2])
  source.value = { bars: [{ id: 'sky', ends: [0, 1.001] }], scale: 2 }
  expect([kept.value === first, kept.value.bars[0]!.ends]).toEqual([false, [0, 1.001]])
  const nothing = keptComputed(() => (source.value.scale > 2 ? source.value : null))
  expect(nothing.value).toBe(null)
  source.value = { ...source.value, scale: 3 }
  expect(nothing.value).toBe(source.value)
})

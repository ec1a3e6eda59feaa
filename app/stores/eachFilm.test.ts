import { afterEach, beforeEach, describe, expect, it } from 'vitest'
import { nextTick } from 'vue'
import { useAirStore } from './air'
import { useBoardsStore } from './boards'
import { useCutsStore } from './cuts'
import { useFilmStore } from './film'
import { useLevelToolStore } from './levelTool'
import { usePenStore } from './pen'
import { useSetsStore } from './sets'
import { useSheetStore } from './sheet'
import { useSoundStore } from './sound'
import { useTakesStore } from './takes'
import { openWindow } from './testing'
import { useTimingStore } from './timing'
import { useWallsStore } from './walls'

const STORES = { air: useAirStore, boards: useBoardsStore, cuts: useCutsStore, levelTool: useLevelToolStore, pen: usePenStore, sets: useSetsStore, sheet: useSheetStore, sound: useSoundStore, takes: useTakesStore, timing: useTimingStore, walls: useWallsStore }

/** What goes along from film to film: an artist's ways, which the browser keeps, and what was copied to be put into another. */
const GOES_ALONG: Partial<Record<keyof typeof STORES, readonly string[]>> = {
  boards: ['size', 'wordsAMinute', 'scriptOpen'],
  cuts: ['limits', 'lookers'],
  levelTool: ['drawnTiming', 'ghostsEvery'],
  pen: ['brush', 'pencilId', 'ownPencils', 'eraserFw', 'words', 'arrow', 'gapPx', 'fillSeen', 'ghosts', 'fade', 'clipboard', 'penSeen'],
  sound: ['heights', 'scrubbing', 'volume', 'headFrames', 'tailFrames'],
  timing: ['mode', 'snap', 'display', 'loop', 'wantedQuality', 'meaning'],
}

/** Another value of the same kind; of what is nothing, something. */
function another(value: unknown): unknown {
  if (typeof value === 'boolean') return !value
  if (typeof value === 'number') return value + 1
  if (typeof value === 'string') return `${value} changed`
  if (Array.isArray(value)) return [...(value as unknown[]), 'changed']
  if (value instanceof Set) return new Set([...value, 'changed'])
  if (value instanceof Map) return new Map([...value, ['changed', null]])
  return { ...(value as object | null), changed: true }
}

describe('what is in hand', () => {
  let window: ReturnType<typeof openWindow>
  beforeEach(() => (window = openWindow()))
  afterEach(() => window.close())

  for (const [name, useStore] of Object.entries(STORES)) {
    it(`is put down as another film is gone over to: ${name}`, async () => {
      useFilmStore().projectId = 'one'
      const store = useStore() as unknown as { readonly $state: Record<string, unknown> }
      const begun = { ...store.$state }
      const stays = GOES_ALONG[name as keyof typeof STORES] ?? []
      expect(Object.keys(begun)).toEqual(expect.arrayContaining([...stays]))
      for (const key of Object.keys(begun)) store.$state[key] = another(begun[key])
      useFilmStore().projectId = 'another'
      await nextTick()
      for (const key of Object.keys(begun)) {
        if (stays.includes(key)) expect(store.$state[key], key).toEqual(another(begun[key]))
        else expect(store.$state[key], key).toEqual(begun[key])
      }
    })
  }
})

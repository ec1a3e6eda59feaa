import { EMPTY_TAKE, type Level, type TakeBody } from '@rubato/core/document'
import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { effectScope, nextTick, ref, shallowRef } from 'vue'
import { createChosen } from './chosen'
import type { Tool, View } from './desk'

const level = (id: string, order: string, fields: Partial<Level> = {}) => ({ id, order, name: id, kind: 'drawn', x: 0, y: 0, depth: 0, scale: 1, panDegrees: 0, tiltDegrees: 0, rollDegrees: 0, opacity: 1, visible: true, locked: false, ...fields }) as Level
const body = (...levels: readonly Level[]): TakeBody => ({ ...EMPTY_TAKE, levels: Object.fromEntries(levels.map((each) => [each.id, each])) })
const DEPTHS: Readonly<Record<string, number>> = { sky: 40, tilda: 2, post: -3 }

function stand(take = body(level('sky', 'a0'), level('tilda', 'a1', { figure: true }), level('post', 'a2'))) {
  const scope = effectScope()
  const desk = { takeId: ref<string | null>('t'), take: shallowRef<TakeBody | null>(take), view: ref<View>('desk'), tool: ref<Tool>('camera') }
  const chosen = scope.run(() => createChosen({ ...desk, placeOf: (id) => ({ x: 0, y: 0, depth: DEPTHS[id] ?? 0 }) }))!
  return { ...desk, chosen, end: () => scope.stop() }
}
const CTRL = { ctrlKey: true, metaKey: false, shiftKey: false }

describe('what is chosen', () => {
  it('is one level, and with Ctrl others beside it; the last of them stays', () => {
    const { chosen, end } = stand()
    chosen.chooseLevel('sky')
    chosen.chooseLevel('tilda', CTRL)
    chosen.chooseLevel('post', CTRL)
    expect(chosen.chosenLevelIds.value).toEqual(['sky', 'tilda', 'post'])
    chosen.chooseLevel('sky', CTRL)
    expect(chosen.chosenLevelIds.value).toEqual(['tilda', 'post'])
    chosen.chooseLevel('post', CTRL)
    chosen.chooseLevel('tilda', CTRL)
    expect(chosen.chosenLevelIds.value).toEqual(['tilda'])
    chosen.chooseLevel('sky')
    expect(chosen.chosenLevelIds.value).toEqual(['sky'])
    end()
  })

  it('goes from level to level by how near they are, and stays at the nearest', () => {
    const { chosen, end } = stand()
    const walked = (step: -1 | 1, times: number) => Array.from({ length: times }, () => (chosen.stepLevel(step), chosen.selectedLevelId.value))
    chosen.chooseLevel('sky')
    expect(walked(-1, 3)).toEqual(['tilda', 'post', 'post'])
    expect(walked(1, 3)).toEqual(['tilda', 'sky', 'sky'])
    end()
  })

  it('is one kind of key at a time, the one that was chosen last, in whatever order', async () => {
    const kinds = ['framings', 'keys', 'span', 'cut'] as const
    await fc.assert(
      fc.asyncProperty(fc.array(fc.constantFrom(...kinds), { minLength: 1, maxLength: 8 }), async (turns) => {
        const { chosen, take, end } = stand()
        take.value = { ...take.value!, spans: { s: { id: 's' } as never } }
        await nextTick()
        const put = { framings: () => (chosen.selectedFramingIds.value = ['f']), keys: () => (chosen.selectedKeyIds.value = ['k']), span: () => (chosen.selectedSpanId.value = 's'), cut: () => (chosen.selectedCutFrame.value = 12) }
        for (const turn of turns) {
          if (turn === 'keys') chosen.selectedFramingIds.value = []
          put[turn]()
          await nextTick()
        }
        const there = { framings: chosen.selectedFramingIds.value.length > 0, keys: chosen.selectedKeyIds.value.length > 0, span: chosen.selectedSpanId.value !== null, cut: chosen.selectedCutFrame.value !== null }
        expect(kinds.filter((kind) => there[kind])).toEqual([turns.at(-1)])
        end()
      }),
      { numRuns: 60 },
    )
  })

  it('is taken back as it was told, and ends with the levels and spans that it is of', async () => {
    const { chosen, take, end } = stand()
    take.value = { ...take.value!, spans: { s: { id: 's' } as never } }
    chosen.choose(['level:sky', 'framing:f', 'framing:g'])
    expect(chosen.told()).toEqual(['level:sky', 'framing:f', 'framing:g'])
    chosen.choose(['level:tilda', 'span:s'])
    await nextTick()
    expect([chosen.told(), chosen.selectedFramingIds.value]).toEqual([['level:tilda', 'span:s'], []])
    take.value = body(level('sky', 'a0'))
    await nextTick()
    expect([chosen.told(), chosen.selectedLevel.value]).toEqual([[], null])
    chosen.choose(['level:sky', 'key:k'])
    chosen.reset()
    expect(chosen.told()).toEqual([])
    end()
  })

  it('takes up the pen on a figure, or on what can be drawn on at all', async () => {
    const { chosen, tool, end } = stand()
    tool.value = 'pen'
    await nextTick()
    expect(chosen.selectedLevelId.value).toBe('tilda')
    end()
    const locked = stand(body(level('sky', 'a0', { locked: true }), level('post', 'a1')))
    locked.view.value = 'draw'
    await nextTick()
    expect(locked.chosen.selectedLevelId.value).toBe('post')
    locked.end()
  })
})

import { afterEach, beforeEach, describe, expect, it } from 'vitest'
import { effectScope, nextTick } from 'vue'
import { useDeskStore } from '~/stores/desk'
import { useFilmStore } from '~/stores/film'
import { openWindow } from '~/stores/testing'
import { useShotArt } from './useShotArt'

describe('art of the shots around the playhead', () => {
  let window: ReturnType<typeof openWindow>
  const scope = effectScope()
  const asked: { readonly ids: readonly string[]; readonly come: () => void; readonly fail: (why: Error) => void }[] = []
  beforeEach(() => {
    asked.length = 0
    window = openWindow()
    const film = useFilmStore()
    const ask = (ids: readonly string[]) => new Promise<void>((come, fail) => void asked.push({ ids, come, fail }))
    film.ensureTakesWithArt = ask
    film.ensureTakeWithArt = (id: string) => ask([id])
  })
  afterEach(() => (scope.stop(), window.close()))
  const settled = async () => {
    for (let i = 0; i < 6; i++) await Promise.resolve()
    await nextTick()
  }

  it('is asked for there first, then all around at once; a step before is given up by the next, and so is its trouble', async () => {
    const desk = useDeskStore()
    desk.goTo(0)
    const { trouble, load } = scope.run(() => useShotArt())!
    expect(asked.map(({ ids }) => ids)).toEqual([['t1']])
    desk.goTo(30)
    await settled()
    expect(asked.map(({ ids }) => ids)).toEqual([['t1'], ['t2']])
    asked[0]!.come()
    await settled()
    // Who was at the first shot wants nothing more.
    expect(asked).toHaveLength(2)
    asked[1]!.come()
    await settled()
    expect(asked.slice(2).map(({ ids }) => ids)).toEqual([['t1'], []])
    asked[2]!.fail(new Error('The server can’t be reached.'))
    await settled()
    expect(trouble.value).toBe('The server can’t be reached.')
    void load()
    expect([trouble.value, asked.at(-1)!.ids]).toEqual([null, ['t2']])
  })
})

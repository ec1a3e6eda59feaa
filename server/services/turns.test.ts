import { describe, expect, it } from 'vitest'
import { inFilmTurn } from './turns'

/** Work that ends when it is told to. */
function work(log: string[], name: string) {
  let end: (how?: Error) => void = () => undefined
  const done = new Promise<void>((resolve, reject) => (end = (how) => (how === undefined ? resolve() : reject(how))))
  return {
    end,
    run: async () => {
      log.push(`${name} begins`)
      await done
      log.push(`${name} ends`)
      return name
    },
  }
}
const breathe = () => new Promise((resolve) => setTimeout(resolve))

describe('turns', () => {
  it('are taken one after the other in a film, in the order they were wanted', async () => {
    const log: string[] = []
    const [a, b, c] = ['a', 'b', 'c'].map((name) => work(log, name)) as [ReturnType<typeof work>, ReturnType<typeof work>, ReturnType<typeof work>]
    const all = Promise.all([a, b, c].map((each) => inFilmTurn('film', each.run)))
    await breathe()
    expect(log).toEqual(['a begins'])
    for (const each of [a, b, c]) {
      each.end()
      await breathe()
    }
    expect([log, await all]).toEqual([['a begins', 'a ends', 'b begins', 'b ends', 'c begins', 'c ends'], ['a', 'b', 'c']])
  })

  it('of films go side by side, six at a time; none waits behind another’s queue', async () => {
    const log: string[] = []
    const busy = Array.from({ length: 3 }, (_, i) => work(log, `busy ${i}`))
    const others = Array.from({ length: 7 }, (_, i) => work(log, `other ${i}`))
    const all = Promise.all([...busy.map((each) => inFilmTurn('busy', each.run)), ...others.map((each, i) => inFilmTurn(`film ${i}`, each.run))])
    await breathe()
    expect(log).toEqual(['busy 0 begins', ...[0, 1, 2, 3, 4].map((i) => `other ${i} begins`)])
    others[0]!.end()
    await breathe()
    expect(log.slice(6)).toEqual(['other 0 ends', 'other 5 begins'])
    busy[0]!.end()
    await breathe()
    // The film that has waited longest goes first.
    expect(log.slice(8)).toEqual(['busy 0 ends', 'other 6 begins'])
    for (const each of [...busy, ...others]) each.end()
    await all
    expect(log.filter((line) => line.endsWith('ends'))).toHaveLength(10)
  })

  it('end with an error too: the next one comes', async () => {
    const log: string[] = []
    const [bad, good] = [work(log, 'bad'), work(log, 'good')]
    const [failed, done] = [inFilmTurn('film', bad.run), inFilmTurn('film', good.run)]
    bad.end(new Error('broken'))
    good.end()
    await expect(failed).rejects.toThrow('broken')
    expect(await done).toBe('good')
    expect(await inFilmTurn('film', async () => 'after')).toBe('after')
  })

  it('are refused with a time to try again where too many wait already, and nobody else is', async () => {
    const log: string[] = []
    const first = work(log, 'first')
    const waiting = Array.from({ length: 201 }, () => inFilmTurn('crowd', first.run))
    await expect(inFilmTurn('crowd', first.run)).rejects.toMatchObject({ statusCode: 503, data: { code: 'busy', retryAfter: 5 } })
    expect(await inFilmTurn('another', async () => 'done')).toBe('done')
    first.end()
    expect(await Promise.all(waiting)).toHaveLength(201)
    expect(await inFilmTurn('crowd', async () => 'again')).toBe('again')
  })
})

import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { createPictureCache } from './pictureCache'

interface FakeBitmap {
  readonly width: number
  readonly height: number
  readonly name: string
  closed: boolean
  close(): void
}
const bitmaps: FakeBitmap[] = []
/** Sizes by address; what is not here is not had. */
let sizes: Record<string, readonly [number, number]> = {}
const asked: string[] = []

beforeEach(() => {
  vi.useFakeTimers()
  bitmaps.length = asked.length = 0
  vi.spyOn(console, 'error').mockImplementation(() => undefined)
  vi.stubGlobal('fetch', async (url: string) => {
    asked.push(url)
    return { ok: sizes[url] !== undefined, status: 404, blob: async () => url }
  })
  vi.stubGlobal('createImageBitmap', async (url: string) => {
    const [width, height] = sizes[url]!
    const made: FakeBitmap = { width, height, name: url, closed: false, close: () => (made.closed = true) }
    bitmaps.push(made)
    return made
  })
})
afterEach(() => {
  vi.useRealTimers()
  vi.unstubAllGlobals()
  vi.restoreAllMocks()
})

const picture = (name: string, px: number) => ({ assetHash: name, widthPx: px, heightPx: px })
const MB = 1024 * 1024
const cache = (budgetBytes: number) => {
  const come: string[] = []
  const made = createPictureCache((hash, side) => `${hash}@${side ?? 'own'}`, (hash) => come.push(hash), budgetBytes)
  return { ...made, come, get waiting() { return made.waiting } }
}
const nameOf = (found: unknown) => (found as FakeBitmap | null)?.name ?? null

describe('decoded pictures', () => {
  it('are asked for once, in the size that is shown, and told when they have come', async () => {
    sizes = { 'a@512': [512, 512] }
    const { lookup, settled, come } = cache(10 * MB)
    expect([lookup(picture('a', 4000), 400), lookup(picture('a', 4000), 400)]).toEqual([null, null])
    expect(await settled()).toEqual([])
    expect([nameOf(lookup(picture('a', 4000), 400)), asked, come]).toEqual(['a@512', ['a@512'], ['a']])
  })

  it('of another size stand in until the one wanted is there', async () => {
    sizes = { 'a@256': [256, 256], 'a@2048': [2048, 2048] }
    const { lookup, settled } = cache(64 * MB)
    lookup(picture('a', 4000), 200)
    await settled()
    expect(nameOf(lookup(picture('a', 4000), 2000))).toBe('a@256')
    await settled()
    expect(nameOf(lookup(picture('a', 4000), 2000))).toBe('a@2048')
    // A smaller one is not asked for again.
    expect(nameOf(lookup(picture('a', 4000), 200))).toBe('a@256')
    expect(asked).toEqual(['a@256', 'a@2048'])
  })

  it('wanted longest ago go when there is no more room, and give their memory back', async () => {
    sizes = Object.fromEntries(['a', 'b', 'c'].map((name) => [`${name}@own`, [512, 512] as const]))
    const { lookup, settled } = cache(2 * MB)
    for (const name of ['a', 'b']) {
      lookup(picture(name, 512), 512)
      await settled()
    }
    lookup(picture('a', 512), 512)
    lookup(picture('c', 512), 512)
    await settled()
    expect(bitmaps.map(({ name, closed }) => [name, closed])).toEqual([['a@own', false], ['b@own', true], ['c@own', false]])
    expect(nameOf(lookup(picture('a', 512), 512))).toBe('a@own')
  })

  it('larger than all the room are shown all the same', async () => {
    sizes = { 'a@own': [512, 512], 'huge@own': [4096, 4096] }
    const { lookup, settled } = cache(2 * MB)
    lookup(picture('a', 512), 512)
    await settled()
    lookup(picture('huge', 4096), 4096)
    await settled()
    expect([nameOf(lookup(picture('huge', 4096), 4096)), bitmaps[0]!.closed]).toEqual(['huge@own', true])
  })

  it('that can’t be had are named, and asked for again after a while, not before', async () => {
    sizes = {}
    const { lookup, settled } = cache(MB)
    lookup(picture('gone', 100), 100)
    expect(await settled()).toEqual(['gone'])
    lookup(picture('gone', 100), 100)
    expect(asked).toHaveLength(1)
    vi.advanceTimersByTime(5001)
    sizes = { 'gone@own': [100, 100] }
    lookup(picture('gone', 100), 100)
    expect([await settled(), nameOf(lookup(picture('gone', 100), 100))]).toEqual([[], 'gone@own'])
  })

  it('of what is left give their memory back, those that are on their way too', async () => {
    sizes = { 'a@own': [512, 512], 'b@own': [512, 512] }
    const { lookup, settled, empty, come, ...cached } = cache(8 * MB)
    lookup(picture('a', 512), 512)
    await settled()
    lookup(picture('b', 512), 512)
    empty()
    await vi.waitFor(() => expect(bitmaps.map(({ name, closed }) => [name, closed])).toEqual([['a@own', true], ['b@own', true]]))
    expect([come, cached.waiting]).toEqual([['a'], false])
    // Wanted again, it is had again.
    expect(lookup(picture('b', 512), 512)).toBeNull()
    await settled()
    expect([nameOf(lookup(picture('b', 512), 512)), bitmaps.map(({ closed }) => closed), come]).toEqual(['b@own', [true, true, false], ['a', 'b']])
  })
})

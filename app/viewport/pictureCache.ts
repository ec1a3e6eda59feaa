import type { Picture } from '@rubato/core/document'
import { LRUCache } from 'lru-cache'
import { pictureSide } from '#shared/assets'

/** What failed is asked for again, when it is wanted, no sooner than this. */
const AGAIN_AFTER_MS = 5000

/**
 * Decoded pictures by hash and size. `lookup` gives the smallest that has the pixels needed, or a smaller one, or null,
 * until that one has come; then `onCome` is called. Those wanted longest ago go when the budget is passed.
 */
export function createPictureCache(urlOf: (assetHash: string, side: number | null) => string, onCome: (assetHash: string) => void, budgetBytes = 96 * 1024 * 1024) {
  // Rasters made of a picture stay when it goes; it is fetched again, from the browser's own cache, when another is wanted.
  const held = new LRUCache<string, ImageBitmap>({
    maxSize: budgetBytes,
    // One that is larger than the budget is kept all the same, alone.
    sizeCalculation: ({ width, height }) => Math.max(1, Math.min(budgetBytes, width * height * 4)),
    dispose: (bitmap) => bitmap.close(),
  })
  const coming = new Map<string, Promise<void>>()
  const failed = new Map<string, number>()
  /** Raised when what is on its way is not wanted any more. */
  let emptied = 0

  async function load(hash: string, side: number | null, key: string) {
    const mine = emptied
    try {
      const response = await fetch(urlOf(hash, side))
      if (!response.ok) throw new Error(`the server answered ${response.status}`)
      const bitmap = await createImageBitmap(await response.blob(), { premultiplyAlpha: 'premultiply', colorSpaceConversion: 'none' })
      if (mine !== emptied) return bitmap.close()
      held.set(key, bitmap)
      failed.delete(hash)
      onCome(hash)
    } catch (error) {
      if (mine !== emptied) return
      failed.set(hash, performance.now())
      console.error(`picture ${hash}: ${(error as Error).message}`)
    } finally {
      if (mine === emptied) coming.delete(key)
    }
  }

  function sized(hash: string): readonly string[] {
    return [...held.keys()].filter((key) => key.startsWith(hash))
  }

  return {
    /** `neededPx`: how long the picture's longest side is to be shown. */
    lookup(picture: Pick<Picture, 'assetHash' | 'widthPx' | 'heightPx'>, neededPx: number): ImageBitmap | null {
      const { assetHash: hash } = picture
      const side = pictureSide(picture, neededPx)
      const key = `${hash}@${side ?? 'own'}`
      const known = held.get(key)
      if (known !== undefined) return known
      if (!coming.has(key) && !(performance.now() - (failed.get(hash) ?? -Infinity) < AGAIN_AFTER_MS)) coming.set(key, load(hash, side, key))
      // What there is of another size stands in.
      const other = sized(hash).map((each) => held.peek(each)!).sort((a, b) => b.width - a.width)[0]
      return other ?? null
    },
    get waiting(): boolean {
      return coming.size > 0
    },
    /** Resolves when all that was asked for has come or failed; gives the hashes that failed. */
    async settled(): Promise<readonly string[]> {
      while (coming.size > 0) await Promise.all(coming.values())
      return [...failed.keys()]
    },
    /** Gives the memory back that the browser would keep until it next collects; what is wanted again is fetched again. */
    empty() {
      emptied++
      coming.clear()
      held.clear()
    },
  }
}

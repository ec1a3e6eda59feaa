import type { Picture } from '@rubato/core/document'
import { pictureSide } from '#shared/assets'

/** What failed is asked for again, when it is wanted, no sooner than this. */
const AGAIN_AFTER_MS = 5000

interface Held {
  readonly bitmap: ImageBitmap
  readonly bytes: number
}

/**
 * Decoded pictures by hash and size. `lookup` gives the smallest that has the pixels needed, or a smaller one, or null,
 * until that one has come; then `onCome` is called. Those wanted longest ago go when the budget is passed.
 */
export function createPictureCache(urlOf: (assetHash: string, side: number | null) => string, onCome: (assetHash: string) => void, budgetBytes = 96 * 1024 * 1024) {
  // In the order they were last wanted.
  const held = new Map<string, Held>()
  const coming = new Map<string, Promise<void>>()
  const failed = new Map<string, number>()
  let bytes = 0

  async function load(hash: string, side: number | null, key: string) {
    try {
      const response = await fetch(urlOf(hash, side))
      if (!response.ok) throw new Error(`the server answered ${response.status}`)
      const bitmap = await createImageBitmap(await response.blob(), { premultiplyAlpha: 'premultiply', colorSpaceConversion: 'none' })
      const entry = { bitmap, bytes: bitmap.width * bitmap.height * 4 }
      held.set(key, entry)
      bytes += entry.bytes
      makeRoom(key)
      failed.delete(hash)
      onCome(hash)
    } catch (error) {
      failed.set(hash, performance.now())
      console.error(`picture ${hash}: ${(error as Error).message}`)
    } finally {
      coming.delete(key)
    }
  }

  /** Rasters made of a picture stay; it is fetched again, from the browser's own cache, when another is wanted. */
  function makeRoom(keep: string) {
    for (const [key, entry] of held) {
      if (bytes <= budgetBytes) return
      if (key === keep) continue
      bytes -= entry.bytes
      entry.bitmap.close()
      held.delete(key)
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
      if (known !== undefined) {
        held.delete(key)
        held.set(key, known)
        return known.bitmap
      }
      if (!coming.has(key) && !(performance.now() - (failed.get(hash) ?? -Infinity) < AGAIN_AFTER_MS)) coming.set(key, load(hash, side, key))
      // What there is of another size stands in.
      const other = sized(hash).map((each) => held.get(each)!.bitmap).sort((a, b) => b.width - a.width)[0]
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
  }
}

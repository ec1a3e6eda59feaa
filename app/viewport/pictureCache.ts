/** Decoded pictures by hash. `lookup` gives null until one has come, then `onCome` is called. */
export function createPictureCache(urlOf: (assetHash: string) => string, onCome: (assetHash: string) => void, budgetBytes = 128 * 1024 * 1024) {
  // In the order they were last wanted.
  const pictures = new Map<string, ImageBitmap | 'coming' | 'failed'>()
  let loads: Promise<void>[] = []

  async function load(hash: string) {
    try {
      const response = await fetch(urlOf(hash))
      if (!response.ok) throw new Error(`the server answered ${response.status}`)
      const bitmap = await createImageBitmap(await response.blob(), { premultiplyAlpha: 'premultiply', colorSpaceConversion: 'none' })
      pictures.set(hash, bitmap)
      makeRoom(hash)
      onCome(hash)
    } catch (error) {
      pictures.set(hash, 'failed')
      console.error(`picture ${hash}: ${(error as Error).message}`)
    }
  }

  /** Rasters made of a picture stay; it is fetched again, from the browser's own cache, when another is wanted. */
  function makeRoom(keep: string) {
    let bytes = 0
    for (const state of pictures.values()) if (state instanceof ImageBitmap) bytes += state.width * state.height * 4
    for (const [hash, state] of pictures) {
      if (bytes <= budgetBytes) return
      if (!(state instanceof ImageBitmap) || hash === keep) continue
      bytes -= state.width * state.height * 4
      state.close()
      pictures.delete(hash)
    }
  }

  return {
    lookup(hash: string): ImageBitmap | null {
      const known = pictures.get(hash)
      if (known instanceof ImageBitmap) {
        pictures.delete(hash)
        pictures.set(hash, known)
        return known
      }
      if (known === undefined) {
        pictures.set(hash, 'coming')
        loads.push(load(hash))
      }
      return null
    },
    /** Resolves when all that was asked for has come or failed; gives the hashes that failed. */
    async settled(): Promise<readonly string[]> {
      while (loads.length > 0) await Promise.all(loads.splice(0))
      loads = []
      return [...pictures].filter(([, state]) => state === 'failed').map(([hash]) => hash)
    },
  }
}

/** Decoded pictures by hash. `lookup` gives null until one has come, then `onCome` is called. */
export function createPictureCache(urlOf: (assetHash: string) => string, onCome: (assetHash: string) => void) {
  const pictures = new Map<string, ImageBitmap | 'coming' | 'failed'>()
  let loads: Promise<void>[] = []

  async function load(hash: string) {
    try {
      const response = await fetch(urlOf(hash))
      if (!response.ok) throw new Error(`the server answered ${response.status}`)
      const bitmap = await createImageBitmap(await response.blob(), { premultiplyAlpha: 'premultiply', colorSpaceConversion: 'none' })
      pictures.set(hash, bitmap)
      onCome(hash)
    } catch (error) {
      pictures.set(hash, 'failed')
      console.error(`picture ${hash}: ${(error as Error).message}`)
    }
  }

  return {
    lookup(hash: string): ImageBitmap | null {
      const known = pictures.get(hash)
      if (known instanceof ImageBitmap) return known
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

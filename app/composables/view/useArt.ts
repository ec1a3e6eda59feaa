import { storeToRefs } from 'pinia'
import { useArtStore } from '~/stores/art'

/** The open film's rasters, and when more of them have come. */
export function useArt() {
  const store = useArtStore()
  const { composeFrame, signatureOf, prepare, prepareFrames, beginShot, library } = store
  return { composeFrame, signatureOf, prepare, prepareFrames, beginShot, library, ...storeToRefs(store) }
}

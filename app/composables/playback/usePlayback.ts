import { storeToRefs } from 'pinia'
import { usePlaybackStore } from '~/stores/playback'

/** Playback, its numbers as refs. */
export function usePlayback() {
  const store = usePlaybackStore()
  const { play, stop, toggle, shuttle, setSpeed, elapsedAgo, elapsedExactly, reportDraw } = store
  return { play, stop, toggle, shuttle, setSpeed, elapsedAgo, elapsedExactly, reportDraw, ...storeToRefs(store) }
}

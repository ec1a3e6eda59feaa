import { watch } from 'vue'
import { liveCutting, useCameras } from '~/composables/camera/useCameras'
import { usePlayback } from '~/composables/playback/usePlayback'
import { useDeskStore } from '~/stores/desk'

/** Follows a live cut as it plays: it ends where playback stops, leaves the shot or begins again, and is kept then. */
export function useLiveCut() {
  const desk = useDeskStore()
  const cameras = useCameras()
  const { stop } = usePlayback()
  watch(
    () => [desk.playing, desk.takeId, desk.shotFrame] as const,
    ([playing, takeId, frame], [wasPlaying, , before]) => {
      const now = liveCutting.value
      if (now === null || (!playing && !wasPlaying)) return
      if (!playing) cameras.endLive()
      else if (takeId !== now.takeId || (wasPlaying && frame < before)) stop()
      else cameras.reach(frame)
    },
    { flush: 'sync' },
  )
}

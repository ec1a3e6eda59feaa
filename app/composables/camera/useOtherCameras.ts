import { lensOf } from '@rubato/core/camera'
import { inOrder } from '@rubato/core/document'
import { computed } from 'vue'
import { useDeskStore } from '~/stores/desk'
import { useFilmStore } from '~/stores/film'

/** The shot's cameras beside the one at work, where they are at the playhead. */
export function useOtherCameras() {
  const film = useFilmStore()
  const desk = useDeskStore()
  const others = computed(() => {
    const { take, stage, cameraAtWorkId } = desk
    const optics = film.optics
    if (take === null || stage === null || optics === null || Object.keys(take.cameras).length < 2) return []
    return inOrder(take.cameras).flatMap(({ id, letter }) => (id === cameraAtWorkId ? [] : [((pose) => ({ letter, pose, lens: lensOf(pose, optics) }))(stage.poseOf(id, desk.shotFrame))]))
  })
  return { others }
}

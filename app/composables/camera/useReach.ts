import { lensOf, project, type CameraPose } from '@rubato/core/camera'
import { useDeskStore } from '~/stores/desk'
import { useFilmStore } from '~/stores/film'

/** How far off the camera's gestures act: the selected level, or the picture plane. */
export function useReach() {
  const film = useFilmStore()
  const desk = useDeskStore()
  function reach(pose: CameraPose): number {
    const lens = lensOf(pose, film.optics!)
    const level = desk.selectedLevel
    const { z } = project(lens, level === null ? { x: pose.x, y: pose.y, depth: 0 } : desk.placeOf(level.id))
    return z > 0.05 ? z : 1
  }
  return { reach }
}

import type { CameraPose } from '@rubato/core/camera'
import type { PlacedFraming } from '@rubato/core/document'
import { computed } from 'vue'
import { useDeskStore } from '~/stores/desk'
import type { DrawnFraming } from '~/plan/drawSet'
import type { PathKey } from '~/plan/pathMarks'

const MOST_STEPS = 160

/** The framings of the camera at work and its path, as every view of the set draws them. */
export function useCameraPath() {
  const desk = useDeskStore()
  const path = computed<readonly CameraPose[]>(() => {
    const { stage, framings, cameraAtWorkId } = desk
    const spans = stage?.workOf(cameraAtWorkId)?.spans ?? []
    if (stage === null || cameraAtWorkId === null || (framings.length < 2 && spans.length === 0)) return []
    const ends = [...framings.map(({ frame }) => frame), ...spans.flatMap(({ first: from, last: to }) => [from, to])]
    const [first, last] = [Math.min(...ends), Math.max(...ends)]
    const steps = Math.min(MOST_STEPS, last - first)
    return Array.from({ length: steps + 1 }, (_, i) => stage.poseOf(cameraAtWorkId, first + ((last - first) * i) / Math.max(1, steps)))
  })
  const beads = computed<readonly DrawnFraming[]>(() => {
    const total = desk.framings.length
    return desk.framings.map(({ framing }, i) => ({
      id: framing.id,
      pose: framing.pose,
      number: i + 1,
      shade: total < 2 ? 1 : i / (total - 1),
      selected: desk.selectedFramingIds.includes(framing.id),
      locked: framing.locked,
    }))
  })
  /** Handles are shown of the move the playhead is in and of those next to chosen framings: all at once are a thicket. */
  const hasMarks = (index: number): boolean => {
    const chosen = desk.selectedFramingIds
    const at = (i: number) => desk.framings[i]?.framing.id
    return !desk.playing && desk.cameraAtWork?.locked !== true && (desk.moveHere?.index === index || [at(index), at(index + 1)].some((id) => id !== undefined && chosen.includes(id)))
  }
  /** The framings as keys of a path, for its handles. */
  const pathKeys = computed(() => desk.framings.map(({ framing: { id, locked, move, pose } }): PathKey<CameraPose> => ({ id, locked, move, value: pose })))
  const framingOf = (id: string): PlacedFraming | null => desk.framings.find((entry) => entry.framing.id === id) ?? null
  return { path, beads, hasMarks, pathKeys, framingOf }
}

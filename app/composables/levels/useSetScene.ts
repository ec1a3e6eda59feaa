import { drawingBounds } from '@rubato/core/ink'
import { isSetLevel, pieceOf, placedFramings, type SetBody } from '@rubato/core/document'
import type { Lens } from '@rubato/core/camera'
import { createTakeStage, lensInSet, takeOfSet, type PlacedLevel, type PlacedShot, type TakeStage } from '@rubato/core/stage'
import type { Rectangle } from '@rubato/core/geometry'
import { computed, type Ref } from 'vue'
import { useFilmStore } from '~/stores/film'
import { useSetsStore } from '~/stores/sets'

/** A camera of a shot that stands in the set, in the set's own axes. */
export interface SetCamera {
  readonly id: string
  /** "040 A". */
  readonly label: string
  readonly placed: PlacedShot
  readonly takeId: string
  /** The frame of the shot that it is shown at: the first on which the film sees it. */
  readonly frame: number
  readonly lens: Lens
  readonly framings: number
}

/** A set by itself, and the cameras of all its shots in it. */
export function useSetScene(setId: Readonly<Ref<string | null>>) {
  const film = useFilmStore()
  const store = useSetsStore()

  const body = computed<SetBody | null>(() => (setId.value === null ? null : (film.film.sets?.[setId.value] ?? null)))
  const stage = computed<TakeStage | null>(() => (body.value === null || film.optics === null ? null : createTakeStage(takeOfSet(setId.value!, body.value), film.optics)))
  const shots = computed(() => (setId.value === null ? [] : store.shotsOf(setId.value)))

  /** Of a shot that has left memory, as they were when it was there. */
  const cameras = computed<readonly SetCamera[]>((before) =>
    shots.value.flatMap(({ placed }): SetCamera[] => {
      const takeId = placed.shot.circledTakeId
      const own = film.stageOf(takeId)
      if (own === null) return (before ?? []).filter((camera) => camera.takeId === takeId)
      const level = Object.values(own.take.levels).find((each) => isSetLevel(each) && each.setId === setId.value)
      if (level === undefined) return []
      const found: SetCamera[] = []
      for (let frame = 0; frame < own.lengthFrames; frame++) {
        const cameraId = own.live.at(frame)
        const id = `${takeId} ${cameraId}`
        if (found.some((each) => each.id === id)) continue
        const seen = own.at(frame)
        const letter = cameraId === null ? '' : (own.take.cameras[cameraId]?.letter ?? '')
        found.push({ id, label: `${placed.shot.label} ${letter}`.trim(), placed, takeId, frame, lens: lensInSet(seen.lens, own.seen(frame).standOf(level.id)), framings: cameraId === null ? 0 : placedFramings(own.take, cameraId).length })
        if (found.length === Object.keys(own.take.cameras).length) break
      }
      return found
    }),
  )

  const boundsOf = ({ drawingId }: PlacedLevel): Rectangle | null => ((drawing) => (drawing === null ? null : drawingBounds(drawing)))(drawingId === null ? null : film.drawingOf(drawingId))
  const nameOf = (levelId: string) => ((of) => (of === null ? '' : (body.value?.pieces[of.pieceId]?.name ?? '')))(pieceOf(levelId))

  return { body, stage, shots, cameras, boundsOf, nameOf }
}

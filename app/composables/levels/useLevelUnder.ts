import { applyAffine, drawingBounds } from '@rubato/core/ink'
import { levelsAlong, type PlacedLevel, type StageFrame } from '@rubato/core/stage'
import type { Px } from '~/plan/elevation'
import { useDeskStore } from '~/stores/desk'
import { useFilmStore } from '~/stores/film'
import { inverseOf } from '~/viewport/viewBox'

/** Which level's art lies under (u, v) of a frame: the nearest of those that are meant; null beside all art. */
export function useArtUnder() {
  const film = useFilmStore()
  return (frame: StageFrame, u: number, v: number, meant: (placed: PlacedLevel) => boolean = () => true): string | null => {
    const under = levelsAlong(frame, u, v).find(({ placed, art: { x, y } }) => {
      const drawing = placed.drawingId === null || placed.opacity === 0 || !meant(placed) ? null : film.drawingOf(placed.drawingId)
      const bounds = drawing === null ? null : drawingBounds(drawing)
      return bounds !== null && x >= bounds.left && x <= bounds.right && y >= bounds.bottom && y <= bounds.top
    })
    return under?.placed.level.id ?? null
  }
}

/** Which level's art lies under a point of the lens view. */
export function useLevelUnder(toPane: (u: number, v: number) => Px) {
  const desk = useDeskStore()
  const artUnder = useArtUnder()
  function levelUnder(at: Px): string | null {
    const [middle, across, up] = [toPane(0, 0), toPane(1, 0), toPane(0, 1)]
    const back = inverseOf({ a: across.x - middle.x, b: across.y - middle.y, c: up.x - middle.x, d: up.y - middle.y, e: middle.x, f: middle.y })
    if (desk.stageFrame === null || back === null) return null
    const { x: u, y: v } = applyAffine(back, at)
    const under = artUnder(desk.stageFrame, u, v)
    return under === null ? null : desk.choosable(under)
  }
  return { levelUnder }
}

import { applyAffine, drawingBounds } from '@rubato/core/ink'
import { levelsAlong } from '@rubato/core/stage'
import type { Px } from '~/plan/elevation'
import { useDeskStore } from '~/stores/desk'
import { useFilmStore } from '~/stores/film'
import { inverseOf } from '~/viewport/viewBox'

/** Which level's art lies under a point of the lens view. */
export function useLevelUnder(toPane: (u: number, v: number) => Px) {
  const film = useFilmStore()
  const desk = useDeskStore()
  /** The nearest of them; null beside all art. */
  function levelUnder(at: Px): string | null {
    const frame = desk.stageFrame
    const [middle, across, up] = [toPane(0, 0), toPane(1, 0), toPane(0, 1)]
    const back = inverseOf({ a: across.x - middle.x, b: across.y - middle.y, c: up.x - middle.x, d: up.y - middle.y, e: middle.x, f: middle.y })
    if (frame === null || back === null) return null
    const { x: u, y: v } = applyAffine(back, at)
    for (const { placed, art } of levelsAlong(frame, u, v)) {
      const drawing = placed.drawingId === null || placed.opacity === 0 ? null : film.drawingOf(placed.drawingId)
      const bounds = drawing === null ? null : drawingBounds(drawing)
      if (bounds !== null && art.x >= bounds.left && art.x <= bounds.right && art.y >= bounds.bottom && art.y <= bounds.top) return placed.level.id
    }
    return null
  }
  return { levelUnder }
}

import { levelOutline } from '~/components/desk/set/outlines'
import type { Px } from '~/plan/elevation'
import { isInside } from '~/plan/levelHandles'
import { useDeskStore } from '~/stores/desk'
import { useFilmStore } from '~/stores/film'

/** Which level's art lies under a point of the lens view. */
export function useLevelUnder(toPane: (u: number, v: number) => Px) {
  const film = useFilmStore()
  const desk = useDeskStore()
  /** The nearest of them; null beside all art. */
  function levelUnder(at: Px): string | null {
    const frame = desk.stageFrame
    if (frame === null) return null
    for (const each of [...frame.levels].reverse()) {
      const drawing = each.drawingId === null ? null : film.drawingOf(each.drawingId)
      const outline = drawing === null ? null : levelOutline(each, drawing, frame.lens)
      if (outline !== null && each.opacity > 0 && isInside(outline.map(({ u, v }) => toPane(u, v)), at)) return each.level.id
    }
    return null
  }
  return { levelUnder }
}

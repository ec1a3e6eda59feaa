import { shownAt, type LevelOwner } from '@rubato/core/document'
import { ownerOfLevel } from '@rubato/core/interchange'
import { saveFile } from '~/composables/handover/useWordsOut'
import { useDeskStore } from '~/stores/desk'
import { useFilmStore } from '~/stores/film'
import { linesOf } from '~/workers/drawingLines'

/** The drawing in hand as an SVG file, to be changed elsewhere and dropped again. */
export function useLinesOut() {
  const film = useFilmStore()
  const desk = useDeskStore()

  async function save(): Promise<void> {
    const [take, takeId, level, project] = [desk.take, desk.takeId, desk.selectedLevel, film.project]
    const cell = take === null || level === null ? null : shownAt(take, level.id, desk.shotFrame)
    const drawing = cell === null ? null : film.drawingOf(cell.drawingId)
    if (take === null || takeId === null || level === null || project === null || cell === null || drawing === null || drawing.marks.length === 0) return film.refuse('There is nothing drawn on this level here. Choose a level that shows something, then save it as lines.')
    const of: { readonly owner: LevelOwner; readonly levelId: string } | null = ownerOfLevel(take, takeId, level.id)
    try {
      const svg = await linesOf(drawing, `${desk.placedShot?.shot.label ?? ''} ${level.name}`.trim(), project.widthPx, of === null ? null : { ...of, drawingId: cell.drawingId }, (hash) => fetch(`/api/pictures/${hash}`).then((response) => (response.ok ? response.blob() : null)))
      saveFile(`${project.title}-${desk.placedShot?.shot.label ?? ''}-${level.name}.svg`.replace(/[^\p{L}\p{N}._-]+/gu, '-'), new Blob([svg], { type: 'image/svg+xml' }))
    } catch (error) {
      film.refuse(`The drawing could not be saved as lines. ${(error as Error).message}`)
    }
  }
  return { save }
}

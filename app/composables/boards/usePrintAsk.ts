import { inOrder } from '@rubato/core/document'
import type { PlacedShot } from '@rubato/core/stage'
import { pictureBase } from '~/api/client'
import type { PrintChoice } from '~/boards/printLayout'
import { useFilmStore } from '~/stores/film'
import type { PrintAsk } from '~/workers/messages'

/** As boards are printed where nothing else is said. */
export const USUAL_PRINT: PrintChoice = Object.freeze({ paper: 'a4', landscape: true, perPage: 6, sequencePages: true, notes: false, moves: true, forPrint: true })
/** A document of more is too large to be held. */
const MOST_PANELS = 4000

/** What is asked of the printer for some shots of the open film; `only` as `takeId/panelId`, null for all of their panels. */
export function usePrintAsk() {
  const film = useFilmStore()

  const panelsIn = (shots: readonly PlacedShot[]) => shots.reduce((sum, { shot }) => sum + (film.panelCounts.get(shot.circledTakeId) ?? 0), 0)

  /** Throws where it is too much for one document, saying what to do. */
  function askOf(shots: readonly PlacedShot[], only: readonly string[] | null, choice: PrintChoice): PrintAsk {
    const { project, projectId } = film
    if (project === null || projectId === null) throw new Error('No film is open.')
    const panels = only?.length ?? panelsIn(shots)
    if (panels > MOST_PANELS) throw new Error(`${panels} panels are too many for one document: at most ${MOST_PANELS}. Print sequence by sequence.`)
    const version = film.lookingAt?.version ?? null
    return {
      project: { ...project, rate: { ...project.rate } },
      choice: { ...choice },
      shots: shots.map(({ shot }) => ({ takeId: shot.circledTakeId, sequenceId: shot.sequenceId, label: shot.label, title: shot.title })),
      only,
      sequences: Object.fromEntries(inOrder(film.film.outline.sequences).map((each) => [each.id, `${each.label} ${each.title}`.trim()])),
      dateText: new Date().toLocaleDateString(undefined, { dateStyle: 'long' }),
      base: `${location.origin}/api/projects/${projectId}${version === null ? '' : `/versions/${version}`}`,
      pictureBase: pictureBase(),
    }
  }
  return { askOf, panelsIn }
}

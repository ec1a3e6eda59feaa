import type { SheetPaper } from '@rubato/core/checks'
import { drawingsOf, namedDrawings, pieceOf, shownAt } from '@rubato/core/document'
import { useLocalStorage } from '@vueuse/core'
import { onScopeDispose, ref, shallowRef } from 'vue'
import { pictureBase } from '~/api/client'
import { WorkerStopped } from '~/clients/jobs'
import { sheetJobs } from '~/clients/sheetJobs'
import { fileTitle, saveFile } from '~/composables/handover/useWordsOut'
import { useDeskStore } from '~/stores/desk'
import { useFilmStore } from '~/stores/film'
import { useNeededStore } from '~/stores/needed'
import type { MadeSheets, SheetsAsk, SheetsProgress } from '~/workers/messages'

export const SHEET_PAPERS: readonly { readonly id: SheetPaper; readonly name: string; readonly title: string }[] = [
  { id: 'a4', name: 'A4', title: '210 × 297 mm' },
  { id: 'a3', name: 'A3', title: '297 × 420 mm' },
  { id: 'letter', name: 'Letter', title: '8½ × 11 in' },
]

function canvasWords({ widthPx, heightPx, share }: NonNullable<MadeSheets['canvas']>): string {
  const less = share < 1 ? ` That is ${Math.floor(share * 100)} % of what is needed: larger files can’t be taken in.` : ''
  return `${widthPx.toLocaleString('en')} × ${heightPx.toLocaleString('en')} px saved.${less} Paint on the named layers and keep their names; drop the file anywhere on the film when it is done.`
}

/** Background sheets of what is chosen: made in a worker, saved as files. */
export function useSheets() {
  const film = useFilmStore()
  const desk = useDeskStore()
  const needed = useNeededStore()
  const paper = useLocalStorage<SheetPaper>('rubato.sheetPaper', 'a4')
  const progress = shallowRef<SheetsProgress | null>(null)
  const trouble = ref<string | null>(null)
  const made = ref<string | null>(null)
  let gate = new AbortController()

  function stop() {
    gate.abort()
    progress.value = null
  }
  onScopeDispose(stop)

  function askFor(as: SheetsAsk['as']): SheetsAsk | null {
    const { take, takeId } = desk
    const { project, optics } = film
    if (take === null || takeId === null || project === null || optics === null) return null
    const labels = new Map(film.filmStage.shots.map(({ shot }) => [shot.circledTakeId, shot.label]))
    if (desk.placedShot !== null) labels.set(takeId, desk.placedShot.shot.label)
    const setLevelId = desk.selectedLevel?.kind === 'set' ? desk.selectedLevel.id : null
    return {
      as,
      paper: paper.value,
      film: project.title,
      dateText: new Date().toLocaleDateString(undefined, { year: 'numeric', month: 'long', day: 'numeric' }),
      optics: { ...optics },
      widthPx: project.widthPx,
      fps: desk.fps,
      margin: needed.margin,
      pictureBase: pictureBase(),
      drawings: drawingsOf(take).flatMap((id) => ((drawing) => (drawing === null ? [] : [[id, drawing] as const]))(film.drawingOf(id))),
      takes: needed.bodies().map(({ takeId: id, take: body }) => ({ takeId: id, label: labels.get(id) ?? '', take: body, beyond: film.filmStage.beyondOf(id) })),
      frame: desk.shotFrame,
      levels: needed.of.flatMap((of) => {
        const level = take.levels[of.id]
        if (level === undefined) return []
        const piece = pieceOf(level.id)
        const on = piece === null ? undefined : take.levels[piece.setLevelId]
        if (piece !== null && on?.kind !== 'set') return []
        const named = namedDrawings(take, level.id).flatMap(({ drawingId, name }) => ((drawing) => (drawing === undefined ? [] : [{ drawing, name }]))(of.drawings.find(({ id }) => id === drawingId)))
        return [{
          id: of.id,
          drawings: named.map(({ drawing }) => drawing),
          drawingNames: named.map(({ name }) => name),
          name: level.name,
          laid: level.paper === undefined ? null : { ...level.paper },
          rough: shownAt(take, level.id, desk.shotFrame)?.drawingId ?? null,
          ...(piece === null || on?.kind !== 'set' ? { owner: { kind: 'take' as const, id: takeId }, levelId: level.id } : { owner: { kind: 'set' as const, id: on.setId }, levelId: piece.pieceId }),
        }]
      }),
      setName: setLevelId === null ? null : (take.levels[setLevelId]?.name ?? null),
    }
  }

  async function make(as: SheetsAsk['as']) {
    const ask = askFor(as)
    if (ask === null || ask.levels.length === 0 || progress.value !== null) return
    gate = new AbortController()
    const { signal } = gate
    trouble.value = made.value = null
    progress.value = { done: 0, total: ask.levels.length }
    try {
      const { file, extension, pages, canvas, unseen } = await sheetJobs.run(ask, { signal, progress: (told) => !signal.aborted && (progress.value = told) })
      const name = ask.setName ?? (ask.levels.length === 1 ? ask.levels[0]!.name : 'levels')
      saveFile(`${fileTitle(ask.film)} – ${name}.${extension}`, file)
      made.value = `${canvas !== null ? canvasWords(canvas) : pages === 1 ? 'One page saved.' : `${pages} pages saved.`}${unseen.length === 0 ? '' : ` No shot sees ${unseen.join(', ')}.`}`
    } catch (error) {
      const what = as === 'ora' ? 'file' : 'sheets'
      if (!signal.aborted) trouble.value = error instanceof WorkerStopped ? `The ${what} could not be finished, perhaps for want of memory. Choose fewer levels, then try again.` : `The ${what} could not be made. ${(error as Error).message}`
    }
    if (!signal.aborted) progress.value = null
  }
  return { paper, progress, trouble, made, make, stop }
}

import { newLevel, holdable, shorten } from '@rubato/core/document'
import { addLevel, drawMark, type Made } from '@rubato/core/edits'
import { shallowRef } from 'vue'
import { PICTURE_LIMIT_BYTES, PICTURE_TYPES } from '#shared/assets'
import { uploadFile } from '~/api/upload'
import { useDeskStore } from '~/stores/desk'
import { useFilmStore } from '~/stores/film'

export interface Placing {
  readonly name: string
  readonly share: number
  readonly cancel: () => void
}

const placing = shallowRef<Placing | null>(null)

/** Brings picture files in: onto a level, or each onto a new level of its own. */
export function usePlacePicture() {
  const film = useFilmStore()
  const desk = useDeskStore()

  function choosePicture(levelId: string | null) {
    const input = document.createElement('input')
    input.type = 'file'
    input.accept = PICTURE_TYPES.join()
    input.multiple = levelId === null
    input.onchange = () => void placeFiles([...(input.files ?? [])], levelId)
    input.click()
  }

  async function placeFiles(files: readonly File[], levelId: string | null) {
    const gate = new AbortController()
    for (const file of files) {
      if (gate.signal.aborted) return
      const tell = (share: number) => (placing.value = { name: file.name, share, cancel: () => gate.abort(new Error('Cancelled.')) })
      tell(0)
      try {
        if (file.size > PICTURE_LIMIT_BYTES) throw new Error(`The file is larger than ${PICTURE_LIMIT_BYTES / 1024 / 1024} MB. Save it smaller and try again.`)
        if (file.size === 0) throw new Error('The file is empty.')
        const bitmap = await createImageBitmap(file).catch(() => null)
        if (bitmap === null) throw new Error('The file is not a PNG, JPEG or WebP picture, or it is damaged.')
        bitmap.close()
        const picture = await uploadFile(file, 'picture', tell, gate.signal)
        place(file.name, picture.hash, picture.widthPx, picture.heightPx, levelId)
      } catch (error) {
        if (gate.signal.aborted) return
        film.refuse(`“${file.name}” was not placed. ${(error as Error).message}`)
      } finally {
        placing.value = null
      }
    }
  }

  function place(fileName: string, assetHash: string, widthPx: number, heightPx: number, levelId: string | null) {
    const [takeId, panelId, project] = [desk.takeId, desk.placedPanel?.panel.id, film.project]
    if (takeId === null || panelId === undefined || project === null) return
    const name = shorten(holdable(fileName).replace(/\.[^.]+$/, ''), 120) || 'Picture'
    const target = levelId ?? crypto.randomUUID()
    const mark = { id: crypto.randomUUID(), kind: 'picture' as const, assetHash, widthPx, heightPx, x: 0, y: 0, widthFw: widthPx / project.widthPx }
    const drawingId = crypto.randomUUID()
    film.perform(`place ${name}`, (f): Made => {
      let take = f.takes[takeId]!
      const edits = []
      if (levelId === null) {
        const level = newLevel({ id: target, name, kind: 'placed' })
        const added = addLevel(take, takeId, level, null)
        if (!added.ok) return added
        edits.push(...added.edits)
        take = { ...take, levels: { ...take.levels, [target]: { ...level, order: 'a0' } } }
      }
      const drawn = drawMark(take, takeId, f.drawings, target, panelId, mark, drawingId, false)
      return drawn.ok ? { ok: true, edits: [...edits, ...drawn.edits] } : drawn
    })
    desk.selectedLevelId = target
  }

  return { choosePicture, placeFiles, placing }
}

import { cellIdOf, placedPanels, type Picture, type ReferenceLevel, orderOfNumber, holdable, shorten, takeRef, drawingRef } from '@rubato/core/document'
import { addLevel, type Edit, type Made } from '@rubato/core/edits'
import { shallowRef } from 'vue'
import { PICTURE_LIMIT_BYTES, PICTURE_TYPES } from '#shared/assets'
import { uploadFile } from '~/api/upload'
import { useDeskStore } from '~/stores/desk'
import { useFilmStore } from '~/stores/film'

const MOST_REFERENCE_PICTURES = 2000
const STRENGTH = 0.5

const bringing = shallowRef<{ readonly done: number; readonly total: number; readonly cancel: () => void } | null>(null)

/** File names as people number them: 2 before 10. */
function inNumberOrder<T extends { readonly name: string }>(files: readonly T[]): T[] {
  const collator = new Intl.Collator('en', { numeric: true, sensitivity: 'base' })
  return [...files].sort((a, b) => collator.compare(a.name, b.name))
}

/** Brings pictures in to be seen while working and never handed over: one, or several as a numbered sequence. */
export function useReference() {
  const film = useFilmStore()
  const desk = useDeskStore()

  function choose() {
    const input = document.createElement('input')
    input.type = 'file'
    input.accept = PICTURE_TYPES.join()
    input.multiple = true
    input.onchange = () => void bring([...(input.files ?? [])])
    input.click()
  }

  async function bring(files: readonly File[]) {
    const [takeId, project, panels] = [desk.takeId, film.project, desk.take === null ? [] : placedPanels(desk.take)]
    if (files.length === 0 || takeId === null || project === null || panels.length === 0) return
    if (bringing.value !== null) return film.refuse('Reference pictures are being brought in. Wait for them, or cancel that first.')
    if (files.length > MOST_REFERENCE_PICTURES) return film.refuse(`A reference sequence has at most ${MOST_REFERENCE_PICTURES} pictures; ${files.length} were chosen. Choose fewer.`)
    const gate = new AbortController()
    const startFrame = desk.shotFrame
    const marks: Picture[] = []
    const tell = () => (bringing.value = { done: marks.length, total: files.length, cancel: () => gate.abort(new Error('Cancelled.')) })
    tell()
    try {
      for (const file of inNumberOrder(files)) {
        gate.signal.throwIfAborted()
        if (file.size === 0) throw new Error(`“${file.name}” is empty.`)
        if (file.size > PICTURE_LIMIT_BYTES) throw new Error(`“${file.name}” is larger than ${PICTURE_LIMIT_BYTES / 1024 / 1024} MB. Save it smaller and try again.`)
        const bitmap = await createImageBitmap(file).catch(() => null)
        if (bitmap === null) throw new Error(`“${file.name}” is not a PNG, JPEG or WebP picture, or it is damaged.`)
        bitmap.close()
        const { hash, widthPx, heightPx } = await uploadFile(file, 'picture', () => undefined, gate.signal)
        // Each fills the frame as well as it can without being cut.
        const widthFw = Math.min(1, ((widthPx / heightPx) * project.heightPx) / project.widthPx)
        marks.push({ id: crypto.randomUUID(), order: orderOfNumber(marks.length + 1), kind: 'picture', assetHash: hash, widthPx, heightPx, x: 0, y: 0, widthFw })
        tell()
      }
      put(takeId, panels[0]!.panel.id, files[0]!.name, marks, startFrame)
    } catch (error) {
      if (!gate.signal.aborted) film.refuse(`The reference was not brought in: ${(error as Error).message}`)
    } finally {
      bringing.value = null
    }
  }

  function put(takeId: string, panelId: string, fileName: string, marks: readonly Picture[], startFrame: number) {
    const stem = fileName.replace(/\.[^.]+$/, '')
    const several = marks.length > 1
    const name = shorten(holdable((several ? stem.replace(/[\s._-]*\d+$/, '') : stem) || 'Reference'), 120)
    const [levelId, drawingId] = [crypto.randomUUID(), crypto.randomUUID()]
    const level: Omit<ReferenceLevel, 'order'> = { id: levelId, name, kind: 'reference', x: 0, y: 0, depth: 0, scale: 1, panDegrees: 0, tiltDegrees: 0, rollDegrees: 0, opacity: STRENGTH, visible: true, locked: true, over: false, ...(several ? { sequence: { startFrame, framesEach: 1 } } : {}) }
    const cell = { id: cellIdOf(levelId, panelId), levelId, panelId, drawingId }
    const done = film.perform(`reference ${name}`, (f): Made => {
      const added = addLevel(f.takes[takeId]!, takeId, level, null)
      if (!added.ok) return added
      const cells: Edit = { kind: 'cell-set', unit: takeRef(takeId), changes: { cells: { [cell.id]: { before: null, after: cell } } } }
      const drawing: Edit = { kind: 'bring', unit: drawingRef(drawingId), changes: { marks: Object.fromEntries(marks.map((mark) => [mark.id, { before: null, after: mark }])) } }
      return { ok: true, edits: [...added.edits, cells, drawing] }
    })
    if (done) desk.selectedLevelId = levelId
  }

  return { choose, bring, bringing }
}

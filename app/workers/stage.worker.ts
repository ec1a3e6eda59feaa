import { NEED_MARGIN, needsOfTake, neededOf, type TakeNeeds } from '@rubato/core/checks'
import { drawingsOf, EMPTY_DRAWING, opticsOf } from '@rubato/core/document'
import { drawingBounds } from '@rubato/core/ink'
import { createTakeStage } from '@rubato/core/stage'
import { zipSync } from 'fflate'
import { answerJobs } from './answerJobs'
import { drawingPicture } from './drawingPicture'
import { formatOf } from './formats'
import type { MadeStages, StageAsk } from './handOverMessages'
import type { MovieProgress } from './messages'
import type { StageFile } from './stageShot'
import { createThumbPainter } from './thumbPainter'
import { frameOfWidth } from '../viewport/viewBox'

/** Of one drawing, at most. */
const MOST_PX = 8_000_000
/** As fine as four times the picture. */
const FINEST = 2
const RASTER_BYTES = 64 * 1024 * 1024

const isFiles = (written: BlobPart | readonly StageFile[]): written is readonly StageFile[] => Array.isArray(written)

answerJobs<StageAsk, MadeStages, MovieProgress>(async (ask, { tell, signal }) => {
  const format = formatOf(ask.format)
  if (format.needs !== 'stage') throw new Error(`${format.label} is not made shot by shot.`)
  if (ask.shots.length === 0) throw new Error('There is no shot in this range.')
  const optics = opticsOf(ask.project)
  const files: [string, BlobPart][] = []
  const fileName = (label: string) => label.replace(/[^\p{L}\p{N}._-]+/gu, '-')
  const painter = createThumbPainter(optics, ask.project.widthPx, ask.pictureBase, RASTER_BYTES)
  const png = async (canvas: OffscreenCanvas) => new Uint8Array(await (await canvas.convertToBlob({ type: 'image/png' })).arrayBuffer())
  for (const [done, { label, startFrame, takeId, take }] of ask.shots.entries()) {
    tell({ phase: 'frames', done, total: ask.shots.length })
    const stage = createTakeStage(take, optics)
    let needs: TakeNeeds | null = null
    /** How many times its own size the shot sees it, at the nearest. */
    const magnification = (drawingId: string) => {
      needs ??= needsOfTake(stage, '', new Map(drawingsOf(take).map((id) => [id, { bounds: drawingBounds(ask.drawings[id] ?? EMPTY_DRAWING), owes: [] }])), NEED_MARGIN.usual)
      return neededOf([drawingId], [needs])?.magnification ?? 1
    }
    const picture = async (drawingId: string) => {
      const drawing = ask.drawings[drawingId]
      const finest = Math.max(0, Math.min(FINEST, Math.ceil(Math.log2(magnification(drawingId)))))
      return drawing === undefined ? null : drawingPicture(drawingId, drawing, ask.project.widthPx, ask.pictureBase, MOST_PX, finest)
    }
    const ids = drawingsOf(take)
    for (const id of ids) painter.putDrawing(id, ask.drawings[id] ?? EMPTY_DRAWING)
    const written = await format.write({
      label,
      takeId,
      startFrame,
      stage,
      panelId: ask.panelId ?? null,
      project: ask.project,
      picture,
      placed: (hash) => fetch(`${ask.pictureBase}${hash}`).then((response) => (response.ok ? response.blob() : null), () => null),
      drawingOf: (id) => ask.drawings[id] ?? null,
      frame: async (frame, view) => png(await painter.paint(take, frame, view)),
      alone: async (frame, placed) => png(await painter.paintAlone({ ...frame, levels: frame.levels.filter(({ level }) => level.id === placed.level.id), shadows: [] }, frameOfWidth(ask.project.widthPx, optics.aspect))),
      drawing: async (drawing, place) => png(await painter.paintDrawing(drawing, place)),
    })
    signal.throwIfAborted()
    painter.forgetDrawings(ids)
    if (!isFiles(written)) files.push([`${ask.stem}-${fileName(label)}.${format.extension}`, written])
    else for (const { name, part } of written) files.push([`${ask.stem}-${fileName(name)}`, part])
    await new Promise((resolve) => setTimeout(resolve))
  }
  tell({ phase: 'closing', done: ask.shots.length, total: ask.shots.length })
  const [only] = files
  if (files.length === 1 && (format.extension !== 'zip' || ask.panelId !== undefined)) return { name: only![0], file: new Blob([only![1]]) }
  if (files.length === 0) throw new Error(`There is nothing in ${ask.shots.length === 1 ? 'this shot' : 'these shots'} for ${format.label}.`)
  const entries = Object.fromEntries(await Promise.all(files.map(async ([name, part]) => [name, new Uint8Array(await new Blob([part]).arrayBuffer())] as const)))
  return { name: `${ask.stem}-${format.extension === 'zip' ? ask.format : format.extension}.zip`, file: new Blob([zipSync(entries, { level: 1 }) as Uint8Array<ArrayBuffer>], { type: 'application/zip' }) }
})

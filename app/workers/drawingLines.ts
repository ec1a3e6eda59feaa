import { exposuresOf, rackLevels, type Drawing } from '@rubato/core/document'
import { ownerOfLevel, writeDrawingSvg, type SvgWay } from '@rubato/core/interchange'
import { dataUrl } from './dataUrl'
import type { StageFile, StageShot } from './stageShot'

/** A drawing as an SVG file, its placed pictures in it. */
export async function linesOf(drawing: Drawing, name: string, pxPerFw: number, way: SvgWay | null, placed: (assetHash: string) => Promise<Blob | null>): Promise<string> {
  const hashes = [...new Set(drawing.marks.flatMap((mark) => (mark.kind === 'picture' ? [mark.assetHash] : [])))]
  const hrefs = new Map<string, string>()
  for (const hash of hashes) {
    const blob = await placed(hash)
    if (blob !== null) hrefs.set(hash, await dataUrl(blob))
  }
  return writeDrawingSvg(drawing, name, pxPerFw, way, hrefs)
}

/** Every drawing of a shot's levels as an SVG, once. */
export async function drawingLines(shot: StageShot): Promise<readonly StageFile[]> {
  const { take } = shot.stage
  const files: StageFile[] = []
  const done = new Set<string>()
  for (const level of rackLevels(take)) {
    const drawn = [...new Set(exposuresOf(take, level.id).flatMap(({ cell }) => cell.drawingId ?? []))]
    for (const [n, drawingId] of drawn.entries()) {
      const drawing = shot.drawingOf(drawingId)
      if (done.has(drawingId) || drawing === null || drawing.marks.length === 0 || level.kind === 'reference') continue
      done.add(drawingId)
      const name = drawn.length === 1 ? level.name : `${level.name} ${n + 1}`
      const of = ownerOfLevel(take, shot.takeId, level.id)
      files.push({ name: `${shot.label}-${name}.svg`, part: await linesOf(drawing, `${shot.label} ${name}`, shot.project.widthPx, of === null ? null : { ...of, drawingId }, shot.placed) })
    }
  }
  return files
}

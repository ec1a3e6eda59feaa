import { shownInFilm, shownInTake, type Shown, type StageOf } from '@rubato/core/stage'
import { even, picturePixels, type Dress } from '#shared/renders'
import type { MovieRequest } from './messages'

/** What is handed over, and where the picture lies in it: whole, as large as it is, in the middle. */
export function moviePixels(request: Pick<MovieRequest, 'project' | 'size'> & { readonly dress: Pick<Dress, 'aspect'> }): { readonly widthPx: number; readonly heightPx: number; readonly left: number; readonly top: number } {
  const picture = picturePixels(request)
  const { aspect } = request.dress
  const own = picture.widthPx / picture.heightPx
  const widthPx = aspect === null || aspect <= own ? picture.widthPx : even(picture.heightPx * aspect)
  const heightPx = aspect === null || aspect >= own ? picture.heightPx : even(picture.widthPx / aspect)
  return { widthPx, heightPx, left: Math.round((widthPx - picture.widthPx) / 2), top: Math.round((heightPx - picture.heightPx) / 2) }
}

export function movieFrames({ span, lead }: Pick<MovieRequest, 'span' | 'lead'>): number {
  return span.end > span.start ? span.end - span.start + lead : 0
}

/** What is on the screen at a frame of a request. Throws where the request has no shot there. */
export function movieShown({ shots, transitions, alone = null }: Pick<MovieRequest, 'shots' | 'transitions' | 'alone'>, frame: number, stageOf: StageOf): Shown {
  const placed = shots.find((shot) => (alone === null ? frame >= shot.placed.startFrame && frame < shot.placed.startFrame + shot.placed.lengthFrames : shot.placed.shot.id === alone))?.placed ?? null
  if (alone !== null && placed !== null) return shownInTake(placed.shot.circledTakeId, frame, stageOf(placed.shot.circledTakeId))
  const shown = shownInFilm(transitions, placed, frame, stageOf)
  if (shown === null) throw new Error(`movieShown: there is no shot at frame ${frame}`)
  return shown
}

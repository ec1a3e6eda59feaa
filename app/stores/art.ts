import { frameSignature, type StageFrame, type TakeStage } from '@rubato/core/stage'
import { defineStore } from 'pinia'
import { ref } from 'vue'
import { api } from '~/api/client'
import { inIdle } from '~/clients/inIdle'
import { ArtLibrary } from '~/viewport/artLibrary'
import { compose, octaveNeeded, type Composition, type Dimming, type Looking, type ViewBox } from '~/viewport/composition'
import type { Through } from '~/viewport/levelAir'
import { forgetAllOutlines } from '~/viewport/paint'
import { createPictureCache } from '~/viewport/pictureCache'
import { serialOf } from '~/workers/artSender'
import { useFilmStore } from './film'

const NOBODY: ReadonlySet<string> = new Set()

/** About twice what a rich shot needs in a large lens view. */
const RASTER_BUDGET_BYTES = 160 * 1024 * 1024
/** A raster of thousands of strokes is painted in slices, so that the hand is never held up. */
const SLICE_MS = 8
const PREPARE_EVERY_FRAMES = 6
/** Of a long shot so many frames are looked at, spread over it. */
const MOST_LOOKED_AT = 400
/** Preparing must not push out what is shown. */
const PREPARE_UP_TO = 0.7

/** The open film's rasters, shared by every view of it. */
export const useArtStore = defineStore('art', () => {
  let library: ArtLibrary | null = null
  let forProject: string | null = null
  /** Raised when pixels have come that a picture was waiting for. */
  const artVersion = ref(0)

  const pictures = createPictureCache(api.pictureUrl, (hash) => {
    library?.forgetPicture(hash)
    artVersion.value++
  })

  let preparing = 0

  function paintSlice() {
    library?.continue(SLICE_MS)
    artVersion.value++
    if (library?.unfinished === true) inIdle(paintSlice)
  }

  const film = useFilmStore()

  function current(): ArtLibrary {
    const key = `${film.projectId}:${film.project?.widthPx}`
    if (library === null || forProject !== key) {
      library?.empty()
      pictures.empty()
      forgetAllOutlines()
      library = new ArtLibrary(film.project?.widthPx ?? 1280, pictures.lookup, { budgetBytes: RASTER_BUDGET_BYTES, sliceMs: SLICE_MS })
      forProject = key
    }
    return library
  }

  function composeFrame(stage: StageFrame, view: ViewBox, withReference = true, dimming?: Dimming, looking?: Looking, through?: Through): Composition {
    const composition = compose(stage, view, current(), film.drawingOf, withReference, dimming, looking, through)
    paintOn()
    if (composition.missing.length > 0) void film.ensure('drawing', composition.missing).catch(() => undefined)
    return composition
  }

  /** What a frame's picture is made of: a view that shows it is drawn anew when this is another. */
  const signatureOf = (stage: StageFrame) =>
    frameSignature(
      stage,
      (id) => {
        const drawing = film.drawingOf(id)
        return drawing === null ? 'none' : serialOf(drawing)
      },
      NOBODY,
    )

  /** What is painted only in part is painted on when nothing presses; each slice is shown. */
  function paintOn() {
    if (library?.unfinished === true) inIdle(paintSlice)
  }

  /** Makes, in idle time, the rasters that playing a shot will want, so that none is made while it plays. */
  function prepare(stage: TakeStage, view: ViewBox) {
    const count = Math.min(MOST_LOOKED_AT, Math.ceil(stage.lengthFrames / PREPARE_EVERY_FRAMES))
    prepareEach(count, (i) => stage.at(Math.floor((i * stage.lengthFrames) / count)), view)
  }

  /** Makes, in idle time, the rasters that these frames will want in a view. What was being made for others is not wanted any more. */
  const prepareFrames = (frames: readonly StageFrame[], view: ViewBox) => prepareEach(frames.length, (i) => frames[i]!, view)

  /** Looked at in turns too: a long shot with many levels holds nobody up. */
  function prepareEach(count: number, frameAt: (index: number) => StageFrame, view: ViewBox) {
    const mine = ++preparing
    const art = current()
    const asked = new Set<string>()
    let next = 0
    function lookOn() {
      if (mine !== preparing) return
      const until = performance.now() + SLICE_MS
      while (next < count && performance.now() < until) want(frameAt(next++))
      if (next < count) inIdle(lookOn, 'late')
    }
    function want(at: StageFrame) {
      for (const placed of at.levels) {
        const id = placed.drawingId
        const drawing = id === null ? null : film.drawingOf(id)
        if (id === null || drawing === null) continue
        const octave = octaveNeeded(at, placed, view, art, drawing)
        if (asked.has(`${id}@${octave}`) || art.has(id, drawing, octave) || !art.fits(drawing, octave)) continue
        asked.add(`${id}@${octave}`)
        inIdle(() => {
          // What was asked for before the shot, the view or the art changed is not wanted any more.
          if (mine === preparing && film.drawingOf(id) === drawing && art.fullness < PREPARE_UP_TO) art.raster(id, drawing, octave)
          paintOn()
        }, 'late')
      }
    }
    lookOn()
  }

  return { composeFrame, signatureOf, prepare, prepareFrames, artVersion, beginShot: () => library?.beginShot(), library: current }
})

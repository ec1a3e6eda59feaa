import type { StageFrame } from '@rubato/core/stage'
import { ref } from 'vue'
import { api } from '~/api/client'
import { useFilmStore } from '~/stores/film'
import { ArtLibrary } from '~/viewport/artLibrary'
import { compose, type Composition, type Dimming, type ViewBox } from '~/viewport/composition'
import { createPictureCache } from '~/viewport/pictureCache'

let library: ArtLibrary | null = null
let forProject: string | null = null
/** Raised when pixels have come that a picture was waiting for. */
const artVersion = ref(0)

const pictures = createPictureCache(api.pictureUrl, (hash) => {
  library?.forgetPicture(hash)
  artVersion.value++
})

/** The open film's rasters, shared by every view of it. */
export function useArt() {
  const film = useFilmStore()

  function current(): ArtLibrary {
    const key = `${film.projectId}:${film.project?.widthPx}`
    if (library === null || forProject !== key) {
      library = new ArtLibrary(film.project?.widthPx ?? 1280, pictures.lookup)
      forProject = key
    }
    return library
  }

  function composeFrame(stage: StageFrame, view: ViewBox, withReference = true, dimming?: Dimming): Composition {
    const composition = compose(stage, view, current(), film.drawingOf, withReference, dimming)
    if (composition.missing.length > 0) void film.ensure('drawing', composition.missing).catch(() => undefined)
    return composition
  }

  return { composeFrame, artVersion, library: current }
}

import { mapShown, shownInTake, viewsOf } from '@rubato/core/stage'
import { computed, onMounted, watch, type Ref } from 'vue'
import { useArt } from '~/composables/view/useArt'
import { useStageCanvas } from '~/composables/view/useStageCanvas'
import { useDeskStore } from '~/stores/desk'
import { useFilmStore } from '~/stores/film'
import { useTakesStore } from '~/stores/takes'
import type { ViewBox } from '~/viewport/composition'
import { frameBoxOf } from '~/viewport/mixPictures'

/** What a take shows at the playhead, as the film would show it if it were circled, in `host`. `box` gives null while there is no room. */
export function useTakePicture(host: Readonly<Ref<HTMLElement | null>>, takeId: () => string | null, box: () => ViewBox | null) {
  const film = useFilmStore()
  const desk = useDeskStore()
  const takes = useTakesStore()
  const art = useArt()
  watch(takeId, (id) => id !== null && film.takeOf(id) === null && void takes.bring(id), { immediate: true })
  const shown = computed(() => {
    const id = takeId()
    const stage = id === null ? null : film.stageOf(id)
    return id === null || stage === null ? null : mapShown(shownInTake(id, desk.shotFrame, stage), (view) => ({ frame: stage.through(view.frame, view.cameraId) }))
  })
  const signature = computed(() => (shown.value === null ? '' : viewsOf(shown.value).map(({ frame }) => art.signatureOf(frame)).join() + (shown.value.kind === 'mix' ? shown.value.share : '')))
  const { problem, draw } = useStageCanvas(
    host,
    () => {
      const view = box()
      return shown.value?.kind === 'view' && view !== null ? art.composeFrame(shown.value.frame, view) : null
    },
    () => [signature.value, JSON.stringify(box())],
    () => null,
    () => {
      const view = box()
      const mixed = shown.value?.kind === 'mix' && view !== null ? mapShown(shown.value, ({ frame }) => ({ composition: art.composeFrame(frame, view) })) : null
      return mixed?.kind === 'mix' ? { shown: mixed, frame: frameBoxOf(view!, film.optics?.aspect ?? 16 / 9) } : null
    },
  )
  // What is here already changes nothing that is watched.
  onMounted(draw)
  // A picture that stays as it is is the next frame's as well.
  watch(
    () => desk.playhead,
    (frame) => host.value !== null && shown.value !== null && (host.value.dataset.frame = String(frame)),
    { flush: 'post' },
  )
  return { problem, shown }
}

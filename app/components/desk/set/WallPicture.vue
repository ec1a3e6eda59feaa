<script setup lang="ts">
import { useElementSize } from '@vueuse/core'
import { computed, ref } from 'vue'
import { useArt } from '~/composables/view/useArt'
import { useStageCanvas } from '~/composables/view/useStageCanvas'
import { useDeskStore } from '~/stores/desk'
import { useFilmStore } from '~/stores/film'

/** What one camera of the shot sees at the playhead, small. */
const props = defineProps<{ cameraId: string }>()
const film = useFilmStore()
const desk = useDeskStore()
const art = useArt()
const host = ref<HTMLElement | null>(null)
const around = ref<HTMLElement | null>(null)
const room = useElementSize(around)

const seen = computed(() => {
  if (desk.stage === null) return null
  // What is only being looked at is seen here too.
  if (props.cameraId === desk.cameraAtWorkId && desk.trialHere !== null) return desk.stageFrame
  return desk.stage.through(desk.shotFrame, props.cameraId)
})
/** The whole frame, as large as it goes. */
const size = computed(() => {
  const aspect = film.optics?.aspect ?? 16 / 9
  const w = Math.max(16, Math.round(Math.min(room.width.value, room.height.value * aspect)))
  return { width: w, height: Math.round(w / aspect) }
})
const viewBox = () => {
  const ratio = Math.min(1.5, window.devicePixelRatio || 1)
  return { widthPx: Math.max(1, Math.round(size.value.width * ratio)), heightPx: Math.max(1, Math.round(size.value.height * ratio)), frameLeftPx: 0, frameTopPx: 0, frameWidthPx: size.value.width * ratio }
}
const signature = computed(() => (seen.value === null ? '' : art.signatureOf(seen.value)))
const { problem } = useStageCanvas(
  host,
  () => (seen.value === null || room.width.value === 0 ? null : art.composeFrame(seen.value, viewBox())),
  () => [signature.value, size.value],
)
</script>

<template>
  <div ref="around" class="around">
    <div ref="host" class="picture-host" :data-frame="desk.shotFrame" :style="{ width: `${size.width}px`, height: `${size.height}px` }"><p v-if="problem" class="wrong">{{ problem }}</p></div>
  </div>
</template>

<style scoped>
.around {
  display: grid;
  place-items: center;
  width: 100%;
  height: 100%;
  overflow: hidden;
}
.picture-host {
  position: relative;
  overflow: hidden;
}
.picture-host :deep(.picture) {
  position: absolute;
  inset: 0;
  width: 100%;
  height: 100%;
}
</style>

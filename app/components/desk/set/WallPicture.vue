<script setup lang="ts">
import { computed, ref } from 'vue'
import { useArt } from '~/composables/view/useArt'
import { useFittedFrame } from '~/composables/view/useFittedFrame'
import { useStageCanvas } from '~/composables/view/useStageCanvas'
import { useDeskStore } from '~/stores/desk'

/** What one camera of the shot sees at the playhead, small. */
const props = defineProps<{ cameraId: string }>()
const desk = useDeskStore()
const art = useArt()
const host = ref<HTMLElement | null>(null)
const around = ref<HTMLElement | null>(null)
const { size, box } = useFittedFrame(around)

const seen = computed(() => {
  if (desk.stage === null) return null
  // What is only being looked at is seen here too.
  if (props.cameraId === desk.cameraAtWorkId && (desk.trialHere !== null || desk.operatedHere !== null)) return desk.stageFrame
  return desk.stage.through(desk.shotFrame, props.cameraId)
})
const signature = computed(() => (seen.value === null ? '' : art.signatureOf(seen.value)))
const { problem } = useStageCanvas(
  host,
  () => {
    const view = box()
    return seen.value === null || view === null ? null : art.composeFrame(seen.value, view)
  },
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

<script setup lang="ts">
import { drawingBounds } from '@rubato/core/ink'
import { heightOf, widthOf } from '@rubato/core/geometry'
import { computed, onMounted, ref, watch } from 'vue'
import { useArt } from '~/composables/view/useArt'
import { inIdle } from '~/clients/inIdle'
import { useFilmStore } from '~/stores/film'
import { RIM_PX } from '~/viewport/artLibrary'

/** A level's drawing on white, all of it in view. */
const props = defineProps<{ drawingId: string | null; width: number; height: number }>()
const film = useFilmStore()
const { library, artVersion } = useArt()
const canvas = ref<HTMLCanvasElement | null>(null)
const drawing = computed(() => (props.drawingId === null ? null : film.drawingOf(props.drawingId)))

function draw() {
  const element = canvas.value
  const context = element?.getContext('2d')
  if (!element || !context) return
  context.setTransform(1, 0, 0, 1, 0, 0)
  context.fillStyle = '#ffffff'
  context.fillRect(0, 0, element.width, element.height)
  const shown = drawing.value
  const bounds = shown === null ? null : drawingBounds(shown)
  if (shown === null || bounds === null || props.drawingId === null) return
  const art = library()
  const fit = Math.min((element.width - 4) / widthOf(bounds), (element.height - 4) / heightOf(bounds))
  const raster = art.anyRaster(props.drawingId, shown, fit)
  if (raster === null) return
  const scale = fit / raster.pxPerFw
  const left = element.width / 2 + (raster.left - (bounds.left + bounds.right) / 2) * fit
  const top = element.height / 2 - (raster.top - (bounds.top + bounds.bottom) / 2) * fit
  context.imageSmoothingQuality = 'high'
  context.drawImage(raster.canvas, left - RIM_PX * scale, top - RIM_PX * scale, raster.canvas.width * scale, raster.canvas.height * scale)
}

onMounted(() => inIdle(draw))
// Another size clears a canvas.
watch([drawing, artVersion, () => props.width, () => props.height], () => inIdle(draw), { flush: 'post' })
watch(
  () => props.drawingId,
  (id) => id !== null && void film.ensure('drawing', [id]).catch(() => undefined),
  { immediate: true },
)
</script>

<template>
  <canvas ref="canvas" :width="width * 2" :height="height * 2" :style="{ width: `${width}px`, height: `${height}px` }" aria-hidden="true" />
</template>

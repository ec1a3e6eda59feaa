<script setup lang="ts">
import { computed, onMounted, useTemplateRef, watch } from 'vue'
import { useBoardThumbsStore } from '~/stores/boardThumbs'
import { useFilmStore } from '~/stores/film'

/** What a take shows at a frame, small. */
const props = defineProps<{ takeId: string; frame: number; width: number }>()
const film = useFilmStore()
const thumbs = useBoardThumbsStore()
const canvas = useTemplateRef('canvas')
const widthPx = computed(() => Math.round(props.width * Math.min(2, window.devicePixelRatio || 1)))
const height = computed(() => Math.round(props.width / (film.optics?.aspect ?? 16 / 9)))

function draw() {
  const bitmap = thumbs.bitmapOfFrame(props.takeId, props.frame, widthPx.value)
  const element = canvas.value
  if (bitmap === null || element === null) return
  element.width = bitmap.width
  element.height = bitmap.height
  element.getContext('2d')!.drawImage(bitmap, 0, 0)
}
const want = () => thumbs.wantFrame(props.takeId, props.frame, widthPx.value)
watch(() => [film.takeOf(props.takeId), film.film.drawings, film.gestureOpen, widthPx.value, props.frame], want)
watch(() => thumbs.bitmapOfFrame(props.takeId, props.frame, widthPx.value), draw, { flush: 'post' })
onMounted(() => {
  want()
  draw()
})
</script>

<template>
  <canvas ref="canvas" class="picture" :style="{ width: `${width}px`, height: `${height}px` }" aria-hidden="true" />
</template>

<style scoped>
.picture {
  display: block;
  border-radius: 4px;
  background: #ffffff;
}
</style>

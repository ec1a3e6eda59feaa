<script setup lang="ts">
import type { Project } from '@rubato/core/document'
import { opticsOf } from '@rubato/core/stage'
import { onBeforeUnmount, onMounted, ref } from 'vue'
import { pictureBase } from '~/api/client'
import { inIdle } from '~/clients/inIdle'
import { wholeFrame } from '~/viewport/composition'
import { createThumbPainter } from '~/workers/thumbPainter'
import type { ProjectCover } from '#shared/projects'

/** The first picture of a film or of a version of it. */
const props = defineProps<{ project: Project; load: () => Promise<ProjectCover> }>()
const PICTURE_PX = { width: 560, height: 315 }
const canvas = ref<HTMLCanvasElement | null>(null)
const trouble = ref(false)
let gone = false

onMounted(async () => {
  const cover = await props.load().catch(() => null)
  trouble.value = cover === null
  if (cover !== null && cover.take !== null) inIdle(() => void paint(cover, cover.take!.body).catch(() => (trouble.value = true)))
})
onBeforeUnmount(() => (gone = true))

async function paint({ drawings }: ProjectCover, take: NonNullable<ProjectCover['take']>['body']) {
  if (gone) return
  const { width, height } = PICTURE_PX
  const optics = opticsOf(props.project)
  const fitHeight = Math.min(height, width / optics.aspect)
  const box = wholeFrame(Math.round(fitHeight * optics.aspect), Math.round(fitHeight))
  // One for each, and gone with its picture: a home has hundreds of films.
  const painter = createThumbPainter(optics, props.project.widthPx, pictureBase())
  try {
    for (const { id, drawing } of drawings) painter.putDrawing(id, drawing)
    const made = await painter.paint(take, 0, box)
    canvas.value?.getContext('2d')?.drawImage(made, (width - box.widthPx) / 2, (height - box.heightPx) / 2)
  } finally {
    painter.end()
  }
}
</script>

<template>
  <div class="cover">
    <canvas ref="canvas" :width="PICTURE_PX.width" :height="PICTURE_PX.height" aria-hidden="true" />
    <span v-if="trouble" class="no-picture quiet">No picture: it could not be loaded.</span>
  </div>
</template>

<style scoped>
.cover {
  position: relative;
  background: #ffffff;
}
canvas {
  display: block;
  width: 100%;
  aspect-ratio: 16 / 9;
}
.no-picture {
  position: absolute;
  inset: 45% 0 auto;
  text-align: center;
}
</style>

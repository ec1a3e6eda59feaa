<script setup lang="ts">
import type { Project } from '@rubato/core/document'
import { createTakeStage, opticsOf } from '@rubato/core/stage'
import { onMounted, ref } from 'vue'
import { api } from '~/api/client'
import { inIdle } from '~/clients/inIdle'
import { ArtLibrary } from '~/viewport/artLibrary'
import { compose, wholeFrame } from '~/viewport/composition'
import { createPictureCache } from '~/viewport/pictureCache'
import { createStageView } from '~/viewport/stageView'
import type { ProjectCover } from '#shared/projects'

/** The first picture of a film or of a version of it. */
const props = defineProps<{ project: Project; load: () => Promise<ProjectCover> }>()
const PICTURE_PX = { width: 560, height: 315 }
const canvas = ref<HTMLCanvasElement | null>(null)
const trouble = ref(false)

onMounted(async () => {
  const cover = await props.load().catch(() => null)
  trouble.value = cover === null
  if (cover !== null) inIdle(() => paint(cover))
})

function paint(cover: ProjectCover) {
  const context = canvas.value?.getContext('2d')
  if (!context || cover.take === null) return
  const { width, height } = PICTURE_PX
  const optics = opticsOf(props.project)
  const fitHeight = Math.min(height, width / optics.aspect)
  const box = wholeFrame(Math.round(fitHeight * optics.aspect), Math.round(fitHeight))
  const drawings = new Map(cover.drawings.map((entry) => [entry.id, entry.drawing]))
  const stage = createTakeStage(cover.take.body, optics)
  const pictures = createPictureCache(api.pictureUrl, (hash) => {
    library.forgetPicture(hash)
    draw()
  })
  const library = new ArtLibrary(props.project.widthPx, pictures.lookup)
  const view = createStageView(() => document.createElement('canvas'))
  const draw = () => {
    const composition = compose(stage.at(0), box, library, (id) => drawings.get(id) ?? null, false)
    const made = view.draw(composition, { frame: '#ffffff', surround: null }, 'fast')
    context.drawImage(made.canvas, (width - box.widthPx) / 2, (height - box.heightPx) / 2)
  }
  draw()
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

<script setup lang="ts">
import { createTakeStage, opticsOf } from '@rubato/core/stage'
import { rateName, secondsOfFrames } from '@rubato/core/time'
import { computed, onMounted, ref } from 'vue'
import { Trash2 } from '~/icons'
import { api } from '~/api/client'
import { inIdle } from '~/composables/inIdle'
import { ArtLibrary } from '~/viewport/artLibrary'
import { compose, wholeFrame } from '~/viewport/composition'
import { createPictureCache } from '~/viewport/pictureCache'
import { createStageView } from '~/viewport/stageView'
import type { ProjectCard as Card, ProjectCover } from '#shared/projects'

const props = defineProps<{ card: Card }>()
const emit = defineEmits<{ open: []; remove: [] }>()
const canvas = ref<HTMLCanvasElement | null>(null)
const project = computed(() => props.card.project)
const PICTURE_PX = { width: 560, height: 315 }
const trouble = ref(false)

const runningTime = computed(() => {
  const seconds = Math.round(secondsOfFrames(props.card.lengthFrames, project.value.rate))
  return `${Math.floor(seconds / 60)}:${String(seconds % 60).padStart(2, '0')}`
})
const changed = computed(() => new Date(props.card.updatedAt).toLocaleString([], { dateStyle: 'medium', timeStyle: 'short' }))

onMounted(async () => {
  const cover = await api.cover(project.value.id).catch(() => null)
  trouble.value = cover === null
  if (cover !== null) inIdle(() => paint(cover))
})

function paint(cover: ProjectCover) {
  const context = canvas.value?.getContext('2d')
  if (!context || cover.take === null) return
  const { width, height } = PICTURE_PX
  const optics = opticsOf(project.value)
  const fitHeight = Math.min(height, width / optics.aspect)
  const box = wholeFrame(Math.round(fitHeight * optics.aspect), Math.round(fitHeight))
  const drawings = new Map(cover.drawings.map((entry) => [entry.id, entry.drawing]))
  const stage = createTakeStage(cover.take.body, optics)
  const pictures = createPictureCache(api.pictureUrl, (hash) => {
    library.forgetPicture(hash)
    draw()
  })
  const library = new ArtLibrary(project.value.widthPx, pictures.lookup)
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
  <article class="card">
    <button class="open" :title="`Open ${project.title}`" :aria-label="`Open ${project.title}`" @click="emit('open')">
      <canvas ref="canvas" :width="PICTURE_PX.width" :height="PICTURE_PX.height" aria-hidden="true" />
      <span v-if="trouble" class="no-picture quiet">No picture: it could not be loaded.</span>
    </button>
    <div class="words">
      <div>
        <h2 :title="project.title">{{ project.title }}</h2>
        <p class="quiet">{{ card.shotCount === 1 ? '1 shot' : `${card.shotCount} shots` }} · {{ project.widthPx }} × {{ project.heightPx }} · {{ rateName(project.rate) }} fps</p>
        <p class="quiet">changed {{ changed }}</p>
      </div>
      <span class="tempo time">{{ runningTime }}</span>
      <button class="icon-button small" :title="`Put ${project.title} in the trash`" :aria-label="`Put ${project.title} in the trash`" @click="emit('remove')"><Trash2 :size="14" /></button>
    </div>
  </article>
</template>

<style scoped>
.card {
  overflow: hidden;
  border: 1px solid var(--rule);
  border-radius: 9px;
  background: var(--paper-0);
}
.open {
  position: relative;
  display: block;
  width: 100%;
  padding: 0;
  border: 0;
  border-bottom: 1px solid var(--rule);
  background: #ffffff;
  cursor: pointer;
}
.open:hover {
  box-shadow: inset 0 0 0 2px var(--blue);
}
canvas {
  display: block;
  width: 100%;
  aspect-ratio: 16 / 9;
}
.no-picture {
  position: absolute;
  inset: 45% 0 auto;
}
.words {
  display: flex;
  align-items: flex-start;
  gap: 10px;
  padding: 9px 8px 10px 12px;
}
.words > div {
  flex: 1;
  min-width: 0;
}
h2 {
  margin: 0 0 2px;
  overflow: hidden;
  font-size: 15px;
  font-weight: 650;
  text-overflow: ellipsis;
  white-space: nowrap;
}
p {
  margin: 0;
}
.time {
  font-size: 22px;
}
</style>

<script setup lang="ts">
import { takeLengthFrames, type Take } from '@rubato/core/document'
import { timecodeOfFrame } from '@rubato/core/time'
import { computed, onMounted, useTemplateRef, watch } from 'vue'
import { Columns2, Plus, Trash2 } from '~/icons'
import RenamedText from '~/components/levels/RenamedText.vue'
import { useBoardThumbsStore } from '~/stores/boardThumbs'
import { useDeskStore } from '~/stores/desk'
import { useFilmStore } from '~/stores/film'
import { useTakesStore } from '~/stores/takes'

/** A take of the shot: what it shows at the playhead, its letter and name, how long it is, and what is done with it. */
const props = defineProps<{ take: Take }>()
const film = useFilmStore()
const desk = useDeskStore()
const takes = useTakesStore()
const thumbs = useBoardThumbsStore()
const canvas = useTemplateRef('canvas')
const WIDTH_PX = 168
const ratio = Math.min(2, window.devicePixelRatio || 1)
const widthPx = Math.round(WIDTH_PX * ratio)
const height = computed(() => Math.round(WIDTH_PX / (film.optics?.aspect ?? 16 / 9)))

const body = computed(() => film.takeOf(props.take.id))
const length = computed(() => (body.value === null ? null : takeLengthFrames(body.value)))
const frame = computed(() => Math.min(desk.shotFrame, Math.max(0, (length.value ?? 1) - 1)))
const isCircled = computed(() => props.take.id === desk.takeId)
const isOther = computed(() => takes.other?.id === props.take.id)
/** How much longer or shorter than the one that the film shows. */
const against = computed(() => {
  const own = desk.take === null ? null : takeLengthFrames(desk.take)
  const by = own === null || length.value === null ? 0 : length.value - own
  return by === 0 ? '' : ` (${by > 0 ? '+' : '−'}${Math.abs(by)})`
})

function draw() {
  const bitmap = thumbs.bitmapOfFrame(props.take.id, frame.value, widthPx)
  const element = canvas.value
  if (bitmap === null || element === null) return
  Object.assign(element, { width: bitmap.width, height: bitmap.height })
  element.getContext('2d')!.drawImage(bitmap, 0, 0)
}
watch(() => thumbs.bitmapOfFrame(props.take.id, frame.value, widthPx), draw, { flush: 'post' })
watch(() => [body.value, film.film.drawings, frame.value, film.gestureOpen, desk.playing], () => void (!desk.playing && thumbs.wantFrame(props.take.id, frame.value, widthPx)), { immediate: true })
onMounted(() => {
  if (body.value === null) void takes.bring(props.take.id)
  draw()
})
</script>

<template>
  <article class="card" :class="{ circled: isCircled }" data-test="take-card" :data-letter="take.letter">
    <button class="picture" :aria-pressed="isCircled" :disabled="film.lookingAt !== null" :aria-label="isCircled ? `Take ${take.letter}, circled` : `Circle take ${take.letter}`" :title="isCircled ? 'The circled take: the film, the boards and prints show it' : `Circle take ${take.letter}: it is worked on, and the film, the boards and prints show it`" @click="takes.circle(take)">
      <canvas ref="canvas" :style="{ width: `${WIDTH_PX}px`, height: `${height}px` }" aria-hidden="true" />
    </button>
    <div class="name">
      <b class="letter" :class="{ ring: isCircled }">{{ take.letter }}</b>
      <RenamedText v-if="film.lookingAt === null" class="text" :class="{ quiet: take.name === undefined }" :text="take.name ?? 'no name'" title="" :label="`Name of take ${take.letter}`" @rename="(name) => takes.rename(take, name)" />
      <span v-else class="text">{{ take.name }}</span>
    </div>
    <div class="row">
      <span class="mono quiet" :title="length === null || film.project === null ? 'Still being loaded' : `${length} frames, ${timecodeOfFrame(length, film.project.rate)}${against === '' ? '' : '; beside the circled take'}`">{{ length === null ? '…' : `${length} f${against}` }}</span>
      <span class="grow" />
      <button v-if="!isCircled" class="icon-button small" :aria-pressed="isOther" :title="isOther ? 'Compared with the circled take: hold Alt Y to flip, Alt Shift Y wipes' : 'Compare with the circled take'" :aria-label="`Compare take ${take.letter}`" @click="takes.compareWith(take.id)"><Columns2 :size="14" /></button>
      <template v-if="film.lookingAt === null">
        <button class="icon-button small" :title="`New take from ${take.letter}`" :aria-label="`New take from ${take.letter}`" @click="takes.newFrom(take)"><Plus :size="14" /></button>
        <button class="icon-button small" :disabled="takes.takes.length < 2" :title="takes.takes.length < 2 ? 'A shot keeps at least one take' : `Delete take ${take.letter} (undo brings it back)`" :aria-label="`Delete take ${take.letter}`" @click="takes.remove(take)"><Trash2 :size="14" /></button>
      </template>
    </div>
  </article>
</template>

<style scoped>
.card {
  display: flex;
  flex: none;
  flex-direction: column;
  gap: 4px;
  width: 184px;
  padding: 7px;
  border: 1px solid var(--rule);
  border-radius: 7px;
  background: var(--sheet);
}
.card.circled {
  border-color: var(--ink);
}
.picture {
  padding: 0;
  border: 0;
  background: var(--paper-2);
  line-height: 0;
  cursor: pointer;
}
.name,
.row {
  display: flex;
  align-items: center;
  gap: 5px;
  min-width: 0;
}
.letter {
  flex: none;
  min-width: 20px;
  height: 20px;
  padding: 0 3px;
  border: 1.5px solid transparent;
  border-radius: 10px;
  line-height: 17px;
  text-align: center;
}
/* As a pencil rings the take that is printed. */
.letter.ring {
  border-color: var(--ink);
}
.text {
  flex: 1;
  min-width: 0;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.text.quiet {
  font-weight: 400;
}
.grow {
  flex: 1;
}
</style>

<script setup lang="ts">
import { computed, onBeforeUnmount, onMounted, ref, shallowRef, useTemplateRef, watch, watchEffect } from 'vue'
import { NO_BURN_IN, UNDRESSED, type Burn } from '#shared/renders'
import { useMovieOut, type MovieChoice } from '~/composables/handover/useMovieOut'
import { useDeskStore } from '~/stores/desk'
import { useFilmStore } from '~/stores/film'
import { burnText, loadBurnFonts, type Written } from '~/workers/burnIn'
import { drawCard, drawDressed, drawSlate, slateLines, slateOf } from '~/workers/dress'
import { FORMATS } from '~/workers/formats'
import { moviePixels } from '~/workers/moviePlan'
import { createPaintCrew } from '~/workers/paintCrew'
import { timecodeOfFrame } from '@rubato/core/time'

/** The frame at the playhead as it will be handed over; what is written into it is taken by hand. */
const props = defineProps<{ busy: boolean }>()
const choice = defineModel<MovieChoice>({ required: true })
const film = useFilmStore()
const desk = useDeskStore()
const movies = useMovieOut()
const canvas = useTemplateRef<HTMLCanvasElement>('canvas')
const base = shallowRef<HTMLCanvasElement | null>(null)
const trouble = ref<string | null>(null)
const fontsThere = ref(false)
const page = ref<'picture' | 'slate' | 'card'>('picture')
const WIDTH_PX = 480

const size = computed<MovieChoice['size']>(() => ((width) => (width * 0.25 >= WIDTH_PX ? 0.25 : width * 0.5 >= WIDTH_PX ? 0.5 : 1))(film.project?.widthPx ?? 0))
const out = computed(() => (film.project === null ? null : moviePixels({ project: film.project, size: size.value, dress: choice.value.dress })))
const pages = computed(() => [
  { id: 'picture', name: 'Picture' } as const,
  ...(choice.value.dress.slate > 0 ? [{ id: 'slate', name: 'Slate' } as const] : []),
  ...(choice.value.dress.card.text.trim() !== '' && choice.value.dress.card.frames > 0 ? [{ id: 'card', name: 'Card' } as const] : []),
])

let gate: AbortController | null = null
async function paint() {
  gate?.abort()
  const { signal } = (gate = new AbortController())
  const frame = desk.playhead
  try {
    const look = { ...choice.value, size: size.value, burnIn: NO_BURN_IN, dress: UNDRESSED, clear: false }
    const request = await movies.requestOf({ shotId: null, span: { start: frame, end: frame + 1 } }, look, 'mp4', FORMATS.mp4, signal, 'preview')
    const crew = createPaintCrew({ ...request, sound: null }, 1, 1)
    const pixels = await crew.frame(0).finally(() => crew.dismiss())
    if (signal.aborted || pixels === null || out.value === null) return
    const { widthPx, heightPx } = moviePixels({ project: request.project, size: size.value, dress: UNDRESSED })
    const made = document.createElement('canvas')
    made.width = widthPx
    made.height = heightPx
    made.getContext('2d')!.putImageData(new ImageData(new Uint8ClampedArray(pixels), widthPx, heightPx), 0, 0)
    base.value = made
    trouble.value = null
  } catch (error) {
    if (!signal.aborted) trouble.value = (error as Error).message
  }
}
watch(() => [choice.value.depth, choice.value.standIns, size.value, film.projectId], () => void paint(), { deep: true })
onMounted(() => {
  void paint()
  void loadBurnFonts().then(() => (fontsThere.value = true), () => (fontsThere.value = true))
})
onBeforeUnmount(() => gate?.abort())

let written: readonly Written[] = []
let aside: CanvasRenderingContext2D | null = null
const texts = computed(() => {
  const { project, outline } = film
  const placed = desk.placedShot
  if (project === null || placed === null || desk.take === null) return {}
  const timecode = timecodeOfFrame(desk.playhead + (project.startTimecodeFrames ?? 0), project.rate, project.dropFrame ?? false)
  return burnText(choice.value.burnIn, { timecode, label: placed.shot.label, take: outline.takes[placed.shot.circledTakeId]?.letter ?? '', said: movies.saidHere() }, desk.take, desk.shotFrame)
})
watchEffect(() => {
  const [to, box, { project }] = [canvas.value?.getContext('2d'), out.value, film]
  if (!to || box === null || project === null || !fontsThere.value) return
  if (to.canvas.width !== box.widthPx) to.canvas.width = box.widthPx
  if (to.canvas.height !== box.heightPx) to.canvas.height = box.heightPx
  const shown = pages.value.some(({ id }) => id === page.value) ? page.value : 'picture'
  written = []
  if (shown === 'slate') {
    const files = movies.filesOf(choice.value)
    const [file] = files
    if (file === undefined) return
    const placed = file.shotId === null ? null : film.filmStage.placeOf(file.shotId)
    const shot = placed === null ? null : { label: placed.shot.label, letter: film.outline.takes[placed.shot.circledTakeId]?.letter ?? '' }
    return drawSlate(to, box, slateLines(project, slateOf(file.span, shot), file.span.end - file.span.start, moviePixels({ project, size: choice.value.size, dress: choice.value.dress }), movies.saidHere()))
  }
  if (shown === 'card') return drawCard(to, box, choice.value.dress.card.text)
  const picture = base.value
  if (picture === null) return
  const scratch = () => {
    aside ??= document.createElement('canvas').getContext('2d')!
    aside.canvas.width = picture.width
    aside.canvas.height = picture.height
    return aside
  }
  written = drawDressed(to, picture, box, choice.value.dress, choice.value.burnIn, texts.value, scratch)
})

/** What is held, and by how much its middle is beside the pointer, as shares of the frame. */
const held = shallowRef<{ readonly burn: Burn; readonly dx: number; readonly dy: number } | null>(null)
const over = ref(false)
function placeOf(event: PointerEvent) {
  const { left, top, width, height } = canvas.value!.getBoundingClientRect()
  return { x: (event.clientX - left) / width, y: (event.clientY - top) / height }
}
const boxAt = ({ x, y }: { readonly x: number; readonly y: number }) => {
  const box = out.value!
  return written.findLast(({ left, top, width, height }) => x * box.widthPx >= left && x * box.widthPx <= left + width && y * box.heightPx >= top && y * box.heightPx <= top + height) ?? null
}
function press(event: PointerEvent) {
  const at = placeOf(event)
  const hit = boxAt(at)
  if (hit === null || props.busy || event.button !== 0) return
  canvas.value!.setPointerCapture(event.pointerId)
  const box = out.value!
  // Of several that share a corner the first comes away.
  held.value = { burn: hit.burns[0]!, dx: (hit.left + hit.width / 2) / box.widthPx - at.x, dy: (hit.top + hit.height / 2) / box.heightPx - at.y }
}
function move(event: PointerEvent) {
  const at = placeOf(event)
  over.value = boxAt(at) !== null
  if (held.value === null) return
  const { burn, dx, dy } = held.value
  const within = (value: number) => Math.round(Math.min(1, Math.max(0, value)) * 1000) / 1000
  choice.value.burnIn.at = { ...choice.value.burnIn.at, [burn]: { x: within(at.x + (hitsAlone(burn) ? dx : 0)), y: within(at.y + dy) } }
}
const hitsAlone = (burn: Burn) => choice.value.burnIn.at[burn] !== undefined || !['label', 'take', 'panel', 'text', 'version'].includes(burn)
const moved = computed(() => Object.keys(choice.value.burnIn.at).length > 0)
</script>

<template>
  <figure>
    <canvas
      ref="canvas"
      :class="{ over, held: held !== null }"
      :style="out === null ? {} : { aspectRatio: `${out.widthPx} / ${out.heightPx}`, width: `min(100%, ${Math.round((230 * out.widthPx) / out.heightPx)}px)` }"
      data-test="handover-preview"
      :data-ready="base !== null && fontsThere"
      role="img"
      aria-label="The frame at the playhead as it will be"
      title="As it will be, at the playhead. What is written is dragged where it should stand."
      @pointerdown="press"
      @pointermove="move"
      @pointerup="held = null"
      @pointercancel="held = null"
    />
    <figcaption class="quiet">
      <span v-if="trouble" role="alert">{{ trouble }}</span>
      <span v-else-if="base === null">painting the frame at the playhead…</span>
      <span v-else>The frame at the playhead</span>
      <span class="grow" />
      <button v-if="moved" type="button" class="push-button" :disabled="busy" title="Everything that is written stands in its usual place again" @click="choice.burnIn.at = {}">Put back</button>
      <span v-if="pages.length > 1" class="pages" role="group" aria-label="What is shown">
        <button v-for="each in pages" :key="each.id" type="button" class="push-button" :aria-pressed="page === each.id" @click="page = each.id">{{ each.name }}</button>
      </span>
    </figcaption>
  </figure>
</template>

<style scoped>
figure {
  margin: 0;
}
canvas {
  display: block;
  margin: 0 auto;
  border: 1px solid var(--rule);
  background: var(--paper-1);
  touch-action: none;
}
.over {
  cursor: grab;
}
.held {
  cursor: grabbing;
}
figcaption {
  display: flex;
  align-items: center;
  gap: 6px;
  min-height: 30px;
}
.pages {
  display: flex;
  gap: 4px;
}
.grow {
  flex: 1;
}
[aria-pressed='true'] {
  border-color: var(--ink-2);
  background: var(--paper-2);
}
</style>

<script setup lang="ts">
import type { Panel } from '@rubato/core/document'
import { settleWords } from '@rubato/core/edits'
import { computed, nextTick, onBeforeUnmount, onMounted, ref, useTemplateRef, watch } from 'vue'
import type { CardSize } from '~/boards/boardRows'
import { useBoardActions } from '~/composables/boards/useBoardActions'
import { useBoardDrag } from '~/composables/boards/useBoardDrag'
import { useBoardThumbsStore } from '~/stores/boardThumbs'
import FermataMark from '~/components/desk/strip/FermataMark.vue'
import { useBoardsStore, type CaptionField } from '~/stores/boards'
import { useDeskStore } from '~/stores/desk'
import { useFilmStore } from '~/stores/film'

/** A panel on the boards: its first frame, number, length and words. */
const props = defineProps<{ takeId: string; panel: Panel; index: number; size: CardSize }>()
const film = useFilmStore()
const desk = useDeskStore()
const boards = useBoardsStore()
const thumbs = useBoardThumbsStore()
const actions = useBoardActions()
const drag = useBoardDrag()

const root = useTemplateRef('root')
const canvas = useTemplateRef('canvas')
const words = useTemplateRef('words')
const lengthText = ref<string | null>(null)
const ratio = Math.min(2, window.devicePixelRatio || 1)
const widthPx = computed(() => Math.round((props.size.cardPx - 2) * ratio))
const me = computed(() => ({ takeId: props.takeId, panelId: props.panel.id }))
const chosen = computed(() => boards.isChosen(props.takeId, props.panel.id))
const editing = computed(() => (boards.editing?.takeId === props.takeId && boards.editing.panelId === props.panel.id ? boards.editing.field : null))
const changed = computed(() => boards.outdated.has(`${props.takeId}/${props.panel.id}`))
const here = computed(() => desk.takeId === props.takeId && desk.placedPanel?.panel.id === props.panel.id)

function draw() {
  const bitmap = thumbs.bitmapOf(props.takeId, props.panel.id, widthPx.value)
  const element = canvas.value
  if (bitmap === null || element === null) return
  element.width = bitmap.width
  element.height = bitmap.height
  element.getContext('2d')!.drawImage(bitmap, 0, 0)
}
watch(() => thumbs.bitmapOf(props.takeId, props.panel.id, widthPx.value), draw, { flush: 'post' })
watch(
  () => [film.takeOf(props.takeId), film.film.drawings, film.gestureOpen, widthPx.value, props.panel.id],
  () => thumbs.want(props.takeId, props.panel.id, widthPx.value),
  { immediate: true },
)
onMounted(draw)
onBeforeUnmount(() => thumbs.unwant(props.takeId, props.panel.id, widthPx.value))
drag.panelCard(root, () => me.value)

function onDown(event: MouseEvent) {
  if (event.button !== 0) return
  boards.choose(me.value, event.shiftKey ? 'range' : event.ctrlKey || event.metaKey ? 'toggle' : 'only')
}

function edit(field: CaptionField) {
  if (film.lookingAt !== null) return
  boards.editing = { ...me.value, field }
}
watch(editing, async (field) => {
  if (field === null) return
  await nextTick()
  words.value?.focus()
  words.value?.select()
})
function leave(event: Event) {
  const field = editing.value
  if (field === null) return
  actions.setCaption(me.value, field, (event.target as HTMLTextAreaElement).value.trim())
  boards.editing = null
}
function onWordsKey(event: KeyboardEvent) {
  const field = editing.value
  if (field === null) return
  event.stopPropagation()
  const text = (event.target as HTMLTextAreaElement).value.trim()
  if (event.key === 'Escape') {
    boards.editing = null
    focusPage()
  } else if (event.key === 'Enter' && !event.shiftKey) {
    event.preventDefault()
    actions.setCaption(me.value, field, text)
    boards.editing = null
    focusPage()
  } else if (event.key === 'Tab') {
    event.preventDefault()
    actions.setCaption(me.value, field, text)
    const next = event.shiftKey ? (field === 'dialogue' ? { ...me.value, field: 'action' as const } : null) : field === 'action' ? { ...me.value, field: 'dialogue' as const } : null
    if (next !== null) boards.editing = next
    else {
      const beside = boards.neighbour(me.value, event.shiftKey ? -1 : 1)
      if (beside === null) {
        boards.editing = null
        focusPage()
        return
      }
      boards.choose(beside)
      boards.show(beside)
      boards.editing = { ...beside, field: event.shiftKey ? 'dialogue' : 'action' }
    }
  }
}
const focusPage = () => (root.value?.closest('[data-board-page]') as HTMLElement | null)?.focus()

function keepLength(event: Event) {
  const text = lengthText.value
  lengthText.value = null
  const frames = Math.round(Number((event.target as HTMLInputElement).value))
  if (text === null || !Number.isFinite(frames) || frames === props.panel.lengthFrames) return
  actions.setLength(me.value, frames)
}
function settle(take: boolean) {
  film.perform(take ? 'words from the script' : 'own words kept', (f) => settleWords(f, film.project!.id, props.takeId, props.panel.id, take))
}
</script>

<template>
  <article
    ref="root"
    class="card"
    :class="{ chosen, here }"
    :style="{ width: `${size.cardPx}px` }"
    :aria-label="`Panel ${index + 1}, ${panel.lengthFrames} frames. ${panel.action} ${panel.dialogue}`"
    :aria-selected="chosen"
    role="option"
    data-test="panel-card"
    :data-panel="panel.id"
    :data-take="takeId"
    @mousedown="onDown"
    @dblclick="desk.view = 'desk'"
  >
    <div class="picture" :style="{ height: `${size.picturePx}px` }">
      <canvas ref="canvas" aria-hidden="true" />
      <span class="number">{{ index + 1 }}</span>
      <input
        v-if="lengthText !== null"
        v-model="lengthText"
        class="length mono"
        aria-label="Length in frames"
        autofocus
        @mousedown.stop
        @dblclick.stop
        @keydown.stop.enter="keepLength"
        @keydown.stop.escape="lengthText = null"
        @blur="keepLength"
        @vue:mounted="({ el }: any) => (el.focus(), el.select())"
      />
      <button v-else class="length mono" :title="`${panel.lengthLocked ? 'A fermata holds this length. ' : ''}Click to type another length`" @mousedown.stop @dblclick.stop @click="lengthText = String(panel.lengthFrames)"><FermataMark v-if="panel.lengthLocked" /> {{ panel.lengthFrames }} f</button>
    </div>
    <div class="words" :style="{ height: `${size.captionPx}px` }">
      <textarea
        v-if="editing !== null"
        ref="words"
        :class="editing"
        :aria-label="editing === 'action' ? 'Action' : 'Dialogue'"
        :placeholder="editing === 'action' ? 'What happens' : 'OSKAR: What is said'"
        :value="panel[editing]"
        maxlength="10000"
        @mousedown.stop
        @dblclick.stop
        @keydown="onWordsKey"
        @blur="leave"
      />
      <template v-else>
        <p class="action" :class="{ none: panel.action === '' }" title="Click to edit; Tab goes on to the next" @click="chosen && edit('action')">{{ panel.action === '' ? 'action' : panel.action }}</p>
        <p v-if="panel.dialogue !== '' || chosen" class="dialogue" :class="{ none: panel.dialogue === '' }" @click="chosen && edit('dialogue')">{{ panel.dialogue === '' ? 'dialogue' : panel.dialogue }}</p>
      </template>
      <div v-if="changed" class="changed" role="status" @mousedown.stop>
        <b title="The script says something else by now">Script changed</b>
        <button title="Put the script’s new words here" @click="settle(true)">Take</button>
        <button title="Keep these words and don’t ask again" @click="settle(false)">Keep</button>
      </div>
    </div>
  </article>
</template>

<style scoped>
.card {
  contain: layout style paint;
  position: relative;
  flex: none;
  overflow: hidden;
  border: 1px solid var(--rule);
  border-radius: 6px;
  background: var(--paper-0);
  cursor: default;
  user-select: none;
}
.card.chosen {
  outline: 2px solid var(--blue);
  outline-offset: 0;
}
.card.here .number {
  background: var(--vermilion);
  color: var(--on-colour);
}
.picture {
  position: relative;
  overflow: hidden;
  background: #ffffff;
}
.picture canvas {
  display: block;
  width: 100%;
  height: 100%;
}
.number,
.length {
  position: absolute;
  padding: 0 6px;
  border: 0;
  border-radius: 4px;
  background: color-mix(in srgb, var(--paper-0) 92%, transparent);
  color: var(--ink);
  font-size: 12px;
  line-height: 19px;
}
.number {
  top: 4px;
  left: 4px;
}
.length {
  right: 4px;
  bottom: 4px;
  min-height: 20px;
  cursor: text;
}
input.length {
  width: 60px;
  border: 1px solid var(--blue);
  background: var(--sheet);
  text-align: right;
}
.words {
  position: relative;
  padding: 5px 8px;
  overflow: hidden;
  border-top: 1px solid var(--rule);
  line-height: 1.3;
}
p {
  margin: 0;
  display: -webkit-box;
  overflow: hidden;
  -webkit-box-orient: vertical;
  -webkit-line-clamp: 2;
  line-clamp: 2;
  white-space: pre-line;
  cursor: text;
}
.dialogue {
  color: var(--plum);
  font-weight: 600;
}
.none {
  color: var(--ink-2);
  font-style: italic;
  font-weight: 400;
}
.card:not(.chosen):not(:hover) .none {
  visibility: hidden;
}
textarea {
  position: absolute;
  inset: 0;
  padding: 4px 7px;
  resize: none;
  border: 0;
  background: var(--sheet);
  color: var(--ink);
  font: inherit;
  line-height: 1.3;
}
textarea.dialogue {
  color: var(--plum);
}
.changed {
  position: absolute;
  right: 0;
  bottom: 0;
  left: 0;
  display: flex;
  align-items: center;
  gap: 4px;
  padding: 1px 4px 1px 8px;
  background: var(--plum);
  color: var(--on-colour);
  font-size: 11px;
}
.changed b {
  flex: 1;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.changed button {
  min-height: 24px;
  padding: 0 6px;
  border: 1px solid currentColor;
  border-radius: 4px;
  background: none;
  color: inherit;
  font: inherit;
  cursor: pointer;
}
</style>

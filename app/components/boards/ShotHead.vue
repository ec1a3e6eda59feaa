<script setup lang="ts">
import { rateName, timecodeOfFrame } from '@rubato/core/time'
import { editShot, takesOfShot } from '@rubato/core/edits'
import type { PlacedShot } from '@rubato/core/stage'
import { computed, nextTick, ref, useTemplateRef } from 'vue'
import { Ellipsis } from '~/icons'
import { useBoardActions } from '~/composables/boards/useBoardActions'
import { useBoardDrag } from '~/composables/boards/useBoardDrag'
import { useBoardsStore } from '~/stores/boards'
import { useDeskStore } from '~/stores/desk'
import { useFilmStore } from '~/stores/film'
import { useEdgesStore } from '~/stores/edges'
import { findingTitle } from '~/text/findings'
import { cameraWords } from '~/text/cameraWords'

/** A shot's name over its panels: label, title, length, and what its camera does. */
const props = defineProps<{ placed: PlacedShot }>()
const film = useFilmStore()
const desk = useDeskStore()
const boards = useBoardsStore()
const actions = useBoardActions()
const drag = useBoardDrag()
const edges = useEdgesStore()
const root = useTemplateRef('root')
const menu = ref<{ toggle: (event: Event) => void } | null>(null)
const menuWanted = ref(false)
const typing = ref<'label' | 'title' | null>(null)
drag.shotHead(root, () => props.placed.shot.id)

const shot = computed(() => props.placed.shot)
const chosen = computed(() => boards.shots.includes(shot.value.id))
const letter = computed(() => film.outline.takes[shot.value.circledTakeId]?.letter ?? '')
const takes = computed(() => takesOfShot(film.outline, shot.value.id).length)
const seconds = computed(() => (film.project === null ? '' : `${((props.placed.lengthFrames * film.project.rate.denominator) / film.project.rate.numerator).toFixed(1)} s`))
const lengthTitle = computed(() => (film.project === null ? '' : `${props.placed.lengthFrames} frames, ${timecodeOfFrame(props.placed.lengthFrames, film.project.rate)} at ${rateName(film.project.rate)} fps`))
/** What a check found in it. */
const found = computed(() => edges.speaking(shot.value.circledTakeId))
const nameOf = (id: string) => film.takeOf(shot.value.circledTakeId)?.levels[id]?.name ?? 'A level'
/** What the camera does, from framing to framing. */
const moves = computed(() => {
  const stage = film.stageOf(shot.value.circledTakeId)
  const cameraId = stage?.live.at(0) ?? null
  if (stage === null || cameraId === null || film.optics === null) return ''
  return cameraWords(stage, cameraId)
})
const place = computed(() => {
  const at = drag.place.value
  return at?.kind === 'shot' && at.shotId === shot.value.id ? at.side : null
})

function onDown(event: MouseEvent) {
  if (event.button !== 0 || (event.target as HTMLElement).closest('button, input') !== null) return
  boards.chooseShot(shot.value.id, event.shiftKey ? 'range' : event.ctrlKey || event.metaKey ? 'toggle' : 'only')
}
function keep(event: Event) {
  const field = typing.value
  if (field === null) return
  typing.value = null
  const text = (event.target as HTMLInputElement).value.trim()
  if (text === shot.value[field] || (field === 'label' && text === '')) return
  film.perform(field === 'label' ? 'shot label' : 'shot title', (f) => editShot(f.outline, film.project!.id, shot.value.id, { [field]: text }))
}
/** Made when it is first wanted: a long film has many heads. */
async function openMenu(event: MouseEvent) {
  const opener = { currentTarget: event.currentTarget, target: event.target } as unknown as Event
  menuWanted.value = true
  await nextTick()
  menu.value?.toggle(opener)
}
const items = computed(() => [
  { label: 'New shot after', command: () => { boards.chooseShot(shot.value.id); actions.newShot() } },
  { label: 'Duplicate shot', command: () => void actions.duplicateShots([shot.value.id]) },
  { label: 'Join with the next shot', command: () => actions.joinWithNext(shot.value.id) },
  { label: 'Open on the Desk', command: () => { desk.goToShot(shot.value.id); desk.view = 'desk' } },
  { separator: true },
  { label: 'Renumber this sequence from 010', command: () => void actions.renumber(shot.value.sequenceId) },
  { label: 'Renumber the whole film', command: () => void actions.renumber(null) },
  { separator: true },
  { label: 'Into the tray', command: () => actions.trayTheseShots(boards.shots.includes(shot.value.id) ? boards.shots : [shot.value.id]) },
  { label: 'Delete shot', command: () => void actions.removeTheseShots([shot.value.id]) },
])
</script>

<template>
  <div ref="root" class="head" :class="[{ chosen }, place && `drop-${place}`]" data-test="shot-head" :data-shot="shot.label" @mousedown="onDown">
    <input v-if="typing === 'label'" class="label mono" aria-label="Shot label" maxlength="20" :value="shot.label" @keydown.stop.enter="keep" @keydown.stop.escape="typing = null" @blur="keep" @vue:mounted="({ el }: any) => (el.focus(), el.select())" />
    <b v-else class="label mono" title="Click chooses the shot; double-click types another label; drag moves it" @dblclick="film.lookingAt === null && (typing = 'label')">{{ shot.label }}</b>
    <input v-if="typing === 'title'" class="title" aria-label="Shot title" maxlength="300" :value="shot.title" @keydown.stop.enter="keep" @keydown.stop.escape="typing = null" @blur="keep" @vue:mounted="({ el }: any) => (el.focus(), el.select())" />
    <span v-else class="title" :class="{ quiet: shot.title === '' }" :title="shot.title || 'Double-click to give it a title'" @dblclick="film.lookingAt === null && (typing = 'title')">{{ shot.title || 'untitled' }}</span>
    <span v-if="takes > 1" class="chip" title="The circled take">take {{ letter }}</span>
    <span v-if="found.length > 0" class="chip found" :title="found.map((each) => findingTitle(each, nameOf)).join('; ')" data-test="shot-found">{{ found.length === 1 ? '1 finding' : `${found.length} findings` }}</span>
    <span class="mono quiet seconds" :title="lengthTitle">{{ seconds }}</span>
    <span class="grow" />
    <span class="tempo quiet moves" :title="moves">{{ moves }}</span>
    <button v-if="film.lookingAt === null" class="icon-button small" :aria-label="`More for shot ${shot.label}`" title="More" aria-haspopup="menu" @click="openMenu"><Ellipsis :size="15" /></button>
    <Menu v-if="menuWanted" ref="menu" :model="items" popup />
  </div>
</template>

<style scoped>
.found {
  background: var(--vermilion-wash);
  color: var(--vermilion);
}
.head {
  position: relative;
  display: flex;
  align-items: center;
  gap: 9px;
  height: 100%;
  padding: 0 4px;
  border-radius: 4px;
  cursor: grab;
  user-select: none;
}
.head.chosen {
  background: var(--blue-wash);
}
.head.chosen .label {
  color: var(--blue);
}
.label {
  font-size: 14px;
  font-weight: 700;
}
input.label {
  width: 70px;
}
.title {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
input {
  min-width: 0;
  border: 1px solid var(--blue);
  border-radius: 4px;
  background: var(--sheet);
  color: var(--ink);
  font: inherit;
}
input.title {
  flex: 1;
}
.seconds,
.chip {
  flex: none;
}
.grow {
  flex: 1;
}
.moves {
  overflow: hidden;
  font-size: 14px;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.drop-before::before,
.drop-after::after {
  content: '';
  position: absolute;
  right: 0;
  left: 0;
  height: 3px;
  border-radius: 2px;
  background: var(--blue);
}
.drop-before::before {
  top: -4px;
}
.drop-after::after {
  bottom: -4px;
}
</style>

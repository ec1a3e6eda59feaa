<script setup lang="ts">
import { shorten } from '@rubato/core/document'
import type { Lane } from '@rubato/core/document'
import { editLane } from '@rubato/core/edits'
import { ref } from 'vue'
import NumberField from '~/components/fields/NumberField.vue'
import { useScrub } from '~/composables/view/useScrub'
import { useSound } from '~/composables/sound/useSound'
import { followDrag } from '~/gestures/drag'
import { Headphones, Volume, VolumeX } from '~/icons'
import { useFilmStore } from '~/stores/film'
import { useSoundStore } from '~/stores/sound'

/** The head of a lane: its name, whether it is heard, and behind the name all else. */
const props = defineProps<{ lane: Lane; height: number }>()
const film = useFilmStore()
const sound = useSoundStore()
const { setLane, dropLane, shiftLane, pick } = useSound()
const scrub = useScrub()
const emit = defineEmits<{ carry: [dy: number]; put: []; leave: [] }>()
const more = ref<{ toggle: (event: Event) => void; hide: () => void } | null>(null)

function resize(event: PointerEvent) {
  const before = props.height
  followDrag(event, {
    move: ({ dy }) => sound.setHeight(props.lane.id, before + dy),
    end: () => undefined,
    cancel: () => sound.setHeight(props.lane.id, before),
  }, 1)
}
/** A press that becomes a drag carries the lane; its click is no click. */
let carried = false
function carry(event: PointerEvent) {
  carried = false
  if (event.button !== 0) return
  followDrag(event, {
    begin: () => (carried = true),
    move: ({ dy }) => emit('carry', dy),
    end: () => emit('put'),
    cancel: () => emit('leave'),
  }, 5)
}
function open(event: Event) {
  if (carried) return
  sound.laneId = props.lane.id
  more.value?.toggle(event)
}
function rename(input: HTMLInputElement) {
  const name = shorten(input.value.trim(), 80)
  if (name === '' || !setLane(props.lane.id, { name })) input.value = props.lane.name
}
const make = (gainDb: number) => (f: typeof film.film) => editLane(f.outline, film.project!.id, props.lane.id, { gainDb })
</script>

<template>
  <div class="lane-head" :class="[lane.kind, { current: sound.laneId === lane.id }]" data-test="lane-head">
    <button class="name" :title="`${lane.name}: click for name, gain and more; drag up or down to order the lanes`" aria-haspopup="dialog" @pointerdown="carry" @click="open"><span>{{ lane.name }}</span></button>
    <button class="icon-button" :aria-pressed="lane.muted" :title="lane.muted ? 'Hear this lane again' : 'Mute this lane'" :aria-label="`Mute ${lane.name}`" @click="setLane(lane.id, { muted: !lane.muted })"><VolumeX v-if="lane.muted" :size="14" /><Volume v-else :size="14" /></button>
    <button class="icon-button" :aria-pressed="lane.soloed" :title="lane.soloed ? 'Hear the other lanes too' : 'Solo: hear this lane alone'" :aria-label="`Solo ${lane.name}`" @click="setLane(lane.id, { soloed: !lane.soloed })"><Headphones :size="14" /></button>
    <i class="grip" title="Drag: the lane’s height" @pointerdown.prevent="resize" />
    <Popover ref="more">
      <div class="more" @keydown.stop>
        <label>Name <input :key="lane.name" :value.attr="lane.name" maxlength="80" aria-label="Name of the lane" @change="(e) => rename(e.target as HTMLInputElement)" /></label>
        <label>For <select :value="lane.kind" aria-label="What the lane is for" @change="(e) => setLane(lane.id, { kind: (e.target as HTMLSelectElement).value as Lane['kind'] })"><option value="voices">voices</option><option value="effects">effects</option><option value="music">music</option></select></label>
        <NumberField label="Gain" unit="dB" :model-value="lane.gainDb" :step="0.5" :min="-60" :max="24" :decimals="1" :reset-to="0" v-on="scrub.field(`gain of ${lane.name}`, make)" />
        <div class="row">
          <button class="push-button" title="One lane up" @click="shiftLane(lane.id, -1)">Up</button>
          <button class="push-button" title="One lane down" @click="shiftLane(lane.id, 1)">Down</button>
          <button class="push-button" title="Recordings into this lane, at the playhead" @click="(more?.hide(), pick(lane.id))">Bring in…</button>
        </div>
        <button class="push-button danger" title="The lane with all its clips; undo brings it back" @click="(more?.hide(), dropLane(lane.id))">Delete lane</button>
      </div>
    </Popover>
  </div>
</template>

<style scoped>
.lane-head {
  display: flex;
  position: relative;
  align-items: flex-start;
  height: 100%;
  padding-top: 2px;
  border-bottom: 1px solid var(--rule);
  overflow: hidden;
}
.lane-head.current {
  background: var(--paper-2);
}
.name {
  flex: 1;
  min-width: 0;
  height: 24px;
  padding: 0 2px 0 10px;
  border: 0;
  background: none;
  color: var(--ink-2);
  font: inherit;
  text-align: left;
  cursor: pointer;
  touch-action: none;
}
.name span {
  display: block;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.voices .name {
  box-shadow: inset 3px 0 var(--ochre);
}
.effects .name,
.music .name {
  box-shadow: inset 3px 0 var(--sea);
}
.icon-button {
  flex: none;
  width: 24px;
  height: 24px;
}
.icon-button[aria-pressed='true'] {
  background: var(--blue-wash);
  color: var(--blue);
}
.grip {
  position: absolute;
  right: 0;
  bottom: -1px;
  left: 0;
  height: 6px;
  cursor: row-resize;
}
.more {
  display: grid;
  gap: 8px;
  width: 230px;
}
.more label {
  display: grid;
  grid-template-columns: 52px 1fr;
  align-items: center;
}
.more input,
.more select {
  padding: 3px 7px;
  border: 1px solid var(--rule);
  border-radius: 5px;
  background: var(--sheet);
  color: var(--ink);
  font: inherit;
}
.row {
  display: flex;
  gap: 6px;
}
.danger {
  color: var(--vermilion-text);
}
</style>

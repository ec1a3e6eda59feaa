<script setup lang="ts">
import type { Passage } from '@rubato/core/document'
import { canBeBoarded } from '@rubato/core/script'
import { useTemplateRef } from 'vue'
import { useBoardDrag } from '~/composables/boards/useBoardDrag'

/** A passage as a screenplay sets it. */
const props = defineProps<{ passage: Passage; chosen: boolean; boarded: boolean; shown: boolean }>()
const emit = defineEmits<{ choose: [event: MouseEvent]; jump: [] }>()
const root = useTemplateRef('root')
useBoardDrag().passage(root, () => props.passage.id)
</script>

<template>
  <div ref="root" class="passage" :class="[passage.kind, { chosen, boarded, shown }]" role="option" :aria-selected="chosen" :data-passage="passage.id" data-test="passage" @click="emit('choose', $event)">
    <span v-if="canBeBoarded(passage)" class="mark" :title="boarded ? 'Boarded. Double-click goes to its panel' : 'Not yet boarded'" @dblclick.stop="emit('jump')">{{ boarded ? '●' : '○' }}</span>
    <p v-if="passage.kind === 'dialogue'" class="speaker">{{ passage.speaker }}<span v-if="passage.manner !== ''" class="manner"> ({{ passage.manner }})</span></p>
    <p class="text" @dblclick="boarded && emit('jump')">{{ passage.kind === 'section' ? passage.text.replace(/^#+\s*/, '') : passage.text }}</p>
  </div>
</template>

<style scoped>
.passage {
  position: relative;
  padding: 4px 8px 4px 20px;
  border-left: 3px solid transparent;
  cursor: default;
  font-family: var(--mono);
  font-size: 12px;
  line-height: 1.4;
  user-select: none;
}
p {
  margin: 0;
  white-space: pre-wrap;
}
.scene .text {
  font-weight: 600;
  text-transform: uppercase;
}
.scene {
  padding-top: 14px;
}
.section .text,
.title .text {
  font-family: var(--serif);
  font-size: 15px;
  font-style: italic;
}
.note .text,
.transition .text {
  color: var(--ink-2);
  font-style: italic;
}
.transition .text {
  text-align: right;
}
.speaker {
  padding-left: 34%;
}
.manner {
  color: var(--ink-2);
}
.dialogue .text {
  padding-left: 12%;
  color: var(--plum);
}
.mark {
  position: absolute;
  top: 4px;
  left: 5px;
  color: var(--ink-3);
  font-size: 11px;
}
.boarded .mark {
  color: var(--sea);
}
.boarded .text {
  opacity: 0.86;
}
.shown {
  border-left-color: var(--plum);
}
.chosen {
  background: var(--blue-wash);
}
.passage:hover:not(.chosen) {
  background: var(--paper-1);
}
</style>

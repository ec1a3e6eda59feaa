<script setup lang="ts">
import { computed, useTemplateRef } from 'vue'
import { useBoardDrag } from '~/composables/boards/useBoardDrag'

/** Takes shots and passages that are dropped on a sequence's name. */
const props = defineProps<{ sequenceId: string }>()
const drag = useBoardDrag()
const root = useTemplateRef('root')
drag.sequence(root, () => props.sequenceId)
const over = computed(() => drag.place.value?.kind === 'sequence' && drag.place.value.sequenceId === props.sequenceId)
</script>

<template>
  <div ref="root" class="target" :class="{ over }"><slot /></div>
</template>

<style scoped>
.target {
  border-radius: 6px;
}
.over {
  background: var(--blue-wash);
  outline: 2px solid var(--blue);
}
</style>

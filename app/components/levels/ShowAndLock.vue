<script setup lang="ts">
import { Eye, EyeOff, Lock, LockOpen } from '~/icons'

/** The eye and the lock of a level or a group. */
withDefaults(defineProps<{ name: string; visible: boolean; locked: boolean; what?: string }>(), { what: '' })
const emit = defineEmits<{ show: []; lock: [] }>()
</script>

<template>
  <button class="mini" :aria-label="`${visible ? 'Hide' : 'Show'} ${name}`" :title="`${visible ? 'Hide' : 'Show'}${what}`" @click.stop="emit('show')"><Eye v-if="visible" :size="13" /><EyeOff v-else :size="13" /></button>
  <button class="mini" :class="{ faint: !locked }" :aria-label="`${locked ? 'Unlock' : 'Lock'} ${name}`" :title="`${locked ? 'Unlock' : 'Lock'}${what}`" @click.stop="emit('lock')"><Lock v-if="locked" :size="12" /><LockOpen v-else :size="12" /></button>
</template>

<style scoped src="./mini.css"></style>

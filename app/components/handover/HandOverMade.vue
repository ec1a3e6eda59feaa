<script setup lang="ts">
import { computed } from 'vue'
import type { HandOverItem } from '~/composables/handover/useHandOver'

/** What is being made, one line a file. */
const props = defineProps<{ items: readonly HandOverItem[]; secondsLeft: number | null }>()
defineEmits<{ save: [item: HandOverItem] }>()
const leftText = computed(() => {
  const seconds = props.secondsLeft
  if (seconds === null) return 'working out the time left…'
  if (seconds < 1.5) return 'about a second left'
  return seconds < 90 ? `about ${Math.round(seconds)} s left` : `about ${Math.round(seconds / 60)} min left`
})
const megabytes = (bytes: number) => (bytes < 1e6 ? `${Math.max(1, Math.round(bytes / 1e3))} kB` : `${(bytes / 1e6).toFixed(1)} MB`)
const PHASES: Readonly<Record<string, string>> = { shots: 'writing shot by shot', sound: 'mixing', words: 'reading what the boards say', closing: 'closing the file' }
</script>

<template>
  <ul aria-label="Files">
    <li v-for="item in items" :key="item.id" :class="item.state.kind">
      <template v-if="item.state.kind === 'done'">
        <span role="status" data-test="export-done"><b>{{ item.state.name }}</b> is in your downloads: <template v-if="item.state.frames !== null">{{ item.state.frames }} frames{{ item.state.codec ? `, ${item.state.codec}` : '' }}, </template>{{ megabytes(item.state.file.size) }}.</span>
        <button type="button" class="push-button" @click="$emit('save', item)">Save again</button>
      </template>
      <span v-else-if="item.state.kind === 'failed'" role="alert">{{ item.label }}: nothing was made. {{ item.state.what }}</span>
      <template v-else-if="item.state.kind === 'making'">
        <span class="making" role="status">
          <ProgressBar :value="item.state.total > 0 ? Math.round((item.state.done / item.state.total) * 100) : 0" :show-value="false" style="height: 8px" aria-label="Progress" />
          <span class="mono quiet">{{ item.state.phase === 'frames' ? `frame ${item.state.done} of ${item.state.total}` : (PHASES[item.state.phase] ?? item.state.phase) }} · {{ leftText }}</span>
        </span>
      </template>
      <span v-else class="quiet">{{ item.label }}: {{ item.state.kind === 'loading' ? 'fetching what it needs…' : item.state.kind === 'waiting' ? 'waits for its turn' : 'cancelled, nothing was made' }}</span>
    </li>
  </ul>
</template>

<style scoped>
ul {
  display: flex;
  flex-direction: column;
  gap: 6px;
  max-height: 190px;
  margin: 0;
  padding: 0;
  overflow-y: auto;
  list-style: none;
}
li {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  justify-content: space-between;
  gap: 10px;
  padding: 5px 10px;
  border-left: 3px solid var(--rule);
}
.done {
  border-color: var(--sea);
  background: var(--paper-1);
}
.failed {
  border-color: var(--vermilion);
  background: var(--vermilion-wash);
}
.making {
  flex: 1;
}
</style>

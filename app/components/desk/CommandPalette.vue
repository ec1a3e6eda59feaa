<script setup lang="ts">
import { computed, nextTick, ref, watch } from 'vue'
import { shownKeys, type Command } from '~/commands/command'

const visible = defineModel<boolean>('visible', { required: true })
const props = defineProps<{ commands: readonly Command[] }>()
const search = ref('')
const at = ref(0)
const list = ref<HTMLElement | null>(null)

const found = computed(() => {
  const words = search.value.toLowerCase().split(/\s+/).filter((word) => word !== '')
  return props.commands.filter((command) => {
    const text = `${command.name} ${command.group} ${command.keys.join(' ')}`.toLowerCase()
    return words.every((word) => text.includes(word))
  })
})
watch(visible, (now) => {
  if (!now) return
  search.value = ''
  at.value = 0
})
watch(found, () => (at.value = 0))
watch(at, () => void nextTick(() => list.value?.querySelector('[aria-selected=true]')?.scrollIntoView({ block: 'nearest' })))

function run(command: Command | undefined) {
  if (command === undefined) return
  visible.value = false
  // After the dialog has given the focus back.
  setTimeout(command.run)
}
function onKey(event: KeyboardEvent) {
  const step = { ArrowDown: 1, ArrowUp: -1 }[event.key]
  if (step !== undefined) {
    event.preventDefault()
    at.value = Math.min(found.value.length - 1, Math.max(0, at.value + step))
  } else if (event.key === 'Enter') {
    event.preventDefault()
    run(found.value[at.value])
  }
}
</script>

<template>
  <Dialog v-model:visible="visible" modal :show-header="false" position="top" :style="{ width: '520px', marginTop: '60px' }" dismissable-mask :pt="{ content: { style: 'padding: 10px' } }" aria-label="Commands and shortcuts">
    <input v-model="search" class="search" autofocus placeholder="What do you want to do?" aria-label="Search commands and shortcuts" role="combobox" aria-expanded="true" aria-controls="command-list" @keydown="onKey" />
    <ul id="command-list" ref="list" role="listbox">
      <li v-for="(command, i) in found" :key="command.id" role="option" :aria-selected="i === at" @click="run(command)" @pointermove="at = i">
        <span>{{ command.name }}</span><span class="quiet group">{{ command.group }}</span>
        <kbd v-for="keys in command.keys" :key="keys">{{ shownKeys(keys) }}</kbd>
      </li>
      <li v-if="found.length === 0" class="quiet">Nothing is called that.</li>
    </ul>
  </Dialog>
</template>

<style scoped>
.search {
  width: 100%;
  padding: 8px 10px;
  border: 1px solid var(--rule);
  border-radius: 6px;
  background: var(--sheet);
  color: var(--ink);
  font: inherit;
  font-size: 15px;
}
ul {
  max-height: 380px;
  margin: 8px 0 0;
  padding: 0;
  overflow: auto;
  list-style: none;
}
li {
  display: flex;
  align-items: center;
  gap: 8px;
  min-height: 28px;
  padding: 2px 8px;
  border-radius: 5px;
  cursor: pointer;
}
li[aria-selected='true'] {
  background: var(--paper-2);
}
.group {
  flex: 1;
  font-size: 12px;
}
kbd {
  padding: 1px 7px;
  border: 1px solid var(--rule);
  border-radius: 4px;
  background: var(--paper-1);
  font-family: var(--mono);
  font-size: 11px;
}
</style>

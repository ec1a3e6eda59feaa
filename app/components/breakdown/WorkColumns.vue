<script setup lang="ts">
import { shorten, holdable, WORK_LETTERS } from '@rubato/core/document'
import { ref, useTemplateRef } from 'vue'
import RenamedText from '~/components/levels/RenamedText.vue'
import type { useWorkTable, WorkTab } from '~/composables/breakdown/useWorkTable'
import { useBreakdownStore } from '~/stores/breakdown'
import { ask } from '~/stores/question'

/** Which columns are shown, and those of one's own. */
const props = defineProps<{ tab: WorkTab; table: ReturnType<typeof useWorkTable> }>()
const store = useBreakdownStore()
const popover = useTemplateRef('popover')
const name = ref('')
defineExpose({ toggle: (event: Event) => popover.value?.toggle(event) })

const isHidden = (id: string) => (props.table.hidden.value[props.tab] ?? []).includes(id)
function show(id: string, on: boolean) {
  const others = (props.table.hidden.value[props.tab] ?? []).filter((each) => each !== id)
  // eslint-disable-next-line vue/no-mutating-props -- What is hidden is the table's own, kept in this browser.
  props.table.hidden.value = { ...props.table.hidden.value, [props.tab]: on ? others : [...others, id] }
}
function add() {
  const text = shorten(holdable(name.value.trim()), WORK_LETTERS.column)
  if (text !== '' && store.addColumn(crypto.randomUUID(), text, props.tab)) name.value = ''
}
async function remove(id: string, called: string) {
  const own = id.slice(4)
  const said = Object.values(store.body.work).filter((work) => work.own?.[own] !== undefined).length
  if (said > 0 && !(await ask({ title: `Take out ${called}?`, text: `${said === 1 ? 'One row says' : `${said} rows say`} something in it. Undo brings it back.`, yes: 'Take it out', no: 'Keep it' }))) return
  store.removeColumn(own, called)
}
</script>

<template>
  <Popover ref="popover">
    <div class="columns" role="group" aria-label="Columns">
      <div v-for="column in table.allColumns.value" :key="column.id" class="line">
        <label><input type="checkbox" :checked="column.id === 'name' || !isHidden(column.id)" :disabled="column.id === 'name'" :aria-label="column.name" @change="show(column.id, ($event.target as HTMLInputElement).checked)" /> <RenamedText v-if="column.said === 'own'" :text="column.name" title="" label="Name of the column" @rename="(text: string) => store.renameColumn(column.id.slice(4), text)" /><template v-else>{{ column.name }}</template></label>
        <button v-if="column.said === 'own'" class="link" :aria-label="`Take out the column ${column.name}`" @click="remove(column.id, column.name)">take out</button>
      </div>
      <form class="line" @submit.prevent="add">
        <input v-model="name" class="plain-field" placeholder="A column of your own" aria-label="A column of your own" :maxlength="WORK_LETTERS.column" @keydown.stop />
        <button class="push-button" :disabled="name.trim() === ''">Add</button>
      </form>
    </div>
  </Popover>
</template>

<style scoped>
.columns {
  display: grid;
  gap: 3px;
  min-width: 230px;
}
.line {
  display: flex;
  align-items: center;
  justify-content: space-between;
  gap: 8px;
  min-height: 24px;
}
label {
  display: flex;
  gap: 6px;
  align-items: center;
}
.plain-field {
  flex: 1;
}
</style>

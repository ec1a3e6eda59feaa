<script setup lang="ts">
import { readTable, type BadRow, type TableOf, type TableRead } from '@rubato/core/interchange'
import { addWorkColumn, sayOfWork } from '@rubato/core/edits'
import { BREAKDOWN_ID, EMPTY_BREAKDOWN } from '@rubato/core/document'
import { computed, ref, watch } from 'vue'
import type { WorkTab } from '~/composables/breakdown/useWorkTable'
import { useFilmStore } from '~/stores/film'
import { stateWords } from '~/text/breakdown'

/** A table that comes in: what it would change, and what of it can't be taken. */
const props = defineProps<{ file: File; of: () => TableOf; tab: WorkTab }>()
const visible = defineModel<boolean>('visible', { required: true })
const film = useFilmStore()
const MOST_BYTES = 32 * 1024 ** 2
const text = ref<string | null>(null)
const trouble = ref<string | null>(null)
/** Columns that are to be made, by their names. */
const wanted = ref<readonly string[]>([])
const ids = new Map<string, string>()
watch(
  () => props.file,
  async (file) => {
    trouble.value = text.value = null
    if (file.size > MOST_BYTES) trouble.value = `“${file.name}” is larger than ${MOST_BYTES / 1024 ** 2} MB.`
    else text.value = await file.text().catch((error: Error) => ((trouble.value = `“${file.name}” can’t be read. ${error.message}`), null))
  },
  { immediate: true },
)
const fresh = computed(() => new Map(wanted.value.map((name) => [name, ids.get(name) ?? ids.set(name, crypto.randomUUID()).get(name)!])))
const known = computed<TableRead | null>(() => (text.value === null ? null : readTable(text.value, props.of())))
const read = computed<TableRead | null>(() => (text.value === null ? null : readTable(text.value, props.of(), fresh.value)))
const unknown = computed(() => (known.value?.ok === true ? known.value.fresh : []))
const SHOWN = 200

const BAD: Readonly<Record<BadRow['code'], (found: string) => string>> = {
  'no-label': () => 'it has no label',
  unknown: (found) => `nothing here is called “${found}”`,
  twice: (found) => `“${found}” was there before`,
  'bad-state': (found) => `“${found}” is no state`,
  'bad-days': (found) => `“${found}” is no number of days`,
  'too-long': (found) => `too long (${found}…)`,
}
const refusal = computed(() => (read.value?.ok !== false ? null : read.value.code === 'empty' ? `“${props.file.name}” has no rows.` : `“${props.file.name}” has no column called Label, by which its rows would be found. Its first row says: ${read.value.found || 'nothing'}.`))
const shown = (column: string, value: string) => (value === '' ? (column === 'State' ? stateWords(undefined) : 'nothing') : column === 'State' ? stateWords(value as 'work') : value)

function take() {
  const found = read.value
  if (found?.ok !== true) return
  const done = film.perform(`table ${props.file.name}`, (f) => {
    let now = f.breakdowns?.[BREAKDOWN_ID] ?? EMPTY_BREAKDOWN
    const edits = []
    for (const [name, id] of fresh.value) {
      const added = addWorkColumn(now, id, name, props.tab)
      if (!added.ok) return added
      edits.push(...added.edits)
      now = { ...now, columns: { ...now.columns, [id]: (added.edits[0]!.changes.columns![id]!.after as (typeof now.columns)[string]) } }
    }
    const said = found.changes.length === 0 ? null : sayOfWork(now, found.changes)
    if (said !== null && !said.ok) return said
    return { ok: true, edits: [...edits, ...(said?.edits ?? [])] }
  })
  if (done) visible.value = false
}
</script>

<template>
  <Dialog v-model:visible="visible" modal :header="`From ${file.name}`" :style="{ width: '680px' }" data-test="table-in">
    <p v-if="trouble ?? refusal" role="alert" class="wrong">{{ trouble ?? refusal }}</p>
    <template v-else-if="read?.ok">
      <p data-test="table-says"><b>{{ read.changes.length === 0 ? 'Nothing would change.' : read.changes.length === 1 ? 'One row would change.' : `${read.changes.length} rows would change.` }}</b> {{ read.rows }} in the table.</p>
      <fieldset v-if="unknown.length > 0">
        <legend>Columns that are not known</legend>
        <label v-for="name in unknown" :key="name"><input v-model="wanted" type="checkbox" :value="name" /> {{ name }}: a column of our own from now on</label>
      </fieldset>
      <ul class="changes">
        <li v-for="change in read.changes.slice(0, SHOWN)" :key="change.id">
          <b>{{ change.label }}</b>
          <span v-for="each in change.told" :key="each.column"><span class="quiet">{{ each.column }}</span> {{ shown(each.column, each.before) }} → {{ shown(each.column, each.after) }}</span>
        </li>
        <li v-if="read.changes.length > SHOWN" class="quiet">and {{ read.changes.length - SHOWN }} more</li>
      </ul>
      <div v-if="read.bad.length > 0" class="bad" role="alert">
        <b>Left out:</b>
        <ul>
          <li v-for="(bad, i) in read.bad.slice(0, SHOWN)" :key="i">line {{ bad.row }}: {{ BAD[bad.code](bad.found) }}</li>
          <li v-if="read.bad.length > SHOWN">and {{ read.bad.length - SHOWN }} more</li>
        </ul>
      </div>
    </template>
    <p v-else class="quiet" role="status">Reading…</p>
    <footer class="actions">
      <button class="push-button" @click="visible = false">Cancel</button>
      <button class="push-button strong" :disabled="read?.ok !== true || (read.changes.length === 0 && wanted.length === 0)" @click="take">Take it in</button>
    </footer>
  </Dialog>
</template>

<style scoped src="../desk/dialog.css"></style>
<style scoped>
fieldset {
  display: grid;
  gap: 3px;
  margin-bottom: 8px;
  border: 1px solid var(--rule);
  border-radius: 6px;
}
.changes,
.bad ul {
  max-height: 240px;
  padding: 0;
  margin: 0 0 8px;
  overflow-y: auto;
  list-style: none;
}
.changes li {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 14px;
  padding: 3px 0;
  border-top: 1px solid var(--rule);
}
.bad {
  padding: 6px 10px;
  margin-bottom: 8px;
  border-left: 3px solid var(--vermilion);
  background: var(--vermilion-wash);
}
</style>

<script setup lang="ts">
import type { WorkState } from '@rubato/core/document'
import { useLocalStorage } from '@vueuse/core'
import { computed, ref, useTemplateRef } from 'vue'
import ChoiceRow from '~/components/fields/ChoiceRow.vue'
import WeightsDialog from '~/components/breakdown/WeightsDialog.vue'
import TableIn from '~/components/breakdown/TableIn.vue'
import WorkChart from '~/components/breakdown/WorkChart.vue'
import WorkColumns from '~/components/breakdown/WorkColumns.vue'
import WorkHistory from '~/components/breakdown/WorkHistory.vue'
import WorkTable from '~/components/breakdown/WorkTable.vue'
import { saveFile, fileTitle } from '~/composables/handover/useWordsOut'
import { useTableOut } from '~/composables/breakdown/useTableOut'
import { useWorkPrint } from '~/composables/breakdown/useWorkPrint'
import { isGroup, useWorkTable, type Grouping, type TableColumn, type WorkRow, type WorkTab } from '~/composables/breakdown/useWorkTable'
import { useBreakdownStore } from '~/stores/breakdown'
import { useDeskStore } from '~/stores/desk'
import { useEdgesStore } from '~/stores/edges'
import { useFilmStore } from '~/stores/film'
import { STATE_WORDS, STATES } from '~/text/breakdown'
import { daysChart, hardnessChart, sizesChart, timeChart, type SequenceWork } from '~/text/workCharts'
import { inOrder } from '@rubato/core/document'

/** What is to be made, and how hard each shot is: worked out from the film, with what is said of it. */
const film = useFilmStore()
const desk = useDeskStore()
const store = useBreakdownStore()
const edges = useEdgesStore()
if (film.lookingAt === null) store.look()

const tab = useLocalStorage<WorkTab>('rubato.workTab', 'things')
const TABS = [
  { id: 'things', name: 'To be made', title: 'Backgrounds, overlays, sets, props and figures' },
  { id: 'shots', name: 'Shots', title: 'A row a shot' },
] as const
const table = useWorkTable(tab)
const { search, stateFilter, grouping, chosen, rows, runsOut } = table
const GROUP_NAMES: Readonly<Record<Grouping, string>> = { none: 'no groups', sequence: 'by sequence', state: 'by state', who: 'by who', sort: 'by kind' }
const showsCharts = useLocalStorage('rubato.workCharts', true)
const weights = ref(false)
const tableIn = ref<File | null>(null)
const tableInVisible = computed({ get: () => tableIn.value !== null, set: (now) => !now && (tableIn.value = null) })
const columns = useTemplateRef<InstanceType<typeof WorkColumns>>('columns')
const history = useTemplateRef<InstanceType<typeof WorkHistory>>('history')
const input = useTemplateRef<HTMLInputElement>('input')

const done = computed(() => rows.value.filter(({ state }) => state === 'done').length)

const nothing = computed(() => {
  if (!store.isReady || store.working) return 'Working it out…'
  if (search.value !== '' || stateFilter.value !== 'any') return 'Nothing like that.'
  return tab.value === 'things' ? 'Nothing is drawn yet: what is to be made comes here by itself.' : 'There are no shots yet.'
})

const sequences = computed<readonly SequenceWork[]>(() => {
  const fps = desk.fps
  const listed = inOrder(film.outline.sequences)
  const days = new Map(listed.map(({ id }) => [id, { all: 0, done: 0 }]))
  for (const row of rows.value) {
    const of = days.get(row.sequenceId ?? '')
    if (of === undefined || row.state === 'out') continue
    of.all += row.days ?? 0
    if (row.state === 'done') of.done += row.days ?? 0
  }
  const frames = new Map<string, number>()
  for (const { shot, lengthFrames } of film.filmStage.shots) frames.set(shot.sequenceId, (frames.get(shot.sequenceId) ?? 0) + lengthFrames)
  return listed.map(({ id, title, label, targetFrames }) => ({ name: title || label, days: days.get(id)!.all, doneDays: days.get(id)!.done, seconds: (frames.get(id) ?? 0) / fps, targetSeconds: targetFrames === null ? null : targetFrames / fps }))
})
type Look = Parameters<typeof daysChart>[1]
/** Anew whenever one of them would look otherwise. */
const charts = computed(() => {
  const [days, widths, points] = [sequences.value, store.things.flatMap(({ thing }) => (thing.size === null ? [] : [{ sort: thing.sort, width: thing.size.width }])), store.shots.flatMap(({ difficulty }) => (difficulty === null ? [] : [difficulty.points]))]
  return [
    { title: 'Days of work, by sequence', chart: (look: Look) => daysChart(days, look) },
    tab.value === 'things' ? { title: `Size to be painted, px wide at ${store.widthPx}`, chart: (look: Look) => sizesChart(widths, look) } : { title: 'Shots by difficulty, points', chart: (look: Look) => hardnessChart(points, look) },
    { title: 'Running time against target', chart: (look: Look) => timeChart(days, look) },
  ]
})

function sayText(row: WorkRow, column: TableColumn, text: string) {
  if (column.said === 'days') {
    const days = text === '' ? null : Number(text.replace(',', '.'))
    if (days !== null && !(days >= 0 && days <= 10_000)) return film.refuse(`“${text.slice(0, 20)}” is no number of days. Type one from 0 to 10,000, or nothing for what is reckoned.`)
    table.say(row, { days: days === null ? null : Number(days.toFixed(3)) }, 'days')
  } else if (column.said === 'own') table.say(row, { own: { [column.id.slice(4)]: text } }, column.name)
  else if (column.said === 'who' || column.said === 'notes') table.say(row, { [column.said]: text === '' ? null : text }, column.said)
}
const sayState = (row: WorkRow, state: WorkState | null) => table.say(row, { state }, 'state')
const chosenRows = computed(() => chosen.value.flatMap((each) => (isGroup(each) ? [] : [each])))
function go(row: WorkRow) {
  const placed = film.filmStage.shots.find(({ shot }) => shot.id === row.shotId)
  if (placed === undefined) return film.refuse(`${row.label} is in no shot that the film shows.`)
  desk.view = 'desk'
  desk.goTo(placed.startFrame)
  if (row.id.startsWith('level.')) desk.selectedLevelId = row.id.split('.')[2]!
}

const { tableText, tableOf } = useTableOut(table, tab)
const printing = useWorkPrint(table, tab)
function out() {
  saveFile(`${fileTitle(film.project?.title ?? 'Film')} – ${tab.value === 'things' ? 'to be made' : 'shots'}.csv`, new Blob([`\uFEFF${tableText()}`], { type: 'text/csv;charset=utf-8' }))
}
function choose(event: Event) {
  const field = event.target as HTMLInputElement
  tableIn.value = field.files?.[0] ?? null
  field.value = ''
}
</script>

<template>
  <div class="breakdown" data-test="breakdown">
    <main v-if="film.lookingAt !== null" class="notice">
      <h2>This is a version</h2>
      <p>What is to be made is worked out for the film as it is now. Go back to the film, or bring this version back.</p>
    </main>
    <template v-else>
      <header class="bar">
        <ChoiceRow v-model="tab" label="Of what" :choices="TABS" />
        <span class="chip" data-test="work-count">{{ rows.length }} {{ tab === 'things' ? (rows.length === 1 ? 'thing' : 'things') : rows.length === 1 ? 'shot' : 'shots' }}</span>
        <span v-if="runsOut > 0" class="chip wrong">{{ runsOut }} run out</span>
        <span class="chip done">{{ done }} done</span>
        <span v-if="store.working" class="working" role="status"><progress :value="store.working.done" :max="store.working.total" aria-label="Shots worked out" /> {{ store.working.done }} of {{ store.working.total }} shots <button class="push-button" @click="store.stop()">Cancel</button></span>
        <span class="grow" />
        <input v-model="search" type="search" class="plain-field search" placeholder="Find" aria-label="Find in the breakdown" />
        <select v-model="stateFilter" class="plain-field" aria-label="Of which state">
          <option value="any">any state</option>
          <option v-for="each in STATES" :key="each" :value="each">{{ STATE_WORDS[each] }}</option>
        </select>
        <select v-model="grouping" class="plain-field" aria-label="Groups">
          <option v-for="(name, id) in GROUP_NAMES" :key="id" :value="id" :disabled="id === 'sort' && tab === 'shots'">{{ name }}</option>
        </select>
        <button class="push-button" @click="columns?.toggle($event)">Columns…</button>
        <button class="push-button" title="What is shown, as a CSV table" @click="out">Out as CSV</button>
        <button class="push-button" title="States, who, days, notes and own columns from a CSV table; it is shown what would change" @click="input?.click()">In…</button>
        <input ref="input" type="file" accept=".csv,text/csv" class="file" aria-label="A table" @change="choose" />
        <button v-if="printing.progress.value === null" class="push-button" title="What is shown, with pictures, as a PDF" @click="printing.print()">Print</button>
        <span v-else class="working" role="status"><progress :value="printing.progress.value.done" :max="printing.progress.value.total" aria-label="Pages printed" /> <button class="push-button" @click="printing.stop()">Cancel</button></span>
        <button class="push-button" title="What counts how much" @click="weights = true">Weights…</button>
        <button class="push-button" :aria-pressed="showsCharts" @click="showsCharts = !showsCharts">Charts</button>
      </header>
      <p v-if="store.trouble" class="trouble" role="alert">{{ store.trouble }} <button class="push-button" @click="store.ask()">Try again</button></p>
      <p v-if="printing.trouble.value" class="trouble" role="alert">{{ printing.trouble.value }}</p>
      <section v-if="showsCharts" class="charts" aria-label="Charts">
        <WorkChart v-for="each in charts" :key="each.title" :title="each.title" :chart="each.chart" />
      </section>
      <p v-if="chosenRows.length > 1" class="many" role="status">{{ chosenRows.length }} chosen: what is said in one of them is said of all. <button class="push-button" @click="chosen = []">Choose none</button></p>
      <WorkTable :table="table" :label="tab === 'things' ? 'What is to be made' : 'Shots'" :empty="nothing" @go="go" @log="(event, row) => history?.show(event, row.id, row.label)" @say-text="sayText" @say-state="sayState" />
      <footer v-if="edges.whole === null && rows.some(({ findings }) => findings === null)" class="quiet foot">Findings of shots that were not looked through yet are not known. <button class="link" @click="edges.lookThroughFilm()">Look through the film</button></footer>
      <footer v-else-if="edges.whole" class="quiet foot" role="status"><progress :value="edges.whole.done" :max="edges.whole.total" aria-label="Shots looked through" /> {{ edges.whole.label }} <button class="push-button" @click="edges.stop()">Cancel</button></footer>
    </template>
    <WorkColumns ref="columns" :tab="tab" :table="table" />
    <WorkHistory ref="history" />
    <WeightsDialog v-model:visible="weights" />
    <TableIn v-if="tableIn" v-model:visible="tableInVisible" :file="tableIn" :of="tableOf" :tab="tab" />
  </div>
</template>

<style scoped src="./breakdown.css"></style>

<script setup lang="ts">
import { useLocalStorage } from '@vueuse/core'
import { computed, onBeforeUnmount, ref, watch } from 'vue'
import type { PerPage, PrintChoice } from '~/boards/printLayout'
import { USUAL_PRINT, usePrintAsk } from '~/composables/boards/usePrintAsk'
import { fileTitle, saveFile } from '~/composables/handover/useWordsOut'
import { useBoardsStore } from '~/stores/boards'
import { useDeskStore } from '~/stores/desk'
import { WorkerStopped } from '~/clients/jobs'
import { printJobs } from '~/clients/printJobs'
import { useFilmStore } from '~/stores/film'
import { wordBytes } from '~/text/differences'
import type { PrintAsk } from '~/workers/messages'

/** Boards as a PDF: how many a page, which way, what of the film. Made in a worker. */
const visible = defineModel<boolean>('visible', { required: true })
const film = useFilmStore()
const desk = useDeskStore()
const boards = useBoardsStore()
const choice = useLocalStorage<PrintChoice>('rubato.print', { ...USUAL_PRINT }, { mergeDefaults: true })
const { askOf, panelsIn } = usePrintAsk()
const what = ref<'film' | 'sequence' | 'chosen'>('film')
const progress = ref<{ readonly phase: string; readonly done: number; readonly total: number } | null>(null)
const trouble = ref<string | null>(null)
const made = ref<string | null>(null)
let gate = new AbortController()
const PER_PAGE: readonly PerPage[] = [1, 3, 6, 9]

const sequence = computed(() => film.film.outline.sequences[desk.placedShot?.shot.sequenceId ?? ''] ?? null)
const shots = computed(() => {
  const all = film.filmStage.shots
  if (what.value === 'sequence') return all.filter(({ shot }) => shot.sequenceId === sequence.value?.id)
  if (what.value === 'chosen') return all.filter(({ shot }) => boards.shots.includes(shot.id) || boards.panels.some((panel) => panel.takeId === shot.circledTakeId))
  return all
})
const panelCount = computed(() => (what.value === 'chosen' && boards.panels.length > 0 ? boards.panels.length : panelsIn(shots.value)))
const chosenCount = computed(() => boards.panels.length || boards.shots.length)

watch(visible, (now) => {
  if (now) {
    trouble.value = null
    made.value = null
    what.value = chosenCount.value > 1 ? 'chosen' : 'film'
  } else stop()
})
function stop() {
  gate.abort()
  progress.value = null
}
onBeforeUnmount(stop)

async function print() {
  const { project } = film
  if (project === null) return
  trouble.value = null
  made.value = null
  progress.value = { phase: 'reading', done: 0, total: 1 }
  let ask: PrintAsk
  try {
    ask = askOf(shots.value, what.value === 'chosen' && boards.panels.length > 0 ? boards.panels.map(({ takeId, panelId }) => `${takeId}/${panelId}`) : null, choice.value)
    // What is on the screen is printed, not only what the server has heard of.
    await film.settled()
  } catch (error) {
    progress.value = null
    trouble.value = (error as Error).message
    return
  }
  const { signal } = (gate = new AbortController())
  try {
    const printed = await printJobs.run(ask, { signal, progress: (now) => !signal.aborted && (progress.value = now) })
    progress.value = null
    saveFile(`${fileTitle(project.title)} boards.pdf`, printed.file)
    made.value = `${printed.panels === 1 ? '1 panel' : `${printed.panels} panels`} on ${printed.pages === 1 ? '1 page' : `${printed.pages} pages`}, ${wordBytes(printed.file.size)}, in ${(printed.totalMs / 1000).toFixed(1)} s.${printed.missing === '' ? '' : ` No font here has ${printed.missing}: boxes stand in.`}`
  } catch (error) {
    if (!signal.aborted) fail(error instanceof WorkerStopped ? 'The printer stopped. Reload the page and try again.' : (error as Error).message)
  }
}
function fail(text: string) {
  stop()
  trouble.value = `The boards were not printed. ${text}`
}
const percent = computed(() => (progress.value === null ? 0 : Math.round((progress.value.phase === 'reading' ? 0.05 : 0.05 + 0.95 * (progress.value.done / Math.max(1, progress.value.total))) * 100)))
</script>

<template>
  <Dialog v-model:visible="visible" modal header="Print boards" :style="{ width: '460px' }" data-test="print-dialog">
    <template v-if="progress === null">
      <div class="grid">
        <span>Print</span>
        <div class="row">
          <label><input v-model="what" type="radio" value="film" /> the whole film</label>
          <label v-if="sequence"><input v-model="what" type="radio" value="sequence" /> sequence {{ sequence.label }}</label>
          <label v-if="chosenCount > 0"><input v-model="what" type="radio" value="chosen" /> what is chosen</label>
        </div>
        <span>Panels a page</span>
        <div class="row">
          <label v-for="each in PER_PAGE" :key="each"><input v-model="choice.perPage" type="radio" :value="each" /> {{ each }}</label>
        </div>
        <span>Paper</span>
        <div class="row">
          <label><input v-model="choice.paper" type="radio" value="a4" /> A4</label>
          <label><input v-model="choice.paper" type="radio" value="letter" /> Letter</label>
          <label><input v-model="choice.landscape" type="radio" :value="true" /> landscape</label>
          <label><input v-model="choice.landscape" type="radio" :value="false" /> portrait</label>
        </div>
        <span />
        <div class="row">
          <label><input v-model="choice.sequencePages" type="checkbox" /> each sequence on a new page</label>
          <label><input v-model="choice.notes" type="checkbox" /> notes</label>
          <label title="A panel in which something moves shows all of the move: its frames numbered on the widest view, the camera’s way, the ways of levels"><input v-model="choice.moves" type="checkbox" /> moves</label>
          <label title="Words and arrows on levels that are in no picture, over their panel"><input v-model="choice.forPrint" type="checkbox" /> words and arrows for print</label>
        </div>
      </div>
      <p v-if="trouble" class="wrong" role="alert">{{ trouble }}</p>
      <p v-if="made" role="status" data-test="printed">{{ made }}</p>
      <footer>
        <span class="quiet">{{ panelCount }} {{ panelCount === 1 ? 'panel' : 'panels' }}, as PDF</span>
        <span class="grow" />
        <button class="push-button" @click="visible = false">Close</button>
        <button class="push-button strong" :disabled="panelCount === 0" @click="print">Print</button>
      </footer>
    </template>
    <template v-else>
      <p role="status">{{ progress.phase === 'reading' ? 'Reading the shots' : progress.phase === 'closing' ? 'Closing the file' : `Panel ${progress.done} of ${progress.total}` }}</p>
      <ProgressBar :value="percent" :show-value="false" style="height: 8px" />
      <footer><span class="grow" /><button class="push-button" @click="stop">Cancel</button></footer>
    </template>
  </Dialog>
</template>

<style scoped>
.grid {
  display: grid;
  grid-template-columns: 100px 1fr;
  gap: 8px 12px;
}
.row {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 14px;
}
label {
  display: inline-flex;
  align-items: center;
  gap: 6px;
  min-height: 24px;
}
.wrong {
  color: var(--vermilion-text);
}
p {
  margin: 12px 0 6px;
}
footer {
  display: flex;
  align-items: center;
  gap: 8px;
  margin-top: 14px;
}
.grow {
  flex: 1;
}
</style>

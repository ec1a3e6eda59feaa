<script setup lang="ts">
import type { Baked } from '@rubato/core/edits'
import { artReaches } from '@rubato/core/stage'
import { useLocalStorage } from '@vueuse/core'
import { computed, onBeforeUnmount, ref, shallowRef, watch } from 'vue'
import { bakeJobs } from '~/clients/bakeJobs'
import NumberField from '~/components/fields/NumberField.vue'
import { bakedIds, useSpans } from '~/composables/camera/useSpans'
import { useDeskStore } from '~/stores/desk'
import { useFilmStore } from '~/stores/film'

/** Writes what spans make of the camera as framings; how many, and how far off, is told before it is taken. */
const film = useFilmStore()
const desk = useDeskStore()
const { spans, wordOf } = useSpans()
const visible = computed({ get: () => bakedIds.value !== null, set: (now) => !now && (bakedIds.value = null) })
const tolerancePx = useLocalStorage('rubato.bakePx', 2)
const found = shallowRef<Baked | null>(null)
const share = ref(0)
const problem = ref<string | null>(null)
let gate = new AbortController()

const names = computed(() => spans.value.filter(({ span }) => bakedIds.value?.includes(span.id)).map(({ span }) => wordOf(span)).join(', '))
/** What goes along, since a chosen one goes by it. */
const along = computed(() => spans.value.filter(({ span }) => found.value?.spanIds.includes(span.id) === true && !bakedIds.value!.includes(span.id)).map(({ span }) => wordOf(span)).join(', '))
const frames = computed(() => spans.value.filter(({ span }) => bakedIds.value?.includes(span.id)).reduce((sum, { first, last }) => sum + last - first + 1, 0))

async function find() {
  gate.abort()
  const { signal } = (gate = new AbortController())
  const [ids, take, takeId] = [bakedIds.value, desk.take, desk.takeId]
  found.value = null
  problem.value = null
  share.value = 0
  if (ids === null || take === null || takeId === null || film.optics === null || film.project === null) return
  const ask = { take, takeId, of: { spanIds: ids }, optics: film.optics, tolerancePx: tolerancePx.value, outputWidthPx: film.project.widthPx, reaches: artReaches(take, film.drawingOf), ids: crypto.randomUUID() }
  try {
    const baked = await bakeJobs.run(ask, { signal, progress: (now) => (share.value = now) })
    if (signal.aborted) return
    found.value = baked
  } catch (error) {
    if (!signal.aborted) problem.value = `It could not be worked out: ${(error as Error).message.replace(/\.$/, '')}. Nothing was changed; close this and try again.`
  }
}
// What someone else changes meanwhile is another shot to bake.
watch([bakedIds, tolerancePx, () => desk.take], () => (bakedIds.value === null ? gate.abort() : void find()))
onBeforeUnmount(() => gate.abort())

function take() {
  const baked = found.value
  if (baked === null) return
  if (film.perform(`bake ${names.value}`, () => baked.made)) {
    desk.selectedSpanId = null
    visible.value = false
  }
}
</script>

<template>
  <Dialog v-model:visible="visible" modal header="To framings" position="left" :style="{ width: '310px' }" :pt="{ mask: { style: 'background: transparent; animation: none' } }">
    <p>{{ names }}: {{ frames }} frames.</p>
    <div class="fields">
      <NumberField label="off by at most" unit="px" :model-value="tolerancePx" :step="0.5" :min="0.1" :max="50" :decimals="1" :reset-to="2" title="Of the output, at any frame; more leaves fewer framings" data-test="bake-px" @set="(v) => (tolerancePx = v)" @scrub="(v) => (tolerancePx = v)" />
    </div>
    <div v-if="found === null && problem === null" class="bar" role="progressbar" :aria-valuenow="Math.round(share * 100)" aria-label="Finding framings"><i :style="{ width: `${share * 100}%` }" /></div>
    <p v-if="found?.made.ok" data-test="baked"><b>{{ found.framings }} framings</b>, nowhere more than {{ found.mostPx.toFixed(2) }} px off.<template v-if="along"> {{ along }} goes along: what is baked goes by it.</template><template v-if="found.locked > 0"> {{ found.locked === 1 ? 'One locked framing stays as it is; the camera goes over to it and back.' : `${found.locked} locked framings stay as they are; the camera goes over to each and back.` }}</template></p>
    <p v-if="problem" class="wrong" role="alert">{{ problem }}</p>
    <div class="actions">
      <button class="push-button" @click="visible = false">Cancel</button>
      <button class="push-button strong" :disabled="found === null" @click="take">Write framings</button>
    </div>
  </Dialog>
</template>

<style scoped src="../dialog.css"></style>
<style scoped>
.bar {
  height: 6px;
  margin: 10px 0;
  border-radius: 3px;
  background: var(--paper-2);
  overflow: hidden;
}
.bar i {
  display: block;
  height: 100%;
  background: var(--blue);
}
</style>

<script setup lang="ts">
import { hasStandIns as takeHasStandIns } from '@rubato/core/document'
import { secondsOfFrames } from '@rubato/core/time'
import { computed, reactive, ref, watch } from 'vue'
import { useHandOver, type HandOverChoice } from '~/composables/handover/useHandOver'
import { useDeskStore } from '~/stores/desk'
import { useFilmStore } from '~/stores/film'
import { useSoundStore } from '~/stores/sound'
import { useTimingStore } from '~/stores/timing'
import { formatOf, formatsOf, type FormatId } from '~/workers/formats'

const visible = defineModel<boolean>('visible', { required: true })
const film = useFilmStore()
const desk = useDeskStore()
const timing = useTimingStore()
const choice = reactive<HandOverChoice>({ range: 'shot', format: 'webm', size: 1, sound: true, burnIn: { timecode: false, label: false, panel: false, captions: false }, standIns: false, depth: null })
const sounds = useSoundStore()
const hasSound = computed(() => sounds.placed.clips.length > 0)
const HANDED = formatsOf('frames', 'sound')
/** Formats that this browser can't make, as far as is known. */
const unmade = ref<ReadonlySet<FormatId>>(new Set(HANDED.flatMap(({ id, format: each }) => (each.needs === 'frames' && each.canBeMade !== undefined ? [id] : []))))
const format = computed(() => formatOf(choice.format))
const { state, secondsLeft, start, cancel, save, rangeOf } = useHandOver()

const hasStandIns = computed(() => film.filmStage.shots.some(({ shot }) => ((body) => body !== null && takeHasStandIns(body))(film.takeOf(shot.circledTakeId))))
const busy = computed(() => state.value.kind === 'loading' || state.value.kind === 'making')
const ranges = computed(() => [
  { label: `Shot ${desk.placedShot?.shot.label ?? ''}`, value: 'shot' as const },
  { label: `Sequence ${film.outline.sequences[desk.placedShot?.shot.sequenceId ?? '']?.label ?? ''}`, value: 'sequence' as const },
  ...(timing.range === null ? [] : [{ label: `In to out, ${timing.moment(timing.range.start)} to ${timing.moment(timing.range.end - 1)}`, value: 'range' as const }]),
  { label: 'Whole film', value: 'film' as const },
])
// A range that is set is what one is about to hand over.
watch(visible, (on) => {
  if (!on) return
  if (!hasSound.value && format.value.needs === 'sound') choice.format = 'webm'
  for (const { id, format: each } of HANDED) if (film.project !== null && each.needs === 'frames' && each.canBeMade !== undefined) void each.canBeMade(film.project.widthPx, film.project.heightPx, desk.fps).then((can) => (unmade.value = new Set(can ? [...unmade.value].filter((other) => other !== id) : [...unmade.value, id])))
  if (timing.range !== null && timing.loop === 'range') choice.range = 'range'
  else if (timing.range === null && choice.range === 'range') choice.range = 'shot'
})
const frames = computed(() => {
  const { start, end } = rangeOf(choice.range)
  return end - start
})
const formats = computed(() => HANDED.flatMap(({ id, format: { label, needs } }) => (unmade.value.has(id) || (needs === 'sound' && !hasSound.value) ? [] : [{ label, value: id }])))
const takesSound = computed(() => format.value.needs === 'frames' && format.value.sound)
const BURNS = [
  { key: 'timecode', label: 'timecode' },
  { key: 'label', label: 'shot' },
  { key: 'panel', label: 'panel' },
  { key: 'captions', label: 'captions' },
] as const
const PICTURES = [
  { label: 'As drawn', value: 'drawn' },
  { label: 'Distances in grey', value: 'depth' },
] as const
const ENDS = [
  { key: 'nearest', label: 'White at', title: 'What is so far off, or nearer, is white; empty: the nearest of these shots' },
  { key: 'farthest', label: 'black at', title: 'What is so far off, or farther, is black; empty: the farthest of these shots' },
] as const
function setEnd(key: 'nearest' | 'farthest', text: string) {
  const value = Number(text)
  if (choice.depth !== null) choice.depth = { ...choice.depth, [key]: text.trim() === '' || !(value >= 0.01) ? null : value }
}
const endsCrossed = computed(() => choice.depth !== null && choice.depth.nearest !== null && choice.depth.farthest !== null && choice.depth.farthest <= choice.depth.nearest)
const sizes = computed(() =>
  ([1, 0.5, 0.25] as const).map((value) => {
    const even = (px: number) => Math.max(2, Math.round((px * value) / 2) * 2)
    return { label: `${even(film.project?.widthPx ?? 0)} × ${even(film.project?.heightPx ?? 0)}`, value }
  }),
)
const percent = computed(() => (state.value.kind === 'making' && state.value.total > 0 ? Math.round((state.value.done / state.value.total) * 100) : 0))
const leftText = computed(() => {
  const seconds = secondsLeft.value
  if (seconds === null) return 'working out the time left…'
  if (seconds < 1.5) return 'about a second left'
  return seconds < 90 ? `about ${Math.round(seconds)} s left` : `about ${Math.round(seconds / 60)} min left`
})
const megabytes = (bytes: number) => (bytes < 1e6 ? `${Math.max(1, Math.round(bytes / 1e3))} kB` : `${(bytes / 1e6).toFixed(1)} MB`)
</script>

<template>
  <Dialog v-model:visible="visible" modal header="Hand over" :style="{ width: '440px' }" :closable="!busy" :close-on-escape="!busy">
    <form class="form" @submit.prevent="start({ ...choice, burnIn: { ...choice.burnIn } })">
      <label>What <Select size="small" v-model="choice.range" :options="ranges" option-label="label" option-value="value" :disabled="busy" aria-label="What" /></label>
      <label>As <Select size="small" v-model="choice.format" :options="formats" option-label="label" option-value="value" :disabled="busy" aria-label="As" /></label>
      <label v-if="takesSound" class="check"><span>Sound</span><span><input v-model="choice.sound" type="checkbox" :disabled="busy || !hasSound" /> {{ hasSound ? 'the film’s, mixed' : 'the film has none yet' }}</span></label>
      <div v-if="format.needs === 'frames'" class="burn" role="group" aria-label="Written into the picture">
        <span title="Written into the lower part of the picture">Burn in</span>
        <label v-for="each in BURNS" :key="each.key"><input v-model="choice.burnIn[each.key]" type="checkbox" :disabled="busy" /> {{ each.label }}</label>
      </div>
      <label v-if="format.needs === 'frames'">Picture <Select size="small" :model-value="choice.depth === null ? 'drawn' : 'depth'" :options="[...PICTURES]" option-label="label" option-value="value" :disabled="busy" aria-label="Picture" @update:model-value="(to: string) => (choice.depth = to === 'depth' ? { nearest: null, farthest: null } : null)" /></label>
      <div v-if="format.needs === 'frames' && choice.depth !== null" class="ends">
        <label v-for="end in ENDS" :key="end.key" :title="end.title">{{ end.label }} <input type="number" class="mono" min="0.01" max="1000000" step="0.05" placeholder="auto" :value="choice.depth[end.key] ?? ''" :disabled="busy" :aria-label="end.title" @change="(event) => setEnd(end.key, (event.target as HTMLInputElement).value)" /> fw</label>
      </div>
      <label v-if="format.needs === 'frames'">Size <Select size="small" v-model="choice.size" :options="sizes" option-label="label" option-value="value" :disabled="busy" aria-label="Size" /></label>
      <label v-if="format.needs === 'frames' && hasStandIns" class="check" title="Figures, boxes and grids that stand in for what is not drawn yet"><span>Stand-ins</span><span><input v-model="choice.standIns" type="checkbox" :disabled="busy" /> {{ choice.standIns ? 'are seen' : 'are left out' }}</span></label>
      <p class="quiet">{{ frames }} frames, {{ film.project ? secondsOfFrames(frames, film.project.rate).toFixed(2) : 0 }} s. Reference levels are left out.</p>

      <p v-if="endsCrossed" class="failed" role="alert">What is white must be nearer than what is black.</p>
      <div v-if="state.kind === 'loading'" role="status">Fetching the drawings…</div>
      <div v-else-if="state.kind === 'making'" role="status">
        <ProgressBar :value="percent" :show-value="false" style="height: 8px" aria-label="Progress" />
        <p class="mono quiet">{{ state.phase === 'frames' ? `frame ${state.done} of ${state.total}` : state.phase === 'sound' ? 'mixing' : 'closing the file' }} · {{ leftText }}</p>
      </div>
      <div v-else-if="state.kind === 'done'" class="result" role="status" data-test="export-done">
        <b>{{ state.fileName }}</b> is in your downloads: {{ state.frames }} frames{{ state.codec ? `, ${state.codec}` : '' }}, {{ megabytes(state.bytes) }}.
        <button type="button" class="push-button" @click="save">Save again</button>
      </div>
      <div v-else-if="state.kind === 'failed'" class="failed" role="alert">Nothing was made. {{ state.what }}</div>

      <div class="actions">
        <button v-if="busy" type="button" class="push-button" data-test="export-cancel" @click="cancel">Cancel</button>
        <template v-else>
          <button type="button" class="push-button" @click="visible = false">Close</button>
          <button type="submit" class="push-button strong" :disabled="frames === 0 || endsCrossed">Make it</button>
        </template>
      </div>
    </form>
  </Dialog>
</template>

<style scoped>
.form {
  display: flex;
  flex-direction: column;
  gap: 10px;
}
label {
  display: grid;
  grid-template-columns: 60px 1fr;
  align-items: center;
}
label.check > span:last-child {
  display: flex;
  align-items: center;
  gap: 6px;
}
.ends {
  display: flex;
  gap: 14px;
  padding-left: 60px;
}
.ends label {
  display: flex;
  align-items: center;
  gap: 5px;
}
.ends input {
  width: 74px;
  padding: 3px 6px;
  border: 1px solid var(--rule);
  border-radius: 5px;
  background: var(--sheet);
  color: var(--ink);
}
.burn {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 4px 14px;
}
.burn > span {
  width: 46px;
}
.burn label {
  display: flex;
  align-items: center;
  gap: 5px;
}
p {
  margin: 0;
}
.actions {
  display: flex;
  justify-content: flex-end;
  gap: 8px;
  margin-top: 4px;
}
.result {
  padding: 8px 10px;
  border-left: 3px solid var(--sea);
  background: var(--paper-1);
}
.result .push-button {
  display: flex;
  margin-top: 6px;
}
.failed {
  padding: 8px 10px;
  border-left: 3px solid var(--vermilion);
  background: var(--vermilion-wash);
}
</style>

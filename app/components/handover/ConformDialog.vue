<script setup lang="ts">
import { useVirtualizer } from '@tanstack/vue-virtual'
import { computed, nextTick, ref, toRef, useTemplateRef, watch } from 'vue'
import CutStrips from '~/components/handover/CutStrips.vue'
import { useConform } from '~/composables/handover/useConform'
import { useFilmStore } from '~/stores/film'
import { KIND_WORDS, kindOfLine, LINE_KINDS, lineSubject, lineWords, type LineKind } from '~/text/conform'

/** A cut that was changed elsewhere: what it would change here, taken whole or line by line. */
const visible = defineModel<boolean>('visible', { required: true })
const props = defineProps<{ file: File | null }>()
const emit = defineEmits<{ pick: [] }>()
const film = useFilmStore()
const { list, notes, trouble, state, share, taken, plan, chosen, choose, take, stop } = useConform(toRef(props, 'file'))
const scroller = useTemplateRef('scroller')
const only = ref<LineKind | null>(null)
const marked = ref<string | null>(null)
watch(() => props.file, () => (only.value = null))

const busy = computed(() => state.value === 'loading' || state.value === 'taking')
const lines = computed(() => (plan.value === null ? [] : plan.value.lines.filter((line) => only.value === null || kindOfLine(line) === only.value)))
const counts = computed(() => {
  const found = new Map<LineKind, number>()
  for (const line of plan.value?.lines ?? []) found.set(kindOfLine(line), (found.get(kindOfLine(line)) ?? 0) + 1)
  return LINE_KINDS.flatMap((kind) => (found.has(kind) ? [{ kind, count: found.get(kind)! }] : []))
})
const off = computed(() => new Set((plan.value?.lines ?? []).flatMap(({ id }) => (chosen.value.has(id) ? [] : [id]))))
const allOn = computed(() => lines.value.every(({ id }) => chosen.value.has(id)))
const unknown = computed(() => plan.value?.unknownSounds.length ?? 0)
const virtual = useVirtualizer(computed(() => ({ count: lines.value.length, getScrollElement: () => scroller.value, estimateSize: () => 30, getItemKey: (index: number) => lines.value[index]?.id ?? index, overscan: 8 })))
async function find(id: string) {
  only.value = null
  marked.value = id
  await nextTick()
  const at = lines.value.findIndex((line) => line.id === id)
  if (at >= 0) virtual.value.scrollToIndex(at, { align: 'center' })
}
const lengthWords = (count: number) => (film.project === null ? '' : `${((count * film.project.rate.denominator) / film.project.rate.numerator).toFixed(1)} s`)
const newLength = computed(() => list.value?.pictures.reduce((sum, { lengthFrames }) => sum + lengthFrames, 0) ?? 0)
</script>

<template>
  <Dialog v-model:visible="visible" modal :header="`Conform to ${file?.name ?? 'a cut'}`" :style="{ width: '900px' }" :closable="!busy" :close-on-escape="!busy" data-test="conform">
    <p v-if="state === 'reading'" role="status">Reading {{ file?.name }}…</p>
    <div v-if="trouble" class="failed" role="alert">{{ trouble }}</div>
    <div v-if="state === 'taken'" class="done" role="status" data-test="conform-done">{{ taken === 1 ? 'One line is' : `${taken} lines are` }} taken. Undo takes all of it back; the film as it was is kept among its versions.</div>
    <template v-else-if="plan !== null && list !== null">
      <p v-for="note in notes" :key="note" class="quiet">{{ note }}</p>
      <p v-if="unknown > 0" class="quiet">{{ unknown === 1 ? 'One sound of it is' : `${unknown} sounds of it are` }} not in this film, and left out: a cut holds no recordings. Bring them in on the Desk.</p>
      <p v-if="plan.lines.length === 0" class="same" role="status">The film is cut just so already: there is nothing to take.</p>
      <template v-else>
        <CutStrips :plan="plan" :off="off" @find="find" />
        <div class="filters" role="group" aria-label="Kinds of lines">
          <button type="button" class="chip" :aria-pressed="only === null" @click="only = null">all {{ plan.lines.length }}</button>
          <button v-for="{ kind, count } in counts" :key="kind" type="button" class="chip" :class="kind" :aria-pressed="only === kind" @click="only = only === kind ? null : kind">{{ KIND_WORDS[kind] }} {{ count }}</button>
          <span class="grow" />
          <span class="quiet mono">{{ lengthWords(film.filmStage.lengthFrames) }} → {{ lengthWords(newLength) }}</span>
        </div>
        <div ref="scroller" class="lines" role="list" aria-label="What would change">
          <label class="line head"><input type="checkbox" :checked="allOn" :disabled="busy" aria-label="All of these" @change="choose(lines.map(({ id }) => id), !allOn)" /> <span class="quiet">{{ allOn ? 'none of these' : 'all of these' }}</span></label>
          <div :style="{ height: `${virtual.getTotalSize()}px`, position: 'relative' }">
            <label v-for="item in virtual.getVirtualItems()" :key="String(item.key)" class="line" :class="{ marked: lines[item.index]?.id === marked }" role="listitem" data-test="cut-line" :style="{ position: 'absolute', top: 0, left: 0, right: 0, height: '30px', transform: `translateY(${item.start}px)` }">
              <template v-if="lines[item.index]">
                <input type="checkbox" :checked="chosen.has(lines[item.index]!.id)" :disabled="busy" @change="choose([lines[item.index]!.id], !chosen.has(lines[item.index]!.id))" />
                <span class="kind" :class="kindOfLine(lines[item.index]!)">{{ KIND_WORDS[kindOfLine(lines[item.index]!)] }}</span>
                <b class="subject" :title="lineSubject(lines[item.index]!, plan, film.outline)">{{ lineSubject(lines[item.index]!, plan, film.outline) }}</b>
                <span class="words" :title="lineWords(lines[item.index]!, plan, film.outline)">{{ lineWords(lines[item.index]!, plan, film.outline) }}</span>
              </template>
            </label>
          </div>
        </div>
      </template>
    </template>
    <div v-if="busy" role="status">
      <ProgressBar :value="Math.round(share * 100)" :show-value="false" style="height: 8px" aria-label="Progress" />
      <p class="quiet">{{ state === 'loading' ? 'Keeping a version, and fetching the shots that are cut into…' : 'Taking the lines…' }}</p>
    </div>
    <div class="actions">
      <button v-if="!busy" type="button" class="push-button" @click="emit('pick')">Another file…</button>
      <span class="grow quiet">{{ plan !== null && plan.lines.length > 0 && state !== 'taken' ? 'A version is kept first. What is dropped goes to the tray.' : '' }}</span>
      <button v-if="busy" type="button" class="push-button" @click="stop">Cancel</button>
      <template v-else>
        <button type="button" class="push-button" @click="visible = false">{{ state === 'taken' || plan?.lines.length === 0 ? 'Close' : 'Leave it' }}</button>
        <button v-if="plan !== null && plan.lines.length > 0" type="button" class="push-button strong" :disabled="chosen.size === 0" @click="take">{{ chosen.size === plan.lines.length ? 'Take all of it' : `Take ${chosen.size} of ${plan.lines.length}` }}</button>
      </template>
    </div>
  </Dialog>
</template>

<style scoped>
p {
  margin: 0 0 6px;
}
.filters {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 6px;
  margin: 8px 0 6px;
}
.grow {
  flex: 1;
}
.lines {
  height: min(340px, 40vh);
  overflow-y: auto;
  border: 1px solid var(--rule);
  border-radius: 6px;
}
.line {
  display: grid;
  grid-template-columns: 18px 116px 150px 1fr;
  align-items: center;
  gap: 8px;
  padding: 0 10px;
  border-bottom: 1px solid var(--paper-2);
}
.line.head {
  position: sticky;
  z-index: 1;
  top: 0;
  grid-template-columns: 18px 1fr;
  min-height: 26px;
  background: var(--paper-1);
}
.marked {
  background: var(--blue-wash);
}
.subject,
.words {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.kind {
  padding-left: 7px;
  border-left: 3px solid var(--rule);
  color: var(--ink-2);
}
.kind.longer {
  border-color: var(--sea);
}
.kind.shorter {
  border-color: var(--ochre);
}
.kind.moved {
  border-color: var(--blue);
}
.kind.dropped {
  border-color: var(--vermilion);
}
.kind.new,
.kind.returned {
  border-color: var(--plum);
}
.actions {
  display: flex;
  align-items: center;
  gap: 8px;
  margin-top: 12px;
}
.failed,
.done {
  padding: 8px 10px;
  border-left: 3px solid var(--vermilion);
  background: var(--vermilion-wash);
}
.done {
  border-color: var(--sea);
  background: var(--paper-1);
}
</style>

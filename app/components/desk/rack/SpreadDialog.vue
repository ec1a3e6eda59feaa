<script setup lang="ts">
import { compareOrdered, type SeenLevels } from '@rubato/core/document'
import { spreadLevels } from '@rubato/core/edits'
import { computed, reactive, ref, shallowRef, watch } from 'vue'
import { useDeskStore } from '~/stores/desk'
import NumberField from '~/components/fields/NumberField.vue'
import type { Gesture } from '~/stores/editing'
import { useFilmStore } from '~/stores/film'

/** Spread: many levels get depths in one step, the picture kept; seen live before it is taken. */
const visible = defineModel<boolean>('visible', { required: true })
const film = useFilmStore()
const desk = useDeskStore()
const form = reactive({ near: -0.5, far: 6, rule: 'ratio' as 'ratio' | 'even' })
const chosen = ref<readonly string[]>([])
let gesture: Gesture | null = null

/** How they stood when the dialog opened: its own trial moves them. */
const stood = shallowRef<SeenLevels | null>(null)
const depthOf = (id: string) => desk.placeOf(id).depth

const levels = computed(() => [...desk.levels].sort((a, b) => depthOf(a.id) - depthOf(b.id) || compareOrdered(a, b)))
watch(visible, (now) => {
  if (now) {
    stood.value = desk.stage?.seen(desk.shotFrame, desk.pose ?? undefined) ?? null
    const free = levels.value.filter((level) => !level.locked)
    chosen.value = free.map((level) => level.id)
    form.near = free[0] === undefined ? 0 : depthOf(free[0].id)
    form.far = Math.max(form.near + 0.5, free.length === 0 ? 6 : depthOf(free.at(-1)!.id))
    gesture = film.beginGesture('spread levels')
  } else {
    gesture?.abandon()
    gesture = null
  }
})
watch(
  [form, chosen],
  () => {
    const [takeId, seen] = [desk.takeId, stood.value]
    if (gesture === null || takeId === null || seen === null || chosen.value.length === 0) return
    gesture.update((f) => spreadLevels(f.takes[takeId]!, takeId, chosen.value, form.near, form.far, form.rule, seen))
  },
  { deep: true },
)
function take() {
  gesture?.commit()
  gesture = null
  visible.value = false
}
</script>

<template>
  <Dialog v-model:visible="visible" modal header="Spread levels" position="left" :style="{ width: '300px' }" :pt="{ mask: { style: 'background: transparent; animation: none' } }">
    <p class="quiet">The lens view stays as it is; only the depths change.</p>
    <ul>
      <li v-for="level in levels" :key="level.id">
        <label><input v-model="chosen" type="checkbox" :value="level.id" :disabled="level.locked" /> {{ level.name }} <span v-if="level.locked" class="quiet">locked</span></label>
        <span class="mono quiet">{{ depthOf(level.id).toFixed(2) }}</span>
      </li>
    </ul>
    <div class="ends">
      <NumberField label="near" unit="fw" :model-value="form.near" :step="0.05" @set="(v) => (form.near = v)" @scrub="(v) => (form.near = v)" />
      <NumberField label="far" unit="fw" :model-value="form.far" :step="0.05" @set="(v) => (form.far = v)" @scrub="(v) => (form.far = v)" />
    </div>
    <div class="rules" role="group" aria-label="Steps">
      <button class="push-button" :aria-pressed="form.rule === 'ratio'" title="Each distance from the lens is the same factor of the one before" @click="form.rule = 'ratio'">Equal ratio</button>
      <button class="push-button" :aria-pressed="form.rule === 'even'" title="Equal steps of depth" @click="form.rule = 'even'">Even steps</button>
    </div>
    <div class="actions">
      <button class="push-button" @click="visible = false">Cancel</button>
      <button class="push-button strong" :disabled="chosen.length === 0" @click="take">Spread</button>
    </div>
  </Dialog>
</template>

<style scoped src="../dialog.css"></style>
<style scoped>
ul {
  max-height: 240px;
  margin: 0 0 10px;
  padding: 0;
  overflow: auto;
  list-style: none;
}
li {
  display: flex;
  justify-content: space-between;
  min-height: 24px;
}
.ends > * {
  flex: 1;
}
</style>

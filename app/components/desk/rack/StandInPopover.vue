<script setup lang="ts">
import { FIGURE_POSES, FIGURE_VIEWS, flatArt, STAND_IN_TONES, standInArt } from '@rubato/core/ink'
import { computed, useTemplateRef } from 'vue'
import ChoiceRow from '~/components/fields/ChoiceRow.vue'
import NumberField from '~/components/fields/NumberField.vue'
import { useStandIns } from '~/composables/levels/useStandIns'
import { useDeskStore } from '~/stores/desk'
import { STAND_IN_SIZES, useStandInsStore } from '~/stores/standIns'

/** Something that stands in for what is not drawn yet: what, how large, and how a figure is seen. */
const desk = useDeskStore()
const { choice } = useStandInsStore()
const standIns = useStandIns()
const panel = useTemplateRef<{ toggle(event: Event): void; show(event: Event, target?: EventTarget | null): void; hide(): void }>('panel')
defineExpose({ toggle: (event: Event) => panel.value?.toggle(event), show: (target: EventTarget | null) => panel.value?.show(new Event('click'), target) })

const KINDS = [
  { id: 'figure', name: 'Figure', title: 'A jointed figure, so many heads tall' },
  { id: 'box', name: 'Box', title: 'Six flat sides' },
  { id: 'cylinder', name: 'Cylinder', title: 'Upright, turned to the lens' },
  { id: 'doorway', name: 'Doorway', title: 'A frame to go through' },
  { id: 'car', name: 'Car', title: 'A block as large as a car' },
  { id: 'grid', name: 'Ground', title: 'Squares on the ground' },
] as const
const VIEWS = FIGURE_VIEWS.map((id) => ({ id, name: id === 'three-quarter' ? '¾' : id, title: `Seen from the ${id === 'three-quarter' ? 'front and the side' : id}`, label: id }))
const POSES = FIGURE_POSES.map((id) => ({ id, name: id, title: `The figure ${id === 'standing' ? 'stands' : id === 'walking' ? 'walks' : id === 'running' ? 'runs' : 'sits'}` }))
const size = computed(() => choice.sizes[choice.kind])

/** What it will look like, before it is put. */
const seen = computed(() => {
  const shape = standIns.shape.value
  const { width, height, length } = size.value
  const areas = shape !== null ? standInArt(shape) : flatArt(choice.kind === 'car' ? length : width, height, STAND_IN_TONES.body, STAND_IN_TONES.edge)
  const points = areas.flatMap(({ outlines }) => outlines).flat()
  const [xs, ys] = [points.filter((_, i) => i % 2 === 0), points.filter((_, i) => i % 2 === 1)]
  const [left, right, bottom, top] = [Math.min(...xs), Math.max(...xs), Math.min(...ys), Math.max(...ys)]
  const pad = Math.max(right - left, top - bottom) * 0.06
  const path = (outline: readonly number[]) => `M${outline.map((value, i) => (i % 2 === 0 ? value.toFixed(5) : (-value).toFixed(5))).join(' ')}Z`
  return { box: `${left - pad} ${-top - pad} ${right - left + 2 * pad} ${top - bottom + 2 * pad}`, areas: areas.map(({ outlines, colour }) => ({ d: outlines.map(path).join(''), colour })) }
})
const done = (worked: boolean) => worked && panel.value?.hide()
</script>

<template>
  <Popover ref="panel">
    <form class="stand-in" aria-label="Stand-in" @submit.prevent @keydown.esc.stop="panel?.hide()">
      <ChoiceRow label="What stands in" :choices="KINDS" :model-value="choice.kind" fill @update:model-value="(id) => (choice.kind = id)" />
      <div class="both">
        <svg :viewBox="seen.box" role="img" :aria-label="`The ${choice.kind} as it will be`"><path v-for="(area, i) in seen.areas" :key="i" :d="area.d" :fill="area.colour" fill-rule="evenodd" /></svg>
        <div class="numbers">
          <NumberField v-for="[field, label] in STAND_IN_SIZES[choice.kind]" :key="field" :label="label" unit="m" :model-value="size[field]" :step="0.05" :min="0.01" :max="1000" @set="(value) => (size[field] = value)" @scrub="(value) => (size[field] = value)" />
          <NumberField v-if="choice.kind === 'figure'" label="heads" :model-value="choice.heads" :step="0.5" :min="2" :max="9" :decimals="1" title="How many times its head goes into it: a child five, a grown person seven" @set="(value) => (choice.heads = value)" @scrub="(value) => (choice.heads = value)" />
        </div>
      </div>
      <template v-if="choice.kind === 'figure'">
        <ChoiceRow label="Seen from" :choices="VIEWS" :model-value="choice.view" fill @update:model-value="(id) => (choice.view = id)" />
        <ChoiceRow label="Pose" :choices="POSES" :model-value="choice.pose" fill @update:model-value="(id) => (choice.pose = id)" />
      </template>
      <p class="quiet">{{ standIns.isDeclared.value ? `A frame width is ${Number(standIns.metres.value.toPrecision(3))} m.` : `A frame width is taken for ${standIns.metres.value} m. Say how tall the selected level is, and all is to that scale.` }}</p>
      <div v-if="standIns.tall.value !== null" class="scale">
        <NumberField :label="`${desk.selectedLevel?.name ?? ''} is`" unit="m tall" :model-value="standIns.tall.value * standIns.metres.value" :step="0.05" :min="0.001" :max="100000" :decimals="2" title="Declares the scale of all sets of the film by this level" @set="standIns.declare" />
      </div>
      <div class="ends">
        <button type="button" class="push-button" @click="panel?.hide()">Cancel</button>
        <button v-if="standIns.chosen.value !== null && standIns.shape.value !== null" type="button" class="push-button" :disabled="standIns.chosen.value.locked" :title="`From this frame on ${standIns.chosen.value.name} shows this`" @click="done(standIns.change())">Change {{ standIns.chosen.value.name }} here</button>
        <button type="button" class="push-button strong" @click="done(standIns.put())">Put it</button>
      </div>
    </form>
  </Popover>
</template>

<style scoped>
.stand-in {
  display: grid;
  gap: 8px;
  width: 372px;
}
.both {
  display: flex;
  gap: 10px;
}
svg {
  width: 150px;
  height: 150px;
  border: 1px solid var(--rule);
  border-radius: 6px;
  background: var(--sheet);
}
.numbers {
  display: grid;
  flex: 1;
  gap: 6px;
  align-content: start;
}
.ends {
  display: flex;
  justify-content: flex-end;
  gap: 6px;
}
p {
  margin: 0;
}
</style>

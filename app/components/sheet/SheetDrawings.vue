<script setup lang="ts">
import { exposuresOf, namedDrawings, placedPanels, shownAt, takeLengthFrames, type Level } from '@rubato/core/document'
import { computed } from 'vue'
import DrawingThumb from '~/components/desk/rack/DrawingThumb.vue'
import RenamedText from '~/components/levels/RenamedText.vue'
import { useExposures } from '~/composables/draw/useExposures'
import { X } from '~/icons'
import { useDeskStore } from '~/stores/desk'
import { useSheetStore } from '~/stores/sheet'

/** The drawings of the selected level, with pictures: exposed from here, renamed, looked for. */
const props = defineProps<{ level: Level }>()
const desk = useDeskStore()
const sheet = useSheetStore()
const exposures = useExposures()

const frame = computed(() => sheet.span?.from ?? desk.read.frame)
const here = computed(() => (desk.take === null ? null : (shownAt(desk.take, props.level.id, frame.value)?.drawingId ?? null)))
const drawings = computed(() => {
  const { take } = desk
  if (take === null) return []
  const times = new Map<string, number>()
  for (const { cell } of exposuresOf(take, props.level.id)) if (cell.drawingId !== null) times.set(cell.drawingId, (times.get(cell.drawingId) ?? 0) + 1)
  return namedDrawings(take, props.level.id).map((each) => ({ ...each, times: times.get(each.drawingId) ?? 0 }))
})
/** Where a level only holds on, past the panel that its last exposure stands in. */
const holds = computed(() => {
  const { take } = desk
  const last = take === null ? undefined : exposuresOf(take, props.level.id).at(-1)
  if (take === null || last === undefined || last.cell.drawingId === null) return null
  const panel = placedPanels(take).find((each) => each.panel.id === last.cell.panelId)!
  const end = panel.startFrame + panel.panel.lengthFrames
  return end >= takeLengthFrames(take) ? null : `Holds ${drawings.value.find((each) => each.drawingId === last.cell.drawingId)?.name} past panel ${panel.index + 1}, from f ${end}.`
})
/** To the next frame that shows it, from the first again after the last. */
function show(drawingId: string) {
  const frames = exposuresOf(desk.take!, props.level.id).flatMap(({ frame: at, cell }) => (cell.drawingId === drawingId ? [at] : []))
  const next = frames.find((at) => at > frame.value) ?? frames[0]
  if (next === undefined) return
  sheet.span = { from: next, to: next + 1, cursor: next }
  desk.goTo((desk.placedShot?.startFrame ?? 0) + next)
}
const timesText = (times: number) => (times === 0 ? 'not shown' : times === 1 ? 'once' : `${times} times`)
</script>

<template>
  <aside class="drawings" :aria-label="`Drawings of ${level.name}`">
    <h3>{{ level.name }}’s drawings <span class="quiet">{{ drawings.length }}</span></h3>
    <div class="list">
      <div v-for="each in drawings" :key="each.drawingId" class="card" :class="{ here: each.drawingId === here }" :data-drawing="each.name">
        <button class="picture" :title="`Drawing ${each.name}, ${timesText(each.times)}: go to where it is shown next`" :aria-label="`Drawing ${each.name}, ${timesText(each.times)}`" @click="show(each.drawingId)"><DrawingThumb :drawing-id="each.drawingId" :width="84" :height="54" /></button>
        <span class="foot">
          <RenamedText :text="each.name" title="" label="Name of the drawing" @rename="(name) => exposures.rename(level, each.drawingId, name)" />
          <span class="quiet">{{ each.times === 0 ? 'not shown' : `${each.times} ×` }}</span>
          <button v-if="each.times === 0" class="mini" :title="`Take drawing ${each.name} out of ${level.name}`" :aria-label="`Take drawing ${each.name} out`" :disabled="level.locked" @click="exposures.drop(level, each.drawingId)"><X :size="12" /></button>
          <button class="put" :disabled="level.locked || each.drawingId === here" :title="`Expose drawing ${each.name} over what is chosen (or type ${each.name} and Enter)`" @click="exposures.expose(each.drawingId)">here</button>
        </span>
      </div>
    </div>
    <p v-if="drawings.length === 0" class="quiet">No drawing yet.</p>
    <div class="new">
      <button class="push-button" :disabled="level.locked" title="A new drawing at the first chosen frame (I)" @click="exposures.newHere">New here</button>
      <button class="push-button" :disabled="level.locked || here === null" title="A copy of what is shown there, to be changed (Shift I)" @click="exposures.copyHere">Copy of {{ drawings.find((each) => each.drawingId === here)?.name ?? 'it' }}</button>
    </div>
    <p v-if="holds" class="quiet" data-test="sheet-holds">{{ holds }}</p>
  </aside>
</template>

<style scoped src="../levels/mini.css"></style>
<style scoped>
.drawings {
  flex: none;
  width: 216px;
  padding: 8px 10px;
  overflow: hidden auto;
  border-left: 1px solid var(--rule);
  background: var(--paper-0);
}
h3 {
  margin: 0 0 8px;
  overflow: hidden;
  font-size: 13px;
  font-weight: 650;
  text-overflow: ellipsis;
  white-space: nowrap;
}
h3 .quiet {
  font-weight: 400;
}
.list {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 8px;
}
.card {
  min-width: 0;
  border: 1px solid var(--rule);
  border-radius: 5px;
  overflow: hidden;
  background: var(--sheet);
}
.card.here {
  border-color: var(--blue);
  box-shadow: 0 0 0 1px var(--blue);
}
.picture {
  display: block;
  width: 100%;
  padding: 3px;
  border: 0;
  background: #ffffff;
  cursor: pointer;
}
.foot {
  display: flex;
  align-items: center;
  gap: 4px;
  height: 24px;
  padding: 0 5px;
  font-size: 11px;
}
.foot > :first-child {
  flex: none;
  max-width: 34px;
  font-size: 12px;
}
.foot .quiet {
  flex: 1;
  overflow: hidden;
  white-space: nowrap;
}
.put {
  padding: 0 4px;
  border: 0;
  background: none;
  color: var(--blue);
  font: inherit;
  cursor: pointer;
}
.put:disabled {
  visibility: hidden;
}
.new {
  display: flex;
  flex-wrap: wrap;
  gap: 5px;
  margin-top: 10px;
}
</style>

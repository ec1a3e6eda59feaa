<script setup lang="ts">
import { inOrder, setsIn } from '@rubato/core/document'
import { computed, ref, useTemplateRef } from 'vue'
import { useSets } from '~/composables/levels/useSets'
import { useDeskStore } from '~/stores/desk'
import { useFilmStore } from '~/stores/film'
import { useSetsStore } from '~/stores/sets'

/** A set of the chosen levels, or one of the film's put into this shot. */
const film = useFilmStore()
const desk = useDeskStore()
const store = useSetsStore()
const sets = useSets()
const panel = useTemplateRef<{ toggle(event: Event): void; show(event: Event, target?: EventTarget | null): void; hide(): void }>('panel')
const busy = ref<string | null>(null)
function opened() {
  void store.count()
}
defineExpose({ toggle: (event: Event) => panel.value?.toggle(event), show: (target: EventTarget | null) => panel.value?.show(new Event('click'), target) })

const all = computed(() => inOrder(film.outline.sets))
const here = computed(() => new Set(desk.take === null ? [] : setsIn(desk.take).map(({ setId }) => setId)))
const chosen = computed(() => desk.chosenLevelIds.length)
function make() {
  panel.value?.hide()
  sets.make()
}
async function put(id: string) {
  busy.value = id
  const done = await sets.put(id)
  busy.value = null
  if (done) panel.value?.hide()
}
function toPage() {
  panel.value?.hide()
  desk.view = 'sets'
}
const shots = (id: string) => ((count) => (count === 0 ? 'in no shot yet' : count === 1 ? 'in 1 shot' : `in ${count} shots`))(store.shotsOf(id).length)
</script>

<template>
  <Popover ref="panel" @show="opened">
    <div class="sets" role="group" aria-label="Sets" @keydown.esc.stop="panel?.hide()">
      <button type="button" class="push-button strong" :disabled="chosen === 0" :title="chosen === 0 ? 'Choose the levels first (Ctrl for several)' : 'They go together under one name, and can stand in other shots too (Alt Shift U)'" @click="make">{{ chosen === 0 ? 'Make a set: choose levels first' : `Make a set of ${chosen === 1 ? (desk.selectedLevel?.name ?? 'the level') : `the ${chosen} chosen levels`}` }}</button>
      <p v-if="all.length === 0" class="quiet">No sets yet. Levels that stand in several shots are drawn once, as a set, and changed once for all of them.</p>
      <template v-else>
        <h4>Put into this shot</h4>
        <ul>
          <li v-for="set in all" :key="set.id">
            <span class="name" :title="set.name">{{ set.name }}</span>
            <span class="quiet">{{ here.has(set.id) ? 'here' : shots(set.id) }}</span>
            <button type="button" class="push-button" :disabled="busy !== null || desk.openedSet !== null" :title="desk.openedSet ? 'Close the set that is open first' : here.has(set.id) ? `Puts ${set.name} in once more` : `Puts ${set.name} in, where it stands in its other shots`" :aria-label="`Put ${set.name} into this shot`" @click="put(set.id)">{{ busy === set.id ? 'Loading…' : 'Put' }}</button>
          </li>
        </ul>
      </template>
      <button type="button" class="chip page" title="Every set, seen around and from above, with the cameras of its shots (Alt 0)" @click="toPage">All sets</button>
    </div>
  </Popover>
</template>

<style scoped>
.sets {
  display: grid;
  grid-template-columns: minmax(0, 1fr);
  gap: 8px;
  width: 300px;
}
h4,
p {
  margin: 0;
}
ul {
  display: grid;
  grid-template-columns: minmax(0, 1fr);
  gap: 3px;
  max-height: 260px;
  margin: 0;
  padding: 0;
  overflow: auto;
  list-style: none;
}
li {
  display: flex;
  align-items: center;
  gap: 8px;
}
.name {
  flex: 1;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.quiet,
li .push-button {
  flex: none;
}
.page {
  justify-self: start;
}
</style>

<script setup lang="ts">
import { inOrder, isInFilm, type Shot } from '@rubato/core/document'
import { removeShots, untrayShots } from '@rubato/core/edits'
import { secondsOfFrames } from '@rubato/core/time'
import { computed, ref } from 'vue'
import WorkPicture from '~/components/breakdown/WorkPicture.vue'
import { ArrowUp, Trash2 } from '~/icons'
import { useShots } from '~/composables/boards/useShots'
import { useFilmStore } from '~/stores/film'

/** Shots that are kept aside: in no frame of the film, and as they were when they are put back. */
const film = useFilmStore()
const { look } = useShots()
const open = ref(true)
const shots = computed(() => inOrder(film.outline.shots).filter((shot) => !isInFilm(shot)))
const readOnly = computed(() => film.lookingAt !== null)
const length = (shot: Shot) => (film.project === null ? '' : `${secondsOfFrames(film.lengthOfTake(shot.circledTakeId), film.project.rate).toFixed(1)} s`)
const back = (list: readonly Shot[]) => film.perform(list.length === 1 ? `put shot ${list[0]!.label} back` : `put ${list.length} shots back`, (f) => untrayShots(f.outline, film.project!.id, list.map(({ id }) => id)))
async function remove(shot: Shot) {
  if (await look([shot.id])) film.perform(`delete shot ${shot.label}`, (f) => removeShots(f.outline, film.project!.id, [shot.id]))
}
</script>

<template>
  <section v-if="shots.length > 0" aria-label="Tray of shots" data-test="shot-tray">
    <h2>
      <button class="head" :aria-expanded="open" title="Shots that are kept aside. They are in no frame of the film." @click="open = !open">Tray <span class="quiet">{{ shots.length }}</span></button>
      <button v-if="!readOnly && shots.length > 1" class="link" title="All of them, where they were" @click="back(shots)">all back</button>
    </h2>
    <ul v-if="open">
      <li v-for="shot in shots" :key="shot.id" data-test="tray-shot">
        <WorkPicture :take-id="shot.circledTakeId" :width="48" />
        <span class="name" :title="`${shot.label} ${shot.title}`"><b class="mono">{{ shot.label }}</b> {{ shot.title }}<span class="quiet mono">{{ length(shot) }}</span></span>
        <template v-if="!readOnly">
          <button class="icon-button small" :aria-label="`Put shot ${shot.label} back`" title="Back into the film, where it was" @click="back([shot])"><ArrowUp :size="14" /></button>
          <button class="icon-button small" :aria-label="`Delete shot ${shot.label}`" title="Delete; undo brings it back" @click="remove(shot)"><Trash2 :size="14" /></button>
        </template>
      </li>
    </ul>
  </section>
</template>

<style scoped>
section {
  margin-top: 14px;
}
h2 {
  display: flex;
  align-items: center;
  justify-content: space-between;
  min-height: 28px;
  margin: 0;
  padding: 0 4px;
  color: var(--ink-2);
  font-size: 12px;
  font-weight: 500;
}
.head,
.link {
  min-height: 24px;
  padding: 0;
  border: 0;
  background: none;
  color: inherit;
  font: inherit;
  cursor: pointer;
}
.link {
  color: var(--blue);
}
ul {
  margin: 0;
  padding: 0;
  list-style: none;
}
li {
  display: flex;
  align-items: center;
  gap: 6px;
  padding: 3px 4px;
}
.name {
  flex: 1;
  min-width: 0;
  overflow: hidden;
  font-size: 12px;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.name .quiet {
  display: block;
}
</style>

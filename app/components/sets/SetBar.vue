<script setup lang="ts">
import { pieceOf } from '@rubato/core/document'
import { computed } from 'vue'
import { X } from '~/icons'
import SetMark from '~/components/sets/SetMark.vue'
import { useSets } from '~/composables/levels/useSets'
import { useDeskStore } from '~/stores/desk'
import { useFilmStore } from '~/stores/film'
import { useSetsStore } from '~/stores/sets'

/** While a set is open: which, who else sees what is changed in it, and what a shot can have for itself instead. */
const desk = useDeskStore()
const film = useFilmStore()
const store = useSetsStore()
const sets = useSets()
const MOST_NAMED = 8

const others = computed(() => (desk.openedSet === null ? [] : store.shotsOf(desk.openedSet.setId).filter(({ placed }) => placed.shot.circledTakeId !== desk.takeId).map(({ placed }) => placed.shot)))
/** Takes that are not circled. */
const aside = computed(() => {
  if (desk.openedSet === null) return 0
  const circled = new Set(film.filmStage.shots.map(({ shot }) => shot.circledTakeId))
  return [...store.usersOf(desk.openedSet.setId)].filter((id) => !circled.has(id)).length
})
const pieces = computed(() => desk.chosenLevelIds.flatMap((id) => pieceOf(id)?.pieceId ?? []))
const allHidden = computed(() => pieces.value.length > 0 && pieces.value.every((id) => desk.openedSet?.hidden?.includes(id) === true))
const many = computed(() => (pieces.value.length === 1 ? (desk.selectedLevel?.name ?? 'the piece') : `${pieces.value.length} pieces`))
</script>

<template>
  <div v-if="desk.openedSet" class="set-bar" role="status" data-test="set-bar">
    <SetMark />
    <span class="name">In the set <b>{{ store.openedName }}</b></span>
    <span v-if="film.lookingAt" class="quiet">as it was in the version, to look at</span>
    <span v-else-if="store.trouble" class="wrong" :title="store.trouble">Which other shots stand in it could not be asked for. <button class="chip" @click="store.count()">Ask again</button></span>
    <span v-else-if="others.length === 0 && aside === 0" class="quiet">only this shot stands in it</span>
    <span v-else class="users">
      what is changed here shows in
      <template v-if="others.length > 0">{{ others.length === 1 ? 'shot' : `${others.length} other shots:` }} <button v-for="shot in others.slice(0, MOST_NAMED)" :key="shot.id" class="chip" :title="`Go to shot ${shot.label} ${shot.title}`" @click="desk.goToShot(shot.id)">{{ shot.label }}</button><template v-if="others.length > MOST_NAMED"> and {{ others.length - MOST_NAMED }} more</template></template>
      <template v-if="aside > 0">{{ others.length > 0 ? ' and in ' : '' }}{{ aside === 1 ? 'a take that is not circled' : `${aside} takes that are not circled` }}</template>
    </span>
    <span class="grow" />
    <button class="push-button" :disabled="pieces.length === 0" :title="pieces.length === 0 ? 'Choose a piece first' : `Copies ${many} out in place: changed here, no other shot sees it`" @click="sets.own()">This shot’s own</button>
    <button class="push-button" :disabled="pieces.length === 0" :title="pieces.length === 0 ? 'Choose a piece first' : `${allHidden ? 'Shows' : 'Hides'} ${many} in this shot alone`" @click="sets.hide(pieces, !allHidden)">{{ allHidden ? 'Show here' : 'Hide here' }}</button>
    <button class="push-button strong" title="Back to the shot: the set is one level again (Alt Shift P)" data-test="set-close" @click="sets.close()"><X :size="13" /> Close the set</button>
  </div>
</template>

<style scoped>
.set-bar {
  display: flex;
  flex: none;
  align-items: center;
  gap: 8px;
  min-height: 34px;
  padding: 2px 10px;
  border-bottom: 1px solid var(--rule);
  background: var(--blue-wash);
  color: var(--ink);
}
.name {
  max-width: 32%;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.users {
  min-width: 0;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.users .chip {
  margin-left: 4px;
}
.wrong {
  color: var(--vermilion-text);
}
.grow {
  flex: 1;
}
.push-button {
  display: inline-flex;
  flex: none;
  align-items: center;
  gap: 4px;
}
</style>

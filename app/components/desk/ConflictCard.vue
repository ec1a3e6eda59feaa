<script setup lang="ts">
import { computed, onBeforeUnmount, ref, watch } from 'vue'
import type { Gesture } from '~/stores/editing'
import { useFilmStore } from '~/stores/film'
import { wordClashes } from '~/text/clashes'

/** Where two changes of the same thing met, both sides are shown on the Desk itself, and one is kept. */
const film = useFilmStore()
const conflict = computed(() => film.conflicts[0] ?? null)
const side = ref<'theirs' | 'mine'>('theirs')
const lines = computed(() => (conflict.value === null ? [] : wordClashes(film.film, conflict.value.clashes)))
const them = computed(() => conflict.value?.author || 'Someone')
let trial: Gesture | null = null

function show(which: 'theirs' | 'mine') {
  if (which === side.value || conflict.value === null) return
  if (which === 'theirs') {
    const open = trial
    trial = null
    open?.abandon()
  } else {
    const tried = film.tryMine(conflict.value)
    if (!tried.changed) return tried.abandon()
    trial = tried
  }
  side.value = which
}

function keepShown() {
  const id = conflict.value?.id
  const open = trial
  trial = null
  open?.commit()
  side.value = 'theirs'
  if (id !== undefined) film.dropConflict(id)
}

// Going on working on what is shown keeps it.
watch(
  () => film.gestureOpen,
  (open) => {
    if (!open && trial !== null) keepShown()
  },
)
onBeforeUnmount(() => trial?.abandon())
</script>

<template>
  <aside v-if="conflict" class="card" role="alertdialog" aria-label="Two changes met" data-test="conflict">
    <h2>Two changes met</h2>
    <p>
      {{ them }} changed the same thing while your “{{ conflict.change.label }}” was on its way. Look at both, then keep one.
      <template v-if="film.conflicts.length > 1">{{ film.conflicts.length - 1 }} more after this.</template>
    </p>
    <ul>
      <li v-for="(line, i) in lines.slice(0, 4)" :key="i"><b>{{ line.what }}</b><span>yours: {{ line.mine }}</span><span>theirs: {{ line.theirs }}</span></li>
      <li v-if="lines.length > 4">and {{ lines.length - 4 }} more</li>
    </ul>
    <footer>
      <div class="sides" role="group" aria-label="Shown on the Desk">
        <button class="push-button" :class="{ on: side === 'theirs' }" :aria-pressed="side === 'theirs'" title="Show the film with their change" @click="show('theirs')">Theirs</button>
        <button class="push-button" :class="{ on: side === 'mine' }" :aria-pressed="side === 'mine'" title="Show the film with your change" @click="show('mine')">Yours</button>
      </div>
      <button class="push-button strong" @click="keepShown">Keep {{ side === 'mine' ? 'yours' : 'theirs' }}</button>
    </footer>
  </aside>
</template>

<style scoped>
.card {
  position: fixed;
  z-index: 30;
  right: 24px;
  bottom: 24px;
  width: 340px;
  padding: 14px 16px;
  border: 1px solid var(--vermilion);
  border-radius: 8px;
  background: var(--paper-0);
  box-shadow: 0 8px 30px rgb(0 0 0 / 25%);
}
h2 {
  margin: 0 0 6px;
  font-size: 15px;
}
p {
  margin: 0 0 8px;
  line-height: 1.4;
}
ul {
  display: grid;
  gap: 6px;
  margin: 0 0 10px;
  padding: 0;
  list-style: none;
}
li {
  display: grid;
  grid-template-columns: 1fr 1fr;
  column-gap: 8px;
  overflow-wrap: anywhere;
}
li b {
  grid-column: 1 / -1;
}
li span {
  color: var(--ink-2);
}
footer {
  display: flex;
  justify-content: space-between;
}
.sides {
  display: flex;
  gap: 4px;
}
</style>

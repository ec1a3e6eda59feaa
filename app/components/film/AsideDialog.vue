<script setup lang="ts">
import { computed } from 'vue'
import { useFilmStore } from '~/stores/film'
import type { SetAside } from '~/stores/kept'
import { fileTitle, saveFile } from '~/composables/handover/useWordsOut'

/** What the server would not take: with why, and what can be done with it. Nothing of it goes unless the artist says so. */
const visible = defineModel<boolean>('visible', { required: true })
const film = useFilmStore()
const when = (each: SetAside) => new Date(each.at).toLocaleString('en', { day: 'numeric', month: 'short', hour: '2-digit', minute: '2-digit', hour12: false })
const rows = computed(() => film.aside.map((each) => ({ each, first: each.changes[0]!.label, more: each.changes.slice(1).map((change) => change.label) })))
function saveOne(each: SetAside) {
  const content = JSON.stringify({ format: 'rubato-changes', version: 1, film: film.projectId, why: each.why, changes: each.changes }, null, 1)
  saveFile(`${fileTitle(film.project?.title ?? '')} set aside ${new Date(each.at).toISOString().slice(0, 10)}.json`, new Blob([content], { type: 'application/json' }))
}
</script>

<template>
  <Dialog v-model:visible="visible" modal header="Set aside" :style="{ width: '560px' }" data-test="aside">
    <p v-if="rows.length === 0" class="quiet">Nothing is set aside. What the server can’t keep would be here, with the reason, until you decide.</p>
    <p v-else class="quiet">The server could not keep these. They are not in the film, but in this browser until you decide. All else was saved.</p>
    <ul>
      <li v-for="{ each, first, more } in rows" :key="each.id">
        <h4>{{ first }} <span class="quiet">{{ when(each) }}</span></h4>
        <p class="wrong">{{ each.why }}</p>
        <p v-if="more.length > 0" class="quiet">With what was built on it: {{ more.slice(0, 6).join(', ') }}{{ more.length > 6 ? ` and ${more.length - 6} more` : '' }}.</p>
        <div class="row">
          <button class="push-button" title="Do it again on the film as it is now" @click="film.tryAside(each.id)">Try again</button>
          <button class="push-button" title="Save it as a JSON file" @click="saveOne(each)">Save as a file</button>
          <button class="push-button" title="Let it go for good; a file that you saved stays" @click="film.dropAside(each.id)">Throw away</button>
        </div>
      </li>
    </ul>
    <div class="actions"><button class="push-button strong" autofocus @click="visible = false">Close</button></div>
  </Dialog>
</template>

<style scoped src="../desk/dialog.css"></style>
<style scoped>
ul {
  margin: 0 0 12px;
  padding: 0;
  list-style: none;
  max-height: 46vh;
  overflow: auto;
}
li {
  padding: 10px 0;
  border-top: 1px solid var(--rule);
}
h4 {
  margin: 0 0 4px;
}
p {
  margin: 0 0 6px;
  overflow-wrap: anywhere;
}
.row {
  display: flex;
  gap: 6px;
}
</style>

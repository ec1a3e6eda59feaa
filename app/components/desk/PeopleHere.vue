<script setup lang="ts">
import { shorten } from '@rubato/core/document'
import { computed, ref } from 'vue'
import type { Present } from '#shared/live'
import { useFilmStore } from '~/stores/film'
import { useDeskStore } from '~/stores/desk'

/** Who else has this film open, and on which shot. A click goes there. */
const film = useFilmStore()
const desk = useDeskStore()
const panel = ref<{ toggle(event: Event): void; hide(): void } | null>(null)
const draft = ref('')
const SHOWN = 3

const nameOf = ({ name }: Present) => name || 'Someone'
const labelOf = ({ shotId }: Present) => (shotId === null ? null : (film.film.outline.shots[shotId]?.label ?? null))
const shown = computed(() => film.here.slice(0, SHOWN))
const initials = computed(() => (film.artist === '' ? '?' : film.artist.split(/\s+/).map((word) => [...word][0] ?? '').slice(0, 2).join('').toUpperCase()))

function open(event: Event) {
  draft.value = film.artist
  panel.value?.toggle(event)
}
function save() {
  film.artist = shorten(draft.value.trim(), 60)
  film.moved()
  panel.value?.hide()
}
</script>

<template>
  <div class="people">
    <button v-for="person in shown" :key="person.session" class="chip other" :disabled="person.shotId === null" :title="labelOf(person) === null ? `${nameOf(person)} has this film open` : `${nameOf(person)} is on shot ${labelOf(person)}. Go there`" data-test="person" @click="person.shotId && desk.goToShot(person.shotId)">
      <span class="name">{{ nameOf(person) }}</span><template v-if="labelOf(person) !== null"> · {{ labelOf(person) }}</template>
    </button>
    <span v-if="film.here.length > SHOWN" class="quiet" :title="film.here.slice(SHOWN).map(nameOf).join(', ')">+{{ film.here.length - SHOWN }}</span>
    <button class="me" :title="film.artist === '' ? 'Say who you are, so that others see your name' : `You are ${film.artist}`" :aria-label="film.artist === '' ? 'Your name' : `Your name: ${film.artist}`" @click="open">{{ initials }}</button>
    <Popover ref="panel">
      <form class="naming" @submit.prevent="save">
        <label for="artist-name">Your name, as others on this film see it</label>
        <div>
          <InputText id="artist-name" v-model="draft" maxlength="60" size="small" autofocus />
          <button class="push-button strong" type="submit">Keep</button>
        </div>
      </form>
    </Popover>
  </div>
</template>

<style scoped>
.people {
  display: flex;
  align-items: center;
  gap: 4px;
  min-width: 0;
}
.other {
  display: flex;
  max-width: 150px;
  border: 0;
  font: inherit;
  font-size: 11.5px;
  white-space: pre;
  cursor: pointer;
}
.name {
  overflow: hidden;
  text-overflow: ellipsis;
}
.me {
  width: 26px;
  height: 26px;
  padding: 0;
  border: 1px solid var(--rule);
  border-radius: 50%;
  background: var(--paper-1);
  color: var(--ink-2);
  font: inherit;
  font-size: 11px;
  font-weight: 600;
  cursor: pointer;
}
.naming {
  display: grid;
  gap: 8px;
}
.naming div {
  display: flex;
  gap: 6px;
}
</style>

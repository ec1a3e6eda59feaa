<script setup lang="ts">
import { X } from '~/icons'
import { useSound } from '~/composables/sound/useSound'
import { useFilmStore } from '~/stores/film'
import { useSoundStore } from '~/stores/sound'
import { removeClips } from '@rubato/core/edits'

/** Clips whose shot has been taken out. They are kept, and can be tied to another. */
const film = useFilmStore()
const sound = useSoundStore()
const { fromTray } = useSound()
const drop = (id: string) => film.perform('delete clip from the tray', (f) => removeClips(f.outline, film.project!.id, [id]))
</script>

<template>
  <section class="tray" aria-label="Tray of clips" @keydown.stop>
    <header><b>Tray</b> <span class="quiet">clips whose shot is gone</span><button class="icon-button" aria-label="Close the tray" title="Close" @click="sound.trayOpen = false"><X :size="14" /></button></header>
    <ul>
      <li v-for="clip in sound.placed.tray" :key="clip.id" data-test="tray-clip">
        <span class="what" :title="clip.line || clip.name"><b>{{ clip.speaker || clip.name }}</b> <i v-if="clip.line">“{{ clip.line }}”</i></span>
        <span class="mono quiet">{{ clip.lengthSeconds.toFixed(1) }} s</span>
        <button class="push-button" title="Tied to the shot under the playhead, beginning there" @click="fromTray(clip.id)">Here</button>
        <button class="push-button" title="Out of the film; undo brings it back" @click="drop(clip.id)">Delete</button>
      </li>
    </ul>
    <p v-if="sound.placed.tray.length === 0" class="quiet">Nothing waits here.</p>
  </section>
</template>

<style scoped>
.tray {
  position: absolute;
  z-index: 8;
  bottom: 30px;
  left: 8px;
  width: 420px;
  max-height: 210px;
  overflow-y: auto;
  border: 1px solid var(--rule);
  border-radius: 8px;
  background: var(--paper-0);
  box-shadow: 0 6px 18px rgb(39 36 30 / 0.18);
}
header {
  display: flex;
  align-items: center;
  gap: 8px;
  padding: 4px 6px 4px 12px;
}
header .icon-button {
  margin-left: auto;
}
ul {
  margin: 0;
  padding: 0;
  list-style: none;
}
li {
  display: flex;
  align-items: center;
  gap: 8px;
  padding: 3px 12px;
  border-top: 1px solid var(--rule);
}
.what {
  flex: 1;
  min-width: 0;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.what i {
  font-family: var(--serif);
}
p {
  margin: 0;
  padding: 4px 12px 10px;
}
</style>

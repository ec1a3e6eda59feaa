<script setup lang="ts">
import { computed, ref } from 'vue'
import { useFittedFrame } from '~/composables/view/useFittedFrame'
import { useTakePicture } from '~/composables/view/useTakePicture'
import { useDeskStore } from '~/stores/desk'
import { useFilmStore } from '~/stores/film'
import { useTakesStore } from '~/stores/takes'

/** Another take of the shot under the same playhead, beside the lens view or in a second window. */
const film = useFilmStore()
const desk = useDeskStore()
const takes = useTakesStore()
const around = ref<HTMLElement | null>(null)
const host = ref<HTMLElement | null>(null)
const { size, box } = useFittedFrame(around)
const { problem, shown } = useTakePicture(host, () => takes.other?.id ?? null, box)
const rest = computed(() => takes.takes.filter(({ id }) => id !== desk.takeId))
/** What is to be known where the takes are not as long as each other. */
const ended = computed(() => {
  const stage = takes.other === null ? null : film.stageOf(takes.other.id)
  return stage !== null && desk.shotFrame >= stage.lengthFrames ? `It ended at frame ${stage.lengthFrames}` : null
})
</script>

<template>
  <section ref="around" class="around" aria-label="Another take" data-test="other-take">
    <p v-if="takes.other === null" class="empty">This shot has one take. <button v-if="takes.circled && film.lookingAt === null" class="push-button" title="A copy of it, to be changed; the film shows the new one (Alt Shift C)" @click="takes.newFrom(takes.circled)">New take from this</button></p>
    <div v-show="takes.other !== null" ref="host" class="picture-host" :data-take="takes.other?.letter" :data-shown="shown !== null" :style="{ width: `${size.width}px`, height: `${size.height}px` }" />
    <p v-if="takes.other" class="which" role="group" aria-label="Which take">
      <button v-for="take in rest" :key="take.id" class="chip" :aria-pressed="take.id === takes.other.id" :title="`Compare with ${takes.nameOf(take)}`" @click="takes.compareWith(take.id)">{{ take.letter }}<template v-if="take.id === takes.other.id && take.name">&ensp;{{ take.name }}</template></button>
      <span v-if="ended" class="chip" role="status">{{ ended }}</span>
    </p>
    <p v-if="problem" class="chip wrong">{{ problem }}</p>
  </section>
</template>

<style scoped>
.around {
  position: relative;
  display: grid;
  place-items: center;
  height: 100%;
  overflow: hidden;
  background: var(--surround);
}
.empty {
  margin: 0;
  color: #fcfaf5;
  text-align: center;
}
.picture-host {
  position: relative;
  overflow: hidden;
}
.picture-host :deep(.picture) {
  position: absolute;
  inset: 0;
  width: 100%;
  height: 100%;
}
.which {
  position: absolute;
  bottom: 4px;
  left: 4px;
  display: flex;
  gap: 3px;
  max-width: calc(100% - 8px);
  margin: 0;
}
.which .chip {
  min-width: 0;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
</style>

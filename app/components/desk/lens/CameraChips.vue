<script setup lang="ts">
import { computed, ref } from 'vue'
import { Plus } from '~/icons'
import { liveCutting, useCameras } from '~/composables/camera/useCameras'
import { useDeskStore } from '~/stores/desk'

/** The shot's cameras: which is worked on, which is live, and what is done with them. */
const desk = useDeskStore()
const cameras = useCameras()
const menu = ref<{ toggle: (event: Event) => void } | null>(null)
const words = (id: string) => [id === desk.cameraAtWorkId ? 'at work' : '', id === desk.liveCameraId ? 'live' : ''].filter(Boolean).join(' · ')
const titleOf = (id: string, letter: string) =>
  id === desk.cameraAtWorkId ? (id === desk.liveCameraId ? `Camera ${letter} is live here, and the one that is worked on` : `You look through camera ${letter}; the film sees ${cameras.letterOf(desk.liveCameraId)} here`) : `Look through camera ${letter} (Alt D: the next)`
const items = computed(() => {
  const at = desk.cameraAtWork
  const others = cameras.cameras.value.filter(({ id }) => id !== at?.id)
  return [
    { label: 'New camera from here', command: cameras.addHere },
    ...(cameras.many.value
      ? [
          { label: 'Go to the live camera', disabled: !desk.isLookingAside, command: () => desk.lookThrough(null) },
          { label: `Cut to camera ${at?.letter} here`, disabled: !desk.isLookingAside, command: () => at !== null && cameras.cutHere(at.id) },
          ...others.map((camera) => ({ label: `Copy this framing to camera ${camera.letter}`, disabled: camera.locked, command: () => cameras.copyFramingTo(camera) })),
          { label: 'Live cut…', command: cameras.beginLive },
          { separator: true },
          { label: `Delete camera ${at?.letter}`, disabled: at?.locked === true, command: () => at !== null && cameras.remove(at) },
        ]
      : []),
  ]
})
</script>

<template>
  <span class="cameras" role="group" aria-label="Cameras" data-test="cameras">
    <template v-if="cameras.many.value">
      <button v-for="(camera, i) in cameras.cameras.value" :key="camera.id" class="chip" :class="{ blue: camera.id === desk.cameraAtWorkId }" :aria-pressed="camera.id === desk.cameraAtWorkId" :title="titleOf(camera.id, camera.letter)" :disabled="desk.playing && liveCutting === null" @click="liveCutting ? cameras.press(i + 1) : desk.lookThrough(camera.id === desk.liveCameraId ? null : camera.id)">
        <b>{{ camera.letter }}</b><small v-if="words(camera.id)">{{ ` ${words(camera.id)}` }}</small>
      </button>
    </template>
    <button class="icon-button small" title="Cameras: a new one from here, cut to one, live cut, delete" aria-label="Cameras" aria-haspopup="menu" @click="(event) => menu?.toggle(event)"><Plus :size="13" /></button>
    <Menu ref="menu" :model="items" popup />
  </span>
</template>

<style scoped>
.cameras {
  display: flex;
  flex: none;
  align-items: center;
  gap: 3px;
}
.chip {
  padding: 0 7px;
}
small {
  font-size: 11px;
}
</style>

<script setup lang="ts">
import { useElementSize } from '@vueuse/core'
import { computed, ref } from 'vue'
import WallPicture from '~/components/desk/set/WallPicture.vue'
import { liveCutting, useCameras } from '~/composables/camera/useCameras'
import { useDeskStore } from '~/stores/desk'
import { useFilmStore } from '~/stores/film'

/** The shot's cameras side by side, playing, to cut by eye. */
const film = useFilmStore()
const desk = useDeskStore()
const { cameras, many, addHere, press } = useCameras()
const wall = ref<HTMLElement | null>(null)
const { width, height } = useElementSize(wall)

/** As many as can be told apart; the rest are looked through one by one. */
const MOST = 6
const shown = computed(() => cameras.value.slice(0, MOST))
/** As many columns as make the pictures largest. */
const columns = computed(() => {
  const [n, aspect] = [shown.value.length, film.optics?.aspect ?? 16 / 9]
  let best = { columns: 1, size: 0 }
  for (let each = 1; each <= n; each++) {
    const size = Math.min(width.value / each, (height.value / Math.ceil(n / each)) * aspect)
    if (size > best.size) best = { columns: each, size }
  }
  return best.columns
})
function choose(index: number) {
  if (liveCutting.value !== null) return press(index + 1)
  const { id } = shown.value[index]!
  if (!desk.playing) desk.lookThrough(id === desk.liveCameraId ? null : id)
}
const liveNow = computed(() => (desk.playing ? desk.cameraAtWorkId : desk.liveCameraId))
</script>

<template>
  <section ref="wall" class="wall" aria-label="All cameras" data-test="wall" :style="{ gridTemplateColumns: `repeat(${columns}, 1fr)` }">
    <p v-if="!many" class="empty">This shot has one camera. <button class="push-button" title="Where the camera stands now (Alt Shift N)" @click="addHere()">New camera from here</button></p>
    <template v-else>
      <button v-for="(camera, i) in shown" :key="camera.id" class="of" :class="{ live: camera.id === liveNow, work: camera.id === desk.cameraAtWorkId }" :title="liveCutting ? `Cut to camera ${camera.letter} (${i + 1})` : `Look through camera ${camera.letter}`" :aria-label="`Camera ${camera.letter}${camera.id === liveNow ? ', live' : ''}`" @click="choose(i)">
        <WallPicture :camera-id="camera.id" />
        <span class="tag"><b>{{ camera.letter }}</b><template v-if="camera.id === liveNow"> live</template><small v-if="liveCutting"> {{ i + 1 }}</small></span>
      </button>
    </template>
  </section>
</template>

<style scoped>
.wall {
  display: grid;
  grid-auto-rows: minmax(0, 1fr);
  gap: 4px;
  height: 100%;
  padding: 4px;
  background: var(--surround);
}
.empty {
  align-self: center;
  margin: 0;
  color: #fcfaf5;
  text-align: center;
}
.of {
  position: relative;
  min-width: 0;
  min-height: 0;
  padding: 0;
  border: 2px solid transparent;
  background: none;
  cursor: pointer;
}
.of.work {
  border: 2px dashed var(--blue);
}
.of.live {
  border: 2px solid #fcfaf5;
}
.tag {
  position: absolute;
  bottom: 4px;
  left: 4px;
  padding: 0 6px;
  border-radius: 4px;
  background: var(--paper-0);
  color: var(--ink);
  font-size: 12px;
}
</style>

<script setup lang="ts">
import { computed, reactive, watch } from 'vue'
import { cameraDialog } from '~/composables/camera/useCameraCommands'
import { useCameraMoves } from '~/composables/camera/useCameraMoves'
import { useLevelMoves } from '~/composables/levels/useLevelMoves'
import { useDeskStore } from '~/stores/desk'
import type { Gesture } from '~/stores/editing'
import { useFilmStore } from '~/stores/film'

/** A copied move put into this shot: as it was, reversed, mirrored, to length. Seen before it is taken. */
const film = useFilmStore()
const desk = useDeskStore()
const camera = useCameraMoves()
const levels = useLevelMoves()
/** With a level in hand its own move is pasted, else the camera's. */
const atLevel = computed(() => desk.tool === 'level' && desk.selectedLevel !== null)
const copied = computed(() => (atLevel.value ? desk.copiedLevelMove : desk.copiedMove))
const visible = computed({ get: () => cameraDialog.value === 'paste', set: (now) => !now && (cameraDialog.value = null) })
const choices = reactive({ reversed: false, mirrored: false, toLength: false })
let gesture: Gesture | null = null
let fits = true

const told = computed(() => {
  if (!visible.value) return null
  const framings = atLevel.value ? null : camera.pasted(choices)
  const found = atLevel.value ? levels.pasted(choices) : framings === null ? null : { count: framings.length, frames: (framings.at(-1)?.frame ?? 0) + 1 }
  if (found === null) return null
  const room = (desk.placedShot?.lengthFrames ?? 0) - desk.shotFrame
  return { count: found.count, frames: found.frames, room, fits: found.frames <= room }
})
watch(visible, (now) => {
  if (!now) {
    gesture?.abandon()
    gesture = null
    return
  }
  if (copied.value === null) {
    film.refuse(atLevel.value ? 'No level’s move has been copied yet. Copy one first (Alt C, with the level in hand).' : 'No move has been copied yet. Copy one in the shot that has it first (Alt C).')
    visible.value = false
    return
  }
  choices.toLength = false
  choices.toLength = told.value?.fits === false
  gesture = film.beginGesture(atLevel.value ? `paste move on ${desk.selectedLevel!.name}` : 'paste move')
  tryIt()
})
watch(choices, tryIt)
function tryIt() {
  if (gesture === null) return
  // Told in the dialog, where it can be mended.
  fits = told.value?.fits === true
  if (fits) fits = gesture.update((atLevel.value ? levels : camera).pasteMake(choices, desk.shotFrame))
}
function take() {
  if (fits) {
    gesture?.commit()
    desk.trial = null
    desk.levelTrial = null
  } else gesture?.abandon()
  gesture = null
  visible.value = false
}
</script>

<template>
  <Dialog v-model:visible="visible" modal header="Paste the move" position="left" :style="{ width: '300px' }" :pt="{ mask: { style: 'background: transparent; animation: none' } }">
    <p v-if="copied" class="quiet">From {{ atLevel ? copied.from : `shot ${copied.from}` }}<template v-if="atLevel && desk.selectedLevel">, onto {{ desk.selectedLevel.name }}</template>; it begins at frame {{ desk.shotFrame }}, where the playhead stands.</p>
    <label><input v-model="choices.reversed" type="checkbox" /> reversed: from its end to its beginning</label>
    <label><input v-model="choices.mirrored" type="checkbox" /> mirrored: left and right changed about</label>
    <label><input v-model="choices.toLength" type="checkbox" /> scaled, to end with this shot</label>
    <p v-if="told" :class="told.fits ? 'quiet' : 'wrong'" role="status">{{ told.count }} {{ atLevel ? 'keys' : 'framings' }} in {{ told.frames }} frames<template v-if="!told.fits">; from here the shot has {{ told.room }}. Scale it, or begin earlier.</template></p>
    <p v-else class="wrong" role="status">The shot has too few frames left for so many {{ atLevel ? 'keys' : 'framings' }}. Begin earlier.</p>
    <div class="actions">
      <button class="push-button" @click="visible = false">Cancel</button>
      <button class="push-button strong" :disabled="!told?.fits" @click="take">Paste</button>
    </div>
  </Dialog>
</template>

<style scoped src="../dialog.css"></style>
<style scoped>
label {
  display: flex;
  gap: 6px;
  min-height: 26px;
}
</style>

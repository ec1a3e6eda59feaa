<script setup lang="ts">
import { settleRoom } from '@rubato/core/edits'
import { computed } from 'vue'
import MoveFields, { type ShownMove } from '~/components/desk/inspector/MoveFields.vue'
import { useDeskStore } from '~/stores/desk'
import { movesNamed } from '~/text/cameraWords'
import { moveName } from '~/text/moves'

/** The camera's move that the playhead is in. */
const desk = useDeskStore()
const move = computed<ShownMove | null>(() => {
  const here = desk.moveHere
  if (here === null) return null
  const [{ framing }, { framing: next }] = [here.from, here.to]
  const frames = here.to.frame - here.from.frame
  return {
    keys: [framing],
    title: `Move ${here.index + 1} → ${here.index + 2}`,
    // What is followed meanwhile is not the move's doing.
    name: desk.stage === null || desk.cameraAtWorkId === null ? moveName(framing.pose, next.pose, framing.move, frames) : (movesNamed(desk.stage, desk.cameraAtWorkId)[here.index]?.name ?? ''),
    frames,
    room: desk.take === null ? 0 : settleRoom(desk.take, framing.id),
    inner: here.index > 0,
    places: [framing.pose, next.pose],
    onScreen: true,
    what: 'framing',
  }
})
</script>

<template>
  <MoveFields v-if="move" :move="move" />
</template>

<script setup lang="ts">
import { compareOrdered, type Level } from '@rubato/core/document'
import { LEVEL_ASPECTS } from '@rubato/core/moves'
import { useElementSize } from '@vueuse/core'
import { computed, ref, shallowRef, useTemplateRef } from 'vue'
import { ImagePlus, Link, Plus, Unlink } from '~/icons'
import RackLadder from '~/components/desk/rack/RackLadder.vue'
import RackRow from '~/components/desk/rack/RackRow.vue'
import { ladderOf, NEAREST_FW, signedDepth, type LiveDepth, type ShownRow } from '~/components/desk/rack/ladder'
import { useLevels } from '~/composables/levels/useLevels'
import { usePlacePicture } from '~/composables/levels/usePlacePicture'
import { useDeskStore } from '~/stores/desk'
import { useTimingStore } from '~/stores/timing'
import { motionWords } from '~/text/moves'

const emit = defineEmits<{ spread: [] }>()
const desk = useDeskStore()
const timing = useTimingStore()
const { choosePicture } = usePlacePicture()
const levels = useLevels()

const body = ref<HTMLElement | null>(null)
const { height } = useElementSize(body)
const named = useTemplateRef<(InstanceType<typeof RackRow> | null)[]>('named')
const liveDepth = shallowRef<LiveDepth | null>(null)
const menu = ref<{ toggle: (event: Event) => void } | null>(null)

const ROW_PX = 46
const lensDepth = computed(() => desk.read.pose?.depth ?? 0)
const nearFirst = computed(() => [...desk.levels].map((level) => ({ level, depth: desk.placeOf(level.id).depth })).sort((a, b) => a.depth - b.depth || compareOrdered(a.level, b.level)))
const listHeight = computed(() => Math.max(height.value - 8, nearFirst.value.length * ROW_PX + 24))
const ladder = computed(() => ladderOf(nearFirst.value.map(({ depth }) => depth - lensDepth.value), 26, listHeight.value - 30))
const rows = computed(() =>
  nearFirst.value.map(({ level, depth }, i): ShownRow => {
    const distance = depth - lensDepth.value
    return {
      level,
      depth,
      motion: motionWords(level, desk.stage !== null && LEVEL_ASPECTS.some((aspect) => desk.stage!.motionOf(level.id).keys[aspect].length > 0)),
      top: 12 + i * ROW_PX,
      rung: ladder.value.y(Math.max(NEAREST_FW, distance)),
      behind: distance < NEAREST_FW,
      holding: levels.holdingOf(level),
    }
  }),
)

const menuItems = computed(() => {
  const level = desk.selectedLevel
  if (level === null) return []
  const equals = desk.levels.filter((other) => desk.placeOf(other.id).depth === desk.placeOf(level.id).depth)
  return [
    { label: 'Rename', command: () => void named.value?.find((row) => row?.id() === level.id)?.rename() },
    { label: 'Duplicate', command: () => levels.duplicate(level) },
    { label: 'Show alone', command: () => levels.solo([level.id]) },
    { label: timing.isMuted(desk.takeId, level.id) ? 'Show it in playback again' : 'Leave it out of playback', command: () => desk.takeId !== null && timing.toggleMuted(desk.takeId, level.id) },
    { label: 'Place a picture on it…', command: () => choosePicture(level.id) },
    { label: 'Nearer among equals', disabled: equals[0] === level, command: () => levels.move(level, -1) },
    { label: 'Farther among equals', disabled: equals.at(-1) === level, command: () => levels.move(level, 1) },
    { separator: true },
    { label: 'Delete', command: () => levels.remove(level) },
  ]
})

function openMenu(event: Event, level: Level) {
  desk.selectedLevelId = level.id
  menu.value?.toggle(event)
}
</script>

<template>
  <section class="rack" aria-label="Depth rack">
    <header>
      <b>Depth rack</b><span class="quiet what">distance from lens, fw</span>
      <button class="icon-button small" title="New level (Shift L)" aria-label="New level" @click="levels.add"><Plus :size="15" /></button>
      <button class="icon-button small" title="Place pictures, each on a new level" aria-label="Place pictures on new levels" @click="choosePicture(null)"><ImagePlus :size="15" /></button>
    </header>
    <div ref="body" class="body">
      <div class="ladder-area" :style="{ height: `${listHeight}px` }">
        <RackLadder :rows="rows" :ladder="ladder" :height-px="listHeight" @depth="(told) => (liveDepth = told)" />
        <RackRow v-for="row in rows" :key="row.level.id" ref="named" :row="row" :told="liveDepth?.id === row.level.id ? signedDepth(liveDepth.depth, 3) : null" @menu="openMenu($event, row.level)" />
        <p v-if="rows.length === 0" class="empty">No levels yet. Add one to draw on, or drop a picture on the lens view.</p>
      </div>
    </div>
    <footer>
      <button class="push-button keep" :aria-pressed="desk.keepPicture" :title="desk.keepPicture ? 'A level that changes depth is scaled about the lens, so the picture stays (Shift P)' : 'A level that changes depth grows or shrinks (Shift P)'" @click="desk.keepPicture = !desk.keepPicture">
        <Link v-if="desk.keepPicture" :size="14" /><Unlink v-else :size="14" /> Keep the picture
      </button>
      <button class="push-button" title="Give all unlocked levels depths in one step" @click="emit('spread')">Spread…</button>
    </footer>
    <Menu ref="menu" :model="menuItems" popup />
  </section>
</template>

<style scoped>
.rack {
  display: flex;
  flex-direction: column;
  height: 100%;
  min-width: 0;
  background: var(--paper-1);
}
header {
  display: flex;
  align-items: center;
  gap: 8px;
  height: 36px;
  padding: 0 6px 0 10px;
  white-space: nowrap;
}
.what {
  flex: 1;
  overflow: hidden;
  text-overflow: ellipsis;
}
.body {
  flex: 1;
  min-height: 0;
  overflow: hidden auto;
}
.ladder-area {
  position: relative;
}
.empty {
  margin: 40px 14px 0 60px;
  color: var(--ink-2);
}
footer {
  display: flex;
  gap: 5px;
  padding: 7px 8px;
  border-top: 1px solid var(--rule);
}
footer .keep {
  flex: 1;
  padding: 3px 6px;
}
footer .push-button {
  padding: 3px 8px;
}
</style>

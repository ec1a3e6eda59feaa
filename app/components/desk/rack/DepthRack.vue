<script setup lang="ts">
import { compareOrdered, type Level } from '@rubato/core/document'
import { LEVEL_ASPECTS } from '@rubato/core/moves'
import { useElementSize } from '@vueuse/core'
import { dropTargetForElements } from '@atlaskit/pragmatic-drag-and-drop/element/adapter'
import { computed, onBeforeUnmount, onMounted, ref, shallowRef, useTemplateRef } from 'vue'
import { ImagePlus, Link, Plus, Unlink } from '~/icons'
import RackLadder from '~/components/desk/rack/RackLadder.vue'
import RackRow from '~/components/desk/rack/RackRow.vue'
import { ladderOf, NEAREST_FW, rackOrder, signedDepth, type LiveDepth, type ShownRow } from '~/components/desk/rack/ladder'
import { useFastening } from '~/composables/levels/useFastening'
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
const fastening = useFastening()

const body = ref<HTMLElement | null>(null)
const { height } = useElementSize(body)
const named = useTemplateRef<(InstanceType<typeof RackRow> | null)[]>('named')
const liveDepth = shallowRef<LiveDepth | null>(null)
const menu = ref<{ toggle: (event: Event) => void } | null>(null)
const carrierMenu = ref<{ show: (event: Event) => void } | null>(null)

const ROW_PX = 46
const MOST_INDENT = 3
const lensDepth = computed(() => desk.read.pose?.depth ?? 0)
const nearFirst = computed(() => [...desk.levels].map((level) => ({ level, depth: desk.placeOf(level.id).depth })).sort((a, b) => a.depth - b.depth || compareOrdered(a.level, b.level)))
const listHeight = computed(() => Math.max(height.value - 8, nearFirst.value.length * ROW_PX + 24))
const ordered = computed(() => rackOrder(nearFirst.value))
const ladder = computed(() => ladderOf(nearFirst.value.map(({ depth }) => depth - lensDepth.value), 26, listHeight.value - 30))
const topOf = (index: number) => 12 + index * ROW_PX
const rows = computed(() =>
  ordered.value.map(({ of: { level, depth }, indent, on }, i): ShownRow => {
    const distance = depth - lensDepth.value
    return {
      hangs: on !== null ? `on ${on.level.name}` : level.carrier?.kind === 'camera' ? 'with camera' : '',
      indent: Math.min(MOST_INDENT, indent),
      carrierTop: on === null ? null : topOf(ordered.value.findIndex((each) => each.of === on)),
      level,
      depth,
      motion: motionWords(level, desk.stage !== null && LEVEL_ASPECTS.some((aspect) => desk.stage!.motionOf(level.id).keys[aspect].length > 0)),
      top: topOf(i),
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
    { label: 'Fasten to…', disabled: level.locked || fastening.carriersFor(desk.chosenLevelIds).length === 0, command: () => void openCarriers() },
    { label: 'Travels with the camera', disabled: level.locked || level.carrier?.kind === 'camera', command: () => fastening.fasten(desk.chosenLevelIds, { kind: 'camera' }) },
    { label: 'Let go', disabled: level.locked || level.carrier === undefined, command: () => fastening.fasten(desk.chosenLevelIds, null) },
    { label: 'Carry these together', command: () => fastening.together() },
    { separator: true },
    { label: 'Delete', command: () => levels.remove(level) },
  ]
})

// A row dropped on another's rung is fastened to that one; on empty paper it is let go.
const area = useTemplateRef('area')
let detach = () => {}
onMounted(() => {
  detach = dropTargetForElements({
    element: area.value!,
    canDrop: ({ source }) => Array.isArray(source.data.levels),
    onDrop: ({ source, location: { current } }) => {
      const ids = source.data.levels as string[]
      if (current.dropTargets[0]?.element !== area.value) return
      const rung = document.elementsFromPoint(current.input.clientX, current.input.clientY).find((each) => each instanceof HTMLElement && each.dataset.rung !== undefined)
      const on = rung instanceof HTMLElement ? rung.dataset.rung! : null
      if (on !== null && !ids.includes(on)) fastening.fastenTo(ids, on)
      else if (on === null && ids.some((id) => desk.take?.levels[id]?.carrier !== undefined)) fastening.fasten(ids, null)
    },
  })
})
onBeforeUnmount(() => detach())

let menuAt: EventTarget | null = null
function openMenu(event: Event, level: Level) {
  if (!desk.chosenLevelIds.includes(level.id)) desk.chooseLevel(level.id)
  else desk.selectedLevelId = level.id
  menuAt = event.currentTarget
  menu.value?.toggle(event)
}
const carriers = computed(() => fastening.carriersFor(desk.chosenLevelIds).map((each) => ({ label: each.name, command: () => fastening.fastenTo(desk.chosenLevelIds, each.id) })))
/** The menu it was asked from closes first, and takes the next with it. */
async function openCarriers() {
  await new Promise((done) => setTimeout(done, 60))
  if (menuAt !== null) carrierMenu.value?.show({ currentTarget: menuAt, target: menuAt } as unknown as Event)
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
      <div ref="area" class="ladder-area" :style="{ height: `${listHeight}px` }">
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
    <Menu ref="carrierMenu" class="carriers" :model="carriers" popup aria-label="Fasten to" />
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

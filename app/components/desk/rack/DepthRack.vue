<script setup lang="ts">
import { compareOrdered } from '@rubato/core/document'
import type { Level } from '@rubato/core/document'
import { setLevelDepth } from '@rubato/core/edits'
import { useElementSize } from '@vueuse/core'
import { computed, nextTick, ref } from 'vue'
import { Ellipsis, Eye, EyeOff, ImagePlus, Link, Lock, LockOpen, Plus, Unlink } from '~/icons'
import DrawingThumb from '~/components/desk/rack/DrawingThumb.vue'
import { DEEPEST_FW, ladderOf, ladderTicks, NEAREST_FW } from '~/components/desk/rack/ladder'
import { useLevels } from '~/composables/levels/useLevels'
import { usePlacePicture } from '~/composables/levels/usePlacePicture'
import { followDrag } from '~/gestures/drag'
import { useDeskStore } from '~/stores/desk'
import { useTimingStore } from '~/stores/timing'
import { useFilmStore } from '~/stores/film'

const emit = defineEmits<{ spread: [] }>()
const film = useFilmStore()
const desk = useDeskStore()
const timing = useTimingStore()
const { choosePicture } = usePlacePicture()
const levels = useLevels()

const body = ref<HTMLElement | null>(null)
const { height } = useElementSize(body)
const renaming = ref<string | null>(null)
const liveDepth = ref<{ id: string; depth: number } | null>(null)
const menu = ref<{ toggle: (event: Event) => void } | null>(null)

const ROW_PX = 46
const lensDepth = computed(() => desk.read.pose?.depth ?? 0)
const nearFirst = computed(() => [...desk.levels].sort((a, b) => a.depth - b.depth || compareOrdered(a, b)))
const listHeight = computed(() => Math.max(height.value - 8, nearFirst.value.length * ROW_PX + 24))
const ladder = computed(() => ladderOf(nearFirst.value.map((level) => level.depth - lensDepth.value), 26, listHeight.value - 30))
const rows = computed(() =>
  nearFirst.value.map((level, i) => {
    const distance = level.depth - lensDepth.value
    return {
      level,
      top: 12 + i * ROW_PX,
      rung: ladder.value.y(Math.max(NEAREST_FW, distance)),
      behind: distance < NEAREST_FW,
      holding: levels.holdingOf(level),
    }
  }),
)

function depthText(level: Level): string {
  if (Math.abs(level.depth) < 0.0005) return 'picture plane'
  const sign = level.depth > 0 ? '+' : '−'
  return `${sign}${Math.abs(level.depth).toFixed(2)} fw`
}

const unit = () => desk.takeId!
const camera = () => (desk.keepPicture ? desk.pose : null)

function dragRung(down: PointerEvent, level: Level) {
  if (down.button !== 0 || desk.takeId === null) return
  down.stopPropagation()
  desk.selectedLevelId = level.id
  const id = unit()
  const pose = camera()
  const scale = ladder.value
  const from = lensDepth.value
  const startY = scale.y(Math.max(NEAREST_FW, level.depth - from))
  let gesture: ReturnType<typeof film.beginGesture> | null = null
  followDrag(down, {
    begin: () => (gesture = film.beginGesture(`depth of ${level.name}`)),
    move: ({ dy, event }) => {
      const fine = event.altKey ? 0.1 : 1
      const raw = from + Math.min(DEEPEST_FW, Math.max(NEAREST_FW, scale.distance(startY + dy * fine)))
      const depth = Math.abs(raw) < 0.02 ? 0 : Math.round(raw * 1000) / 1000
      if (gesture!.update((f) => setLevelDepth(f.takes[id]!, id, level.id, depth, pose))) liveDepth.value = { id: level.id, depth }
    },
    end: () => {
      gesture?.commit()
      liveDepth.value = null
    },
    cancel: () => {
      gesture?.abandon()
      liveDepth.value = null
    },
  })
}

function stepDepth(event: KeyboardEvent, level: Level) {
  if (event.key !== 'ArrowUp' && event.key !== 'ArrowDown') return
  event.preventDefault()
  const by = (event.key === 'ArrowDown' ? 1 : -1) * 0.05 * (event.shiftKey ? 10 : event.altKey ? 0.1 : 1)
  film.perform(`depth of ${level.name}`, (f) => setLevelDepth(f.takes[unit()]!, unit(), level.id, Number((level.depth + by).toFixed(6)), camera()), `depth:${level.id}`)
}

async function startRename(level: Level) {
  renaming.value = level.id
  await nextTick()
  const field = body.value?.querySelector<HTMLInputElement>('.rename')
  field?.focus()
  field?.select()
}

function finishRename(level: Level, event: Event) {
  renaming.value = null
  levels.rename(level, (event.target as HTMLInputElement).value)
}

const menuItems = computed(() => {
  const level = desk.selectedLevel
  if (level === null) return []
  const equals = desk.levels.filter((other) => other.depth === level.depth)
  return [
    { label: 'Rename', command: () => void startRename(level) },
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
        <svg class="ladder" :height="listHeight" width="100%" aria-hidden="true">
          <path class="lens-mark" d="M20 3h12v9l-6 6-6-6z" />
          <line class="rail" x1="26" x2="26" y1="20" :y2="listHeight - 14" />
          <g v-for="tick in ladderTicks(ladder)" :key="tick">
            <line class="tick" x1="21" x2="31" :y1="ladder.y(tick)" :y2="ladder.y(tick)" />
            <text class="mono tick-text" x="17" text-anchor="end" :y="ladder.y(tick) + 3.5">{{ String(tick).replace('0.', '.') }}</text>
          </g>
          <path
            v-for="row in rows"
            :key="row.level.id"
            class="thread"
            :class="{ selected: row.level.id === desk.selectedLevelId }"
            :d="`M32 ${row.rung} C 54 ${row.rung}, 48 ${row.top + 20}, 70 ${row.top + 20}`"
          />
        </svg>
        <button
          v-for="row in rows"
          :key="`rung-${row.level.id}`"
          class="rung"
          :class="{ selected: row.level.id === desk.selectedLevelId, behind: row.behind }"
          :style="{ top: `${row.rung - 12}px` }"
          :aria-label="`Depth of ${row.level.name}: ${depthText(row.level)}`"
          :title="`${row.level.name}: drag to change its depth`"
          @pointerdown="dragRung($event, row.level)"
          @keydown="stepDepth($event, row.level)"
        >
          <i />
        </button>
        <div
          v-for="row in rows"
          :key="row.level.id"
          class="row"
          :class="{ selected: row.level.id === desk.selectedLevelId, hidden: !row.level.visible }"
          :style="{ top: `${row.top}px` }"
          :data-level="row.level.id"
          @click="desk.chooseLevel(row.level.id, $event)"
          @contextmenu.prevent="openMenu($event, row.level)"
        >
          <DrawingThumb class="thumb" :drawing-id="row.holding.drawingId" :width="40" :height="26" />
          <div class="words">
            <input v-if="renaming === row.level.id" class="rename" :value="row.level.name" maxlength="120" aria-label="Name" @keydown.enter="finishRename(row.level, $event)" @keydown.esc.stop="renaming = null" @blur="renaming === row.level.id && finishRename(row.level, $event)" />
            <b v-else :title="`${row.level.name} — double-click to rename`" @dblclick="startRename(row.level)">{{ row.level.name }}</b>
            <span class="mono depth" :title="`${row.level.name}: ${row.holding.words}`"><i class="held" :class="{ own: row.holding.own, none: row.holding.drawingId === null }" role="img" :aria-label="row.holding.words" />{{ row.behind ? 'behind the lens' : liveDepth?.id === row.level.id ? `${liveDepth.depth >= 0 ? '+' : '−'}${Math.abs(liveDepth.depth).toFixed(3)} fw` : depthText(row.level) }}</span>
          </div>
          <div class="toggles">
            <button class="mini" :aria-label="`${row.level.visible ? 'Hide' : 'Show'} ${row.level.name}`" :title="row.level.visible ? 'Hide' : 'Show'" @click.stop="levels.toggle(row.level, 'visible')"><Eye v-if="row.level.visible" :size="13" /><EyeOff v-else :size="13" /></button>
            <button class="mini" :class="{ faint: !row.level.locked }" :aria-label="`${row.level.locked ? 'Unlock' : 'Lock'} ${row.level.name}`" :title="row.level.locked ? 'Unlock' : 'Lock'" @click.stop="levels.toggle(row.level, 'locked')"><Lock v-if="row.level.locked" :size="12" /><LockOpen v-else :size="12" /></button>
          </div>
          <i v-if="timing.isMuted(desk.takeId, row.level.id)" class="muted" :title="`${row.level.name} is left out while playing`" role="img" aria-label="Left out of playback">not played</i>
          <button class="mini more" :aria-label="`More for ${row.level.name}`" title="More" @click.stop="openMenu($event, row.level)"><Ellipsis :size="14" /></button>
        </div>
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
.ladder {
  position: absolute;
  inset: 0;
  pointer-events: none;
}
.lens-mark {
  fill: var(--ink);
}
.rail,
.tick {
  stroke: var(--rule);
}
.tick-text {
  fill: var(--ink-2);
  font-size: 9px;
}
.thread {
  fill: none;
  stroke: var(--rule);
}
.thread.selected {
  stroke: var(--blue);
  stroke-width: 2;
}
.rung {
  position: absolute;
  left: 14px;
  width: 28px;
  height: 24px;
  padding: 0;
  border: 0;
  background: none;
  cursor: ns-resize;
  touch-action: none;
}
.rung i {
  display: block;
  width: 13px;
  height: 7px;
  margin: 8px auto 0 5px;
  border-radius: 3px;
  background: var(--ink-2);
}
.rung.selected {
  z-index: 2;
}
.rung.selected i {
  width: 17px;
  background: var(--blue);
}
.rung.behind i {
  background: var(--vermilion);
}
.row {
  position: absolute;
  right: 5px;
  left: 70px;
  display: flex;
  align-items: center;
  gap: 5px;
  height: 42px;
  padding: 0 1px 0 5px;
  border: 1px solid transparent;
  border-radius: 6px;
  background: var(--paper-0);
}
.row.selected {
  border-color: var(--blue);
  box-shadow: 0 0 0 1px var(--blue);
}
.row.hidden .thumb,
.row.hidden .words {
  opacity: 0.45;
}
.thumb {
  flex: none;
  border: 1px solid var(--rule);
  border-radius: 3px;
}
.words {
  display: flex;
  flex: 1;
  flex-direction: column;
  min-width: 0;
}
.words b {
  overflow: hidden;
  font-weight: 600;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.depth {
  overflow: hidden;
  color: var(--ink-2);
  font-size: 10.5px;
  letter-spacing: -0.02em;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.held {
  display: inline-block;
  width: 7px;
  height: 7px;
  margin-right: 4px;
  border: 1px solid var(--ink-2);
  border-radius: 50%;
}
.muted {
  position: absolute;
  right: 26px;
  bottom: 2px;
  padding: 0 4px;
  border-radius: 3px;
  background: var(--paper-3);
  color: var(--ink);
  font-size: 10.5px;
  font-style: normal;
}
.held.own {
  background: var(--ink-2);
}
.held.none {
  border-style: dotted;
}
.rename {
  width: 100%;
  border: 1px solid var(--blue);
  border-radius: 3px;
  background: var(--sheet);
  color: var(--ink);
  font: inherit;
}
.toggles {
  display: flex;
  flex-direction: column;
}
.mini {
  display: grid;
  place-items: center;
  width: 24px;
  height: 20px;
  padding: 0;
  border: 0;
  border-radius: 4px;
  background: none;
  color: var(--ink-2);
  cursor: pointer;
}
.mini:hover {
  background: var(--paper-2);
}
.mini.faint {
  color: var(--ink-3);
  opacity: 0.55;
}
.more {
  display: none;
  position: absolute;
  right: 28px;
  top: 2px;
  background: var(--paper-0);
}
.row:hover .more,
.more:focus-visible {
  display: grid;
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

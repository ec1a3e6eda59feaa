<script setup lang="ts">
import { compareOrdered, pieceOf, showsNothing, type Level } from '@rubato/core/document'
import { LEVEL_ASPECTS } from '@rubato/core/moves'
import { useElementSize } from '@vueuse/core'
import { dropTargetForElements } from '@atlaskit/pragmatic-drag-and-drop/element/adapter'
import { computed, onBeforeUnmount, onMounted, ref, useTemplateRef } from 'vue'
import { CloudFog, ImagePlus, Link, PersonStanding, Plus, Unlink } from '~/icons'
import RackLadder from '~/components/desk/rack/RackLadder.vue'
import RackRow from '~/components/desk/rack/RackRow.vue'
import StandInPopover from '~/components/desk/rack/StandInPopover.vue'
import DistancePopover from '~/components/desk/rack/DistancePopover.vue'
import AirPanel from '~/components/desk/rack/AirPanel.vue'
import RackFold from '~/components/desk/rack/RackFold.vue'
import SetMark from '~/components/sets/SetMark.vue'
import SetPopover from '~/components/sets/SetPopover.vue'
import { useSets } from '~/composables/levels/useSets'
import { useSetsStore } from '~/stores/sets'
import SpreadPanel from '~/components/desk/rack/SpreadPanel.vue'
import { keptRows, ladderOf, NEAREST_FW, rackOrder, type FoldedRow, type Listed, type ShownRow } from '~/components/desk/rack/ladder'
import { offerCommands } from '~/commands/registry'
import { useStandIns } from '~/composables/levels/useStandIns'
import { useDepths } from '~/composables/levels/useDepths'
import { useFastening } from '~/composables/levels/useFastening'
import { useLevels } from '~/composables/levels/useLevels'
import { usePlacePicture } from '~/composables/levels/usePlacePicture'
import { useAirStore } from '~/stores/air'
import { useDeskStore } from '~/stores/desk'
import { useRackStore } from '~/stores/rack'
import { useSpreadStore } from '~/stores/spread'
import { useTimingStore } from '~/stores/timing'
import { motionWords } from '~/text/moves'

const desk = useDeskStore()
const timing = useTimingStore()
const { choosePicture } = usePlacePicture()
const levels = useLevels()
const fastening = useFastening()
const rack = useRackStore()
const spread = useSpreadStore()
const air = useAirStore()
const depths = useDepths()
const standIns = useStandIns()
const sets = useSets()
const setsStore = useSetsStore()

const body = ref<HTMLElement | null>(null)
const { height } = useElementSize(body)
const named = useTemplateRef<(InstanceType<typeof RackRow> | null)[]>('named')
const distance = useTemplateRef('distance')
const standIn = useTemplateRef('standIn')
const setPanel = useTemplateRef('setPanel')
const standInButton = useTemplateRef<HTMLElement>('standInButton')
const menu = ref<{ toggle: (event: Event) => void } | null>(null)
const carrierMenu = ref<{ show: (event: Event) => void } | null>(null)

const ROW_PX = 46
type Lying = { readonly level: Level; readonly depth: number }
const MOST_INDENT = 3
const lensDepth = computed(() => desk.read.pose?.depth ?? 0)
/** The same object while no level goes nearer or farther, though the camera does. */
const nearFirst = computed<readonly Lying[]>((before) => {
  const now = [...desk.levels].map((level) => ({ level, depth: desk.placeOf(level.id).depth })).sort((a, b) => a.depth - b.depth || compareOrdered(a.level, b.level))
  return before?.length === now.length && now.every(({ level, depth }, i) => level === before[i]!.level && depth === before[i]!.depth) ? before : now
})
const ordered = computed(() => rackOrder(nearFirst.value, rack.isFolded))
const listHeight = computed(() => Math.max(height.value - 8, ordered.value.length * ROW_PX + 24))
/** While levels are spread all of the ladder is in view, with both its ends. */
const ladderHeight = computed(() => (spread.open ? Math.min(listHeight.value, Math.max(120, height.value - 8)) : listHeight.value))
const reach = computed(() => (spread.open && spread.form.by === 'ends' ? [spread.form.near, spread.form.far] : []))
const ladder = computed(() => ladderOf([...nearFirst.value.map(({ depth }) => depth), ...reach.value].map((depth) => depth - lensDepth.value), 26, ladderHeight.value - 30))
const topOf = (index: number) => 12 + index * ROW_PX
const rungOf = (depth: number) => ladder.value.y(Math.max(NEAREST_FW, depth - lensDepth.value))
const isRow = (each: Listed<Lying>) => each.kind === 'level'
const rows = computed<readonly ShownRow[]>((before) =>
  keptRows(before, ordered.value.flatMap((each, i): ShownRow[] => {
    if (each.kind !== 'level') return []
    const { of: { level, depth }, indent, on } = each
    return [{
      hangs: on !== null ? `on ${on.level.name}` : level.carrier?.kind === 'camera' ? 'with camera' : level.carrier?.kind === 'level' ? `on ${desk.take?.levels[level.carrier.levelId]?.name ?? ''}` : '',
      indent: Math.min(MOST_INDENT, indent),
      carrierTop: on === null ? null : topOf(ordered.value.findIndex((other) => isRow(other) && other.of === on)),
      level,
      depth,
      motion: motionWords(level, desk.stage !== null && LEVEL_ASPECTS.some((aspect) => desk.stage!.motionOf(level.id).keys[aspect].length > 0)),
      top: topOf(i),
      rung: rungOf(depth),
      behind: depth - lensDepth.value < NEAREST_FW,
      group: level.group ?? '',
      near: rack.readNear.get(level.id) ?? null,
      holding: levels.holdingOf(level),
    }]
  })),
)
const folds = computed(() =>
  ordered.value.flatMap((each, i): FoldedRow[] => (each.kind === 'fold' ? [{ group: each.group, levels: each.of.map(({ level }) => level), depths: each.of.map(({ depth }) => depth), top: topOf(i), rungs: each.of.map(({ depth }) => rungOf(depth)) }] : [])),
)

function standInItems(level: Level) {
  if (level.kind === 'reference' || showsNothing(level)) return []
  const isOne = level.standIn === true
  return [
    { label: isOne ? 'Draw over it' : 'Draw over it on a new level', command: () => (desk.chooseLevel(level.id), standIns.over()) },
    { label: isOne ? 'It is no stand-in' : 'It is a stand-in', command: () => levels.edit(level, isOne ? 'no stand-in:' : 'stand-in:', { standIn: isOne ? undefined : true }) },
  ]
}
/** What there is to do with a set as a whole, or with a piece of the one that is open. */
function setItems(level: Level) {
  const of = pieceOf(level.id)
  if (of !== null) {
    const isHidden = desk.openedSet?.hidden?.includes(of.pieceId) === true
    return [
      { label: 'Make it this shot’s own', command: () => sets.own() },
      { label: isHidden ? 'Show it in this shot again' : 'Hide it in this shot only', command: () => sets.hide([of.pieceId], !isHidden, level.name) },
      { separator: true },
    ]
  }
  if (level.kind !== 'set') return []
  const isOpen = desk.openedSet?.id === level.id
  return [
    { label: isOpen ? 'Close the set' : 'Open the set', command: () => (isOpen ? sets.close() : sets.open(level.id)) },
    { label: 'A set of its own for this shot', command: () => void sets.ownWhole(level) },
    {
      label: 'Show it among all sets',
      command: () => {
        setsStore.shownId = level.setId
        desk.view = 'sets'
      },
    },
    { separator: true },
  ]
}
const menuItems = computed(() => {
  const level = desk.selectedLevel
  if (level === null) return []
  const equals = desk.levels.filter((other) => desk.placeOf(other.id).depth === desk.placeOf(level.id).depth)
  return [
    ...setItems(level),
    { label: 'Rename', command: () => void named.value?.find((row) => row?.id() === level.id)?.rename() },
    { label: 'Duplicate', command: () => levels.duplicate(level) },
    { label: 'Show alone', command: () => levels.solo([level.id]) },
    ...standInItems(level),
    { label: timing.isMuted(desk.takeId, level.id) ? 'Show it in playback again' : 'Leave it out of playback', command: () => desk.takeId !== null && timing.toggleMuted(desk.takeId, level.id) },
    ...(showsNothing(level) ? [] : [{ label: 'Place a picture on it…', command: () => choosePicture(level.id) }]),
    { label: 'Nearer among equals', disabled: equals[0] === level, command: () => levels.move(level, -1) },
    { label: 'Farther among equals', disabled: equals.at(-1) === level, command: () => levels.move(level, 1) },
    { separator: true },
    { label: 'Distance…', disabled: level.locked, command: () => void typeDistance() },
    ...(rack.near.has(level.id) ? [{ label: 'Set apart', command: () => depths.setApart(rack.near.get(level.id)!) }] : []),
    { label: 'Flatten', disabled: level.locked, command: () => depths.flatten(desk.chosenLevelIds) },
    { label: 'Group', disabled: desk.chosenLevelIds.length < 2, command: () => levels.group(desk.chosenLevelIds, levels.freshName('Group', new Set(desk.levels.map((each) => each.group ?? '')))) },
    ...((level.group ?? '') === '' ? [] : [{ label: 'Take out of its group', command: () => levels.group(desk.chosenLevelIds, '') }]),
    { separator: true },
    { label: 'Fasten to…', disabled: level.locked || fastening.carriersFor(desk.chosenLevelIds).length === 0, command: () => void openCarriers() },
    { label: 'Travels with the camera', disabled: level.locked || level.carrier?.kind === 'camera', command: () => fastening.fasten(desk.chosenLevelIds, { kind: 'camera' }) },
    { label: 'Let go', disabled: level.locked || level.carrier === undefined, command: () => fastening.fasten(desk.chosenLevelIds, null) },
    { label: 'Carry these together', command: () => fastening.together() },
    ...(desk.openedSet === null ? [{ label: 'Make a set of these', command: () => sets.make() }] : []),
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
  else {
    // It comes first; the others stay chosen.
    desk.alsoLevelIds = desk.chosenLevelIds.filter((id) => id !== level.id)
    desk.selectedLevelId = level.id
  }
  menuAt = event.currentTarget
  menu.value?.toggle(event)
}
const carriers = computed(() => fastening.carriersFor(desk.chosenLevelIds).map((each) => ({ label: each.name, command: () => fastening.fastenTo(desk.chosenLevelIds, each.id) })))
/** The menu it was asked from closes first. */
async function typeDistance() {
  await new Promise((done) => setTimeout(done, 60))
  if (desk.selectedLevel !== null) distance.value?.open(null, menuAt, desk.selectedLevel)
}
offerCommands([
  {
    id: 'level-distance',
    name: 'Type a distance for the chosen levels',
    group: 'Levels',
    keys: ['Shift+G'],
    run: () => {
      const level = desk.selectedLevel!
      const row = area.value?.querySelector(`[data-level="${CSS.escape(level.id)}"]`) ?? area.value
      row?.scrollIntoView({ block: 'nearest' })
      distance.value?.open(null, row ?? null, level)
    },
    enabled: () => desk.selectedLevel !== null && !desk.selectedLevel.locked && !desk.playing,
  },
  { id: 'air', name: 'Air: haze and soft focus of the shot', group: 'Levels', keys: ['Alt+Shift+Z'], run: () => (air.open = !air.open) },
  { id: 'distances', name: 'Distances in grey, on or off', group: 'View', keys: ['Alt+Shift+J'], run: () => (air.distances = !air.distances) },
  { id: 'stand-in', name: 'Put a stand-in: a figure, a box, a doorway…', group: 'Levels', keys: ['Alt+Shift+E'], run: () => standIn.value?.show(standInButton.value) },
  { id: 'draw-over', name: 'Draw over the selected level: a new one that goes along with it', group: 'Levels', keys: ['Alt+Shift+V'], run: standIns.over },
  { id: 'levels-flatten', name: 'Flatten the chosen levels: all at one depth, the picture kept', group: 'Levels', keys: [], run: () => depths.flatten(desk.chosenLevelIds), enabled: () => desk.chosenLevelIds.length > 0 },
  { id: 'levels-apart', name: 'Set levels apart that lie over one another at one depth', group: 'Levels', keys: [], run: () => depths.setApart([...rack.near.keys()]), enabled: () => rack.near.size > 0 },
  { id: 'levels-ground', name: 'Depth from the drawing: how high levels stand under a horizon', group: 'Levels', keys: ['Alt+J'], run: () => spread.begin('ground'), enabled: () => desk.levels.length > 0 && !desk.playing },
])
/** The menu it was asked from closes first, and takes the next with it. */
async function openCarriers() {
  await new Promise((done) => setTimeout(done, 60))
  if (menuAt !== null) carrierMenu.value?.show({ currentTarget: menuAt, target: menuAt } as unknown as Event)
}
</script>

<template>
  <section class="rack" aria-label="Depth rack">
    <header>
      <b title="Distances from the lens, fw">Depth rack</b><span class="quiet what" title="Distances from the lens, fw">fw</span>
      <button class="icon-button small" title="New level (Shift L)" aria-label="New level" @click="levels.add"><Plus :size="15" /></button>
      <button class="icon-button small" title="Place pictures, each on a new level" aria-label="Place pictures on new levels" @click="choosePicture(null)"><ImagePlus :size="15" /></button>
      <button ref="standInButton" class="icon-button small" title="A stand-in: a figure, a box, a doorway… to block with before anything is drawn (Alt Shift E)" aria-label="Put a stand-in" aria-haspopup="dialog" @click="standIn?.toggle($event)"><PersonStanding :size="15" /></button>
      <StandInPopover ref="standIn" />
      <button class="icon-button small" title="Sets: levels that stand in many shots" aria-label="Sets" aria-haspopup="dialog" @click="setPanel?.toggle($event)"><SetMark :width="16" :height="13" /></button>
      <SetPopover ref="setPanel" />
    </header>
    <div ref="body" class="body">
      <div ref="area" class="ladder-area" :style="{ height: `${listHeight}px` }">
        <RackLadder :rows="rows" :folds="folds" :ladder="ladder" :height-px="ladderHeight" />
        <RackRow v-for="row in rows" :key="row.level.id" ref="named" :row="row" @menu="openMenu($event, row.level)" @distance="distance?.open($event, $event.currentTarget, row.level)" />
        <RackFold v-for="fold in folds" :key="fold.group" :fold="fold" />
        <p v-if="ordered.length === 0" class="empty">No levels yet. Add one to draw on, or drop a picture on the lens view.</p>
      </div>
    </div>
    <AirPanel v-if="air.open && !spread.open" />
    <SpreadPanel v-if="spread.open" />
    <footer v-else>
      <button class="push-button keep" :aria-pressed="desk.keepPicture" :title="desk.keepPicture ? 'A level that changes depth is scaled about the lens, so the picture stays (Shift P)' : 'A level that changes depth grows or shrinks (Shift P)'" @click="desk.keepPicture = !desk.keepPicture">
        <Link v-if="desk.keepPicture" :size="14" /><Unlink v-else :size="14" /> Keep the picture
      </button>
      <button class="push-button" title="Give the chosen levels, or all that are not locked, depths in one step (Shift D)" @click="spread.begin()">Spread…</button>
      <button class="icon-button" :aria-pressed="air.open" title="Air: haze, soft focus, distances in grey (Alt Shift Z)" aria-label="Air" @click="air.open = !air.open"><CloudFog :size="16" /></button>
    </footer>
    <DistancePopover ref="distance" />
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
  /* A layer of its own, which what moves beside it does not paint anew. */
  will-change: opacity;
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

<script setup lang="ts">
import { showsNothing } from '@rubato/core/document'
import { combine } from '@atlaskit/pragmatic-drag-and-drop/combine'
import { draggable, dropTargetForElements } from '@atlaskit/pragmatic-drag-and-drop/element/adapter'
import { computed, onBeforeUnmount, onMounted, ref, useTemplateRef } from 'vue'
import DrawingThumb from '~/components/desk/rack/DrawingThumb.vue'
import RackFacts from '~/components/desk/rack/RackFacts.vue'
import { depthText, INDENT_PX, signedDepth, type ShownRow } from '~/components/desk/rack/ladder'
import RenamedText from '~/components/levels/RenamedText.vue'
import ShowAndLock from '~/components/levels/ShowAndLock.vue'
import SetMark from '~/components/sets/SetMark.vue'
import { useSets } from '~/composables/levels/useSets'
import { useDepths } from '~/composables/levels/useDepths'
import { useFastening } from '~/composables/levels/useFastening'
import { useLevels } from '~/composables/levels/useLevels'
import { Ellipsis } from '~/icons'
import { useDeskStore } from '~/stores/desk'
import { useEdgesStore } from '~/stores/edges'
import { findingFacts } from '~/text/findings'
import { useRackStore } from '~/stores/rack'
import { useSpreadStore } from '~/stores/spread'
import { useFilmStore } from '~/stores/film'
import { useTimingStore } from '~/stores/timing'

/** A level in the rack: what it shows here, how deep it lies, how wide the field is there and what its art has to spare. */
const props = defineProps<{ row: ShownRow }>()
const emit = defineEmits<{ menu: [event: Event]; distance: [event: Event] }>()
const desk = useDeskStore()
const film = useFilmStore()
const timing = useTimingStore()
const levels = useLevels()
const rack = useRackStore()
const edges = useEdgesStore()
const spread = useSpreadStore()
const depths = useDepths()
const sets = useSets()
const name = useTemplateRef('name')
defineExpose({ rename: () => name.value?.start(), id: () => props.row.level.id })

/** Dragged onto another's row, or onto the lens over the ladder, it is fastened to that; onto empty paper, it is let go. */
const root = useTemplateRef('root')
const over = ref(false)
const fastening = useFastening()
const dragged = () => (desk.chosenLevelIds.includes(props.row.level.id) ? desk.chosenLevelIds : [props.row.level.id])
let detach = () => {}
onMounted(() => {
  const element = root.value!
  detach = combine(
    draggable({ element, canDrag: () => name.value?.open !== true && film.lookingAt === null, getInitialData: () => ({ levels: dragged() }) }),
    dropTargetForElements({
      element,
      canDrop: ({ source }) => Array.isArray(source.data.levels) && !source.data.levels.includes(props.row.level.id),
      onDrag: ({ source, location }) => {
        edge.value = edgeFor(source.data.levels, location.current.input.clientY)
        over.value = edge.value === null
      },
      onDragLeave: () => {
        over.value = false
        edge.value = null
      },
      onDrop: ({ source, location }) => {
        over.value = false
        edge.value = null
        const ids = source.data.levels as string[]
        const side = edgeFor(ids, location.current.input.clientY)
        if (side === null) fastening.fastenTo(ids, props.row.level.id)
        else levels.listBeside(ids[0]!, props.row.level, side)
      },
    }),
  )
})
onBeforeUnmount(() => detach())
/** While its depth is changed: to what, and how much larger or smaller that makes it. */
const told = computed(() => {
  const depth = rack.told?.depthOf.get(props.row.level.id)
  if (depth === undefined) return null
  const size = rack.told!.sizes?.get(props.row.level.id)
  return size === undefined ? signedDepth(depth, 3) : `${signedDepth(depth, 3).replace(' fw', '')}, ${Math.round(size * 100)} %`
})
const nearNames = computed(() => (props.row.near ?? []).flatMap((id) => (id === props.row.level.id ? [] : [desk.take?.levels[id]?.name ?? ''])).join(', '))

/** Where its art runs out in this shot; of a set that is closed, its pieces’. */
const found = computed(() => edges.speakingHere.filter(({ levelId }) => levelId !== null && (levelId === props.row.level.id || desk.choosable(levelId) === props.row.level.id)))
const OUT = Object.freeze({ left: '◂', right: '▸', bottom: '▾', top: '▴', inside: '' })

const RANGE_PX = 11
/** Among levels of one depth a row is dropped on another's upper or lower edge to be listed there; anywhere else it is fastened. */
const edge = ref<'nearer' | 'farther' | null>(null)
function edgeFor(ids: unknown, clientY: number): 'nearer' | 'farther' | null {
  if (!Array.isArray(ids) || ids.length !== 1 || desk.placeOf(ids[0] as string).depth !== props.row.depth) return null
  const { top, bottom } = root.value!.getBoundingClientRect()
  return clientY - top < RANGE_PX ? 'nearer' : bottom - clientY < RANGE_PX ? 'farther' : null
}
const FACES = { lens: 'to the lens', upright: 'upright' } as const
const more = computed(() => [props.row.level.standIn === true ? 'stand-in' : '', props.row.level.facing === undefined ? '' : FACES[props.row.level.facing], props.row.motion].filter(Boolean).join(', '))
</script>

<template>
  <div
    ref="root"
    class="row"
    :class="{ selected: row.level.id === desk.selectedLevelId, also: desk.alsoLevelIds.includes(row.level.id), over, hidden: !row.level.visible, 'stands-in': row.level.standIn }"
    :style="{ top: `${row.top}px`, left: `${70 + row.indent * INDENT_PX}px` }"
    :data-level="row.level.id"
    @click="desk.chooseLevel(row.level.id, $event)"
    @contextmenu.prevent="emit('menu', $event)"
  >
    <button v-if="row.group" class="tab" :title="`Fold ${row.group} to one row`" :aria-label="`Fold ${row.group}`" @click.stop="rack.fold(row.group)" />
    <button v-if="row.level.kind === 'set'" class="thumb set" :aria-expanded="desk.openedSet?.id === row.level.id" :title="desk.openedSet?.id === row.level.id ? `Close ${row.level.name}: one level again (Alt Shift P)` : `Open ${row.level.name}: its pieces are listed, and what is changed shows in all its shots (Alt Shift P)`" :aria-label="`${desk.openedSet?.id === row.level.id ? 'Close' : 'Open'} the set ${row.level.name}`" @click.stop="desk.openedSet?.id === row.level.id ? sets.close() : sets.open(row.level.id)"><SetMark :width="26" :height="22" /></button>
    <span v-else-if="row.level.kind === 'carrier'" class="thumb carrier" role="img" aria-label="A carrier: it shows nothing"><svg width="40" height="26" aria-hidden="true"><path d="M20 5v16M10 13h20" /><circle cx="20" cy="13" r="4" /></svg></span>
    <DrawingThumb v-else class="thumb" :drawing-id="row.holding.drawingId" :width="row.indent > 0 ? 30 : 40" :height="row.indent > 0 ? 22 : 26" />
    <div class="words">
      <RenamedText ref="name" :text="row.level.name" title="; drag it onto another row to fasten it to that level" @rename="(text) => levels.rename(row.level, text)" />
      <span class="told mono depth" :class="{ live: told }"><button class="at" :title="`${row.level.name}: ${showsNothing(row.level) ? '' : `${row.holding.words}, `}${row.hangs ? `${row.hangs}, ` : ''}${depthText(row)}; double-click to type a distance (Shift G)`" :aria-label="`Type a distance for ${row.level.name}`" @dblclick.stop="emit('distance', $event)" @keydown.enter.stop="emit('distance', $event)"><i v-if="!showsNothing(row.level)" class="mark" :class="{ own: row.holding.own, none: row.holding.drawingId === null }" role="img" :aria-label="row.holding.words" />{{ row.behind ? 'behind the lens' : (told ?? (row.hangs || depthText(row))) }}</button><b v-if="row.level.repeat && told === null" class="times" :title="`Shown ${row.level.repeat.count} times`">×{{ row.level.repeat.count }}</b><em v-if="more && told === null" :title="`${row.level.name}: ${more}`"><svg v-if="row.level.facing" width="9" height="9" aria-hidden="true"><path d="M1 1l3.5 7L8 1" /></svg><svg v-if="row.motion" width="13" height="8" aria-hidden="true"><path d="M1 6C3 6 3 2 5.5 2S8 6 12 6" /></svg><span>{{ more }}</span></em></span>
      <RackFacts v-if="!row.behind" class="told mono" :level="row.level" />
    </div>
    <input v-if="spread.open" class="joins" type="checkbox" :checked="spread.ids.includes(row.level.id)" :disabled="!spread.canJoin(row.level.id)" :aria-label="`Spread ${row.level.name}`" :title="row.level.locked ? 'Locked' : 'Part of the spread'" @click.stop @change="spread.toggle(row.level.id)" />
    <div v-else class="toggles">
      <ShowAndLock :name="row.level.name" :visible="row.level.visible" :locked="row.level.locked" @show="levels.toggle(row.level, 'visible')" @lock="levels.toggle(row.level, 'locked')" />
    </div>
    <i v-if="timing.isMuted(desk.takeId, row.level.id)" class="muted" :title="`${row.level.name} is left out while playing`" role="img" aria-label="Left out of playback">not played</i>
    <i v-if="found.length > 0" class="out" role="img" :title="found.map((each) => `${row.level.name} runs out at ${each.side}: ${findingFacts(each)}`).join('; ')" :aria-label="`Runs out at ${found.map((each) => each.side).join(' and ')}`" data-test="rack-out">{{ found.map((each) => OUT[each.side]).join('') }}</i>
    <button v-if="row.near && !spread.open" class="near" :title="`${row.level.name} and ${nearNames} lie over one another, less than 0.001 fw apart: set them apart, the picture kept`" :aria-label="`Set ${row.level.name} and ${nearNames} apart`" data-test="rack-near" @click.stop="depths.setApart(row.near)"><svg width="12" height="10" aria-hidden="true"><path d="M1 3.5h10M1 6.5h10" /></svg></button>
    <button v-if="!spread.open" class="mini more" :aria-label="`More for ${row.level.name}`" title="More" @click.stop="emit('menu', $event)"><Ellipsis :size="14" /></button>
    <hr v-if="edge" class="edge" :class="edge" />
  </div>
</template>

<style scoped src="../../levels/levelRow.css"></style>
<style scoped src="../../levels/mini.css"></style>
<style scoped src="./rackRow.css"></style>
<style scoped>
.depth {
  font-size: 10.5px;
  letter-spacing: -0.03em;
}
.depth.live {
  color: var(--blue);
}
.at {
  max-width: 100%;
  padding: 0;
  overflow: hidden;
  border: 0;
  border-radius: 2px;
  background: none;
  color: inherit;
  font: inherit;
  letter-spacing: inherit;
  text-overflow: ellipsis;
  cursor: inherit;
}
.at:hover {
  color: var(--ink);
  text-decoration: underline dotted;
}
.near {
  display: grid;
  position: absolute;
  bottom: 2px;
  left: 2px;
  place-items: center;
  width: 24px;
  height: 15px;
  padding: 0;
  border: 1px solid var(--rule);
  border-radius: 4px;
  background: var(--paper-0);
  cursor: pointer;
}
.near path {
  stroke: var(--ink-2);
  stroke-width: 1.5;
}
.near:hover path {
  stroke: var(--blue);
}
.out {
  position: absolute;
  bottom: 3px;
  left: 30px;
  padding: 0 2px;
  border-radius: 3px;
  background: var(--paper-0);
  color: var(--vermilion);
  font-size: 12px;
  font-style: normal;
}
.edge {
  position: absolute;
  z-index: 2;
  right: 0;
  left: 0;
  height: 3px;
  margin: 0;
  border: 0;
  border-radius: 2px;
  background: var(--blue);
}
.edge.nearer {
  top: -4px;
}
.edge.farther {
  bottom: -4px;
}
.depth em {
  margin-left: 5px;
  color: var(--blue);
  font-style: normal;
  letter-spacing: 0;
}
.depth em span {
  position: absolute;
  opacity: 0;
}
.times {
  margin-left: 4px;
  color: var(--blue);
  font-weight: 500;
}
.depth em path {
  fill: none;
  stroke: currentcolor;
  stroke-width: 1.5;
}
.row.also {
  border-color: var(--blue);
}
.row.over {
  outline: 2px dashed var(--blue);
  outline-offset: 1px;
}
.set {
  display: grid;
  flex: none;
  place-items: center;
  width: 40px;
  height: 27px;
  padding: 0;
  border: 1px solid var(--rule);
  border-radius: 4px;
  background: var(--paper-0);
  color: var(--ink-2);
  cursor: pointer;
}
.set:hover,
.set[aria-expanded='true'] {
  border-color: var(--blue);
  color: var(--blue);
}
.carrier path,
.carrier circle {
  fill: none;
  stroke: var(--ink-2);
  stroke-width: 1.5;
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
.more {
  display: none;
  position: absolute;
  top: 2px;
  right: 28px;
  background: var(--paper-0);
}
.row:hover .more,
.more:focus-visible {
  display: grid;
}
.words:focus-within ~ .more {
  display: none;
}
</style>

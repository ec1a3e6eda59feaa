<script setup lang="ts">
import { computed } from 'vue'
import { Cuboid, Eraser, Maximize2, Minimize2, Move, Pencil, Scan, Video } from '~/icons'
import { useCameras } from '~/composables/camera/useCameras'
import { useSpans } from '~/composables/camera/useSpans'
import CameraBar from '~/components/desk/lens/CameraBar.vue'
import CameraChips from '~/components/desk/lens/CameraChips.vue'
import LevelBar from '~/components/desk/lens/LevelBar.vue'
import WallBar from '~/components/desk/lens/WallBar.vue'
import { useViews } from '~/composables/view/useViews'
import { useAirStore } from '~/stores/air'
import { useDeskStore, type Tool } from '~/stores/desk'
import { usePenStore, type PenTool } from '~/stores/pen'

/** Which camera is looked through and what it goes after, the settings of the tool in hand, and the tools. */
defineProps<{ pulls: boolean; farOff: number }>()
const desk = useDeskStore()
const air = useAirStore()
const pen = usePenStore()
const cameras = useCameras()
const spans = useSpans()
const { arranged, toggleAlone } = useViews()

/** What the camera goes after at the playhead, in a few words each. */
const working = computed(() => (desk.playing ? [] : spans.spans.value.filter(({ first, last }) => first <= desk.shotFrame && desk.shotFrame <= last).map(({ span }) => ({ id: span.id, words: spans.wordOf(span) }))))

const TOOLS: readonly { id: Tool; name: string; key: string; icon: typeof Video }[] = [
  { id: 'camera', name: 'Camera: drag slides, Shift-drag pans and tilts, wheel trucks, Alt+wheel zooms', key: 'C', icon: Video },
  { id: 'level', name: 'Levels: drag moves the selected one, its corners size it, its knob turns it (X held tilts it, Y held pans it), Alt and a drag moves its pivot; W held pulls a travel', key: 'M', icon: Move },
  { id: 'walls', name: 'Walls: rooms, walls, floors and ceilings, drawn in the picture', key: 'Alt F', icon: Cuboid },
  { id: 'region', name: 'Frame a region: draw it, and the camera goes there', key: 'Shift O', icon: Scan },
]
const PENS: readonly { id: PenTool; name: string; key: string; icon: typeof Video }[] = [
  { id: 'brush', name: 'Pencil, on the selected level in this panel', key: 'P', icon: Pencil },
  { id: 'eraser', name: 'Eraser', key: 'E', icon: Eraser },
]
const hasPen = (tool: PenTool) => desk.tool === 'pen' && (pen.tool === tool || (tool === 'brush' && pen.tool !== 'eraser'))
function takePen(tool: PenTool) {
  pen.tool = tool
  desk.tool = 'pen'
}
/** In words, and none where there is no camera: the pose is another at every step of a drag. */
const seenThrough = computed(() => (desk.cameraAtWork === null || desk.pose === null ? null : `${cameras.many.value ? '' : `Camera ${desk.cameraAtWork.letter} · `}${Number(desk.pose.focalLengthMm.toFixed(1))} mm`))
/** The header is the tool's own. */
const busy = computed(() => desk.tool === 'level' || desk.tool === 'walls')
</script>

<template>
  <header>
    <b class="what title" :class="{ spare: desk.tool === 'level' || desk.tool === 'walls' || cameras.many.value || working.length > 0 }">Through the lens</b>
    <CameraChips v-if="!busy" />
    <span v-if="seenThrough && !busy" class="chip what" :class="{ spare: working.length > 0 }">{{ seenThrough }}</span>
    <button v-for="each in busy ? [] : working" :key="each.id" class="chip blue what" :title="`${each.words}: its numbers in the inspector`" :aria-pressed="each.id === desk.selectedSpanId" @click="desk.selectedSpanId = each.id">{{ each.words }}</button>
    <LevelBar v-if="desk.tool === 'level'" :pulls="pulls" />
    <WallBar v-else-if="desk.tool === 'walls'" :far-off="farOff" />
    <CameraBar v-else />
    <button v-if="air.distances" class="chip blue what" title="Distances are seen in the place of colours. Press for the picture again (Alt Shift J)" data-test="distances" @click="air.distances = false">distances</button>
    <span v-if="desk.counterZooms" class="chip blue" title="Truck and zoom answer each other (Alt Z)" data-test="counter-zoom">counter-zoom</span>
    <span class="tools" role="group" aria-label="Tools">
      <button v-for="item in TOOLS" :key="item.id" class="icon-button" :aria-pressed="desk.tool === item.id" :aria-label="item.name" :title="`${item.name} (${item.key})`" @click="desk.tool = item.id"><component :is="item.icon" :size="16" /></button>
      <button v-for="item in PENS" :key="item.id" class="icon-button" :aria-pressed="hasPen(item.id)" :aria-label="item.name" :title="`${item.name} (${item.key})`" @click="takePen(item.id)"><component :is="item.icon" :size="16" /></button>
    </span>
    <button class="icon-button small" :aria-pressed="arranged.alone === 'lens'" :title="arranged.alone === 'lens' ? 'With the other views again (Shift W)' : 'The lens view alone (Shift W)'" aria-label="The lens view alone" @click="toggleAlone('lens')"><Minimize2 v-if="arranged.alone === 'lens'" :size="14" /><Maximize2 v-else :size="14" /></button>
  </header>
</template>

<style scoped>
@container (max-width: 740px) {
  .title {
    display: none;
  }
}
@container (max-width: 690px) {
  .what {
    display: none;
  }
}
@container (max-width: 860px) {
  .spare {
    display: none;
  }
}
header {
  display: flex;
  align-items: center;
  gap: 7px;
  height: 36px;
  padding: 0 8px 0 10px;
  background: var(--paper-0);
  overflow: hidden;
  white-space: nowrap;
}
.tools {
  display: flex;
  flex: none;
  gap: 2px;
  padding-left: 5px;
  border-left: 1px solid var(--rule);
}
</style>

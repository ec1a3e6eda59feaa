<script setup lang="ts">
import { computed, ref } from 'vue'
import { Circle, Eraser, Lasso, MoveUpRight, PaintBucket, Pipette, Plus, Slash, Square, SquareDashed, Trash2, Type } from '~/icons'
import PencilMark from '~/components/draw/PencilMark.vue'
import { useFilmStore } from '~/stores/film'
import { BRUSH_FW, ERASER_FW, TONES, usePenStore, type ArrowLook, type Pencil, type PenTool } from '~/stores/pen'

/** The pencil tray along the paper's edge: pencils, tools, and how they draw. */
const props = defineProps<{ compact?: boolean; /** An arrow is chosen. */ arrow?: boolean }>()
const emit = defineEmits<{ back: []; arrow: [fields: Partial<ArrowLook>] }>()
const pen = usePenStore()
const film = useFilmStore()
const settings = ref<{ toggle: (event: Event) => void; hide: () => void } | null>(null)
const name = ref('')

const TOOLS: readonly { readonly id: PenTool; readonly name: string; readonly key: string; readonly icon: typeof Slash; /** In Draw alone. */ readonly paper?: boolean }[] = [
  { id: 'eraser', name: 'Eraser', key: 'E', icon: Eraser },
  { id: 'line', name: 'Line: Shift keeps to 15°, Alt from the middle', key: 'L', icon: Slash },
  { id: 'box', name: 'Box: Shift makes it square, Alt from the middle', key: 'X', icon: Square },
  { id: 'ellipse', name: 'Ellipse: Shift makes it round, Alt from the middle', key: 'O', icon: Circle },
  { id: 'fill', name: 'Fill an area', key: 'G', icon: PaintBucket },
  { id: 'words', name: 'Words: press where they begin, or on words to change them', key: 'W', icon: Type, paper: true },
  { id: 'arrow', name: 'Arrow: drag from its tail to its tip; Shift keeps to 15°', key: 'Shift W', icon: MoveUpRight, paper: true },
  { id: 'select', name: 'Select: drag around, or click', key: 'A', icon: SquareDashed },
  { id: 'lasso', name: 'Select by a line drawn around', key: 'Alt A', icon: Lasso },
  { id: 'tone', name: 'Pick a tone from the picture', key: 'T', icon: Pipette },
]
const widthPx = computed(() => film.project?.widthPx ?? 1280)
const px = (fw: number) => Number((fw * widthPx.value).toFixed(1))
const draws = computed(() => ['brush', 'line', 'box', 'ellipse', 'arrow'].includes(pen.tool))
const current = (each: Pencil) => draws.value && pen.pencilId === each.id

/** Sizes are on a logarithmic scale: as fine a step for a thin line as for a thick one. */
const slider = (min: number, max: number) => ({
  of: (value: number) => (Math.log(value / min) / Math.log(max / min)) * 100,
  at: (part: number) => min * (max / min) ** (part / 100),
})
const brushSize = slider(BRUSH_FW.min, BRUSH_FW.max)
const eraserSize = slider(ERASER_FW.min, ERASER_FW.max)
const SIZES = { eraser: { name: 'Eraser size', scale: eraserSize }, arrow: { name: 'Arrow width', scale: brushSize }, brush: { name: 'Pencil size', scale: brushSize } } as const
/** What the size is of: a chosen arrow has its own. */
const sized = computed(() => SIZES[pen.tool === 'eraser' ? 'eraser' : pen.tool === 'arrow' || props.arrow === true ? 'arrow' : 'brush'])
const sizeFw = computed(() => (sized.value === SIZES.eraser ? pen.eraserFw : sized.value === SIZES.arrow ? pen.arrow.widthFw : pen.brush.widthFw))
const size = computed({
  get: () => sized.value.scale.of(sizeFw.value),
  set: (part: number) => {
    const widthFw = sized.value.scale.at(Number(part))
    if (sized.value === SIZES.eraser) pen.eraserFw = widthFw
    else if (sized.value === SIZES.arrow) emit('arrow', { widthFw })
    else pen.setBrush({ widthFw })
  },
})
const shownSize = computed(() => px(sizeFw.value))

function take(each: Pencil) {
  pen.take(each)
}
function keep() {
  const given = name.value.trim()
  if (given === '') return
  pen.keepPencil(given)
  name.value = ''
}
const percent = (field: 'opacity' | 'thinning' | 'smoothing') => ({
  value: Math.round(pen.brush[field] * 100),
  set: (event: Event) => pen.setBrush({ [field]: Number((event.target as HTMLInputElement).value) / 100 }),
})
const setColour = (event: Event) => pen.setBrush({ colour: (event.target as HTMLInputElement).value })
</script>

<template>
  <div class="tray" :class="{ compact: props.compact }" role="toolbar" aria-label="Pencil tray">
    <div class="pencils" role="group" aria-label="Pencils">
      <button v-for="(each, i) in pen.pencils" :key="each.id" class="pick" :aria-pressed="current(each)" :title="`${each.name}${i < 9 ? ` (${i + 1})` : ''}`" :aria-label="each.name" @click="take(each)">
        <PencilMark v-if="!props.compact" :brush="current(each) ? pen.brush : each" />
        <i v-else class="dab" :style="{ background: each.colour, opacity: Math.max(0.4, each.opacity), width: `${6 + Math.min(12, each.widthFw * 500)}px`, height: `${6 + Math.min(12, each.widthFw * 500)}px` }" />
        <span v-if="!props.compact" class="label"><b>{{ each.name }}</b> <span class="mono">{{ px(current(each) ? pen.brush.widthFw : each.widthFw) }}</span><i v-if="current(each) && pen.changed" title="Changed since it was taken up">*</i></span>
      </button>
    </div>
    <button class="icon-button small" title="How the brush draws, and pencils of your own" aria-label="Brush settings" aria-haspopup="dialog" @click="(event) => settings?.toggle(event)"><Plus :size="15" /></button>
    <span class="size">
      <input v-model.number="size" type="range" min="0" max="100" step="0.5" :aria-label="sized.name" :title="`Size: ${shownSize} px of the picture ([ thinner, ] thicker)`" />
      <span class="mono" data-test="brush-size">{{ shownSize }}</span>
    </span>
    <span class="tools" role="group" aria-label="Tools">
      <button v-for="item in TOOLS.filter(({ paper }) => !props.compact || paper !== true)" :key="item.id" class="icon-button" :aria-pressed="pen.tool === item.id" :aria-label="item.name" :title="`${item.name} (${item.key})`" @click="pen.tool = item.id"><component :is="item.icon" :size="16" /></button>
    </span>
    <template v-if="pen.tool === 'fill'">
      <label class="gap" title="Openings up to this wide, in px of the picture, are taken as closed">gap <input v-model.number="pen.gapPx" type="number" min="0" max="80" step="1" class="mono" aria-label="Gap taken as closed, px" /></label>
      <button class="chip" :aria-pressed="pen.fillSeen" title="Fill within the lines of all levels seen, instead of the level’s own" @click="pen.fillSeen = !pen.fillSeen">all lines seen</button>
    </template>
    <span v-if="!props.compact && (pen.tool === 'arrow' || props.arrow)" class="behind" role="group" aria-label="Arrow" data-test="arrow-look">
      <button class="chip" :aria-pressed="pen.arrow.bent" title="The arrow bends as it is drawn; else it is straight, and a point of it is dragged to bend it" @click="$emit('arrow', { bent: !pen.arrow.bent })">as drawn</button>
      <button class="chip" :aria-pressed="pen.arrow.tapers" title="From a fine tail to its full width" @click="$emit('arrow', { tapers: !pen.arrow.tapers })">tapering</button>
      <button class="chip" :aria-pressed="pen.arrow.both" title="A head at both ends" @click="$emit('arrow', { both: !pen.arrow.both })">both ends</button>
      <button class="chip" :aria-pressed="pen.arrow.forPrint" title="In no picture: seen on the paper while you draw, and over the panel on printed boards" @click="$emit('arrow', { forPrint: !pen.arrow.forPrint })">for print alone</button>
    </span>
    <span v-else class="behind">
      <button class="push-button" :aria-pressed="pen.behind" title="Strokes lie behind what the level shows, so that a figure hides what is under it (B)" @click="pen.behind = !pen.behind">Paint behind</button>
      <button class="push-button" title="Fill the figure’s silhouette with paper white, behind its lines (Shift B)" @click="$emit('back')">Back the figure</button>
    </span>
    <Popover ref="settings">
      <div class="settings" role="dialog" aria-label="Brush settings">
        <div class="tones" role="group" aria-label="Tone">
          <button v-for="tone in TONES" :key="tone" class="tone" :style="{ background: tone }" :aria-pressed="pen.brush.colour === tone" :aria-label="`Tone ${tone}`" :title="tone" @click="pen.setBrush({ colour: tone })" />
          <input type="color" class="any" :value="pen.brush.colour" aria-label="Any tone" title="Any tone" @change="setColour" />
        </div>
        <label>Opacity <input type="range" min="5" max="100" :value="percent('opacity').value" @input="percent('opacity').set" /><span class="mono">{{ percent('opacity').value }} %</span></label>
        <label title="How much pressure changes the width">Pressure <input type="range" min="0" max="100" :value="percent('thinning').value" @input="percent('thinning').set" /><span class="mono">{{ percent('thinning').value }} %</span></label>
        <label title="How much the hand is steadied">Smoothing <input type="range" min="0" max="100" :value="percent('smoothing').value" @input="percent('smoothing').set" /><span class="mono">{{ percent('smoothing').value }} %</span></label>
        <form class="keep" @submit.prevent="keep">
          <input v-model="name" type="text" maxlength="40" placeholder="Name for a new pencil" aria-label="Name for a new pencil" />
          <button class="push-button" :disabled="name.trim() === ''">Keep as a pencil</button>
        </form>
        <div v-for="own in pen.ownPencils" :key="own.id" class="own">
          <input type="text" :value="own.name" maxlength="40" :aria-label="`Name of ${own.name}`" @change="pen.updatePencil(own.id, { name: ($event.target as HTMLInputElement).value.trim() || own.name })" />
          <button class="push-button" :title="`Keep the brush as it is now as ${own.name}`" @click="pen.updatePencil(own.id, { ...pen.brush })">Update</button>
          <button class="icon-button small" :aria-label="`Take out ${own.name}`" title="Take this pencil out" @click="pen.dropPencil(own.id)"><Trash2 :size="14" /></button>
        </div>
      </div>
    </Popover>
  </div>
</template>

<style scoped>
.tray {
  display: flex;
  align-items: center;
  gap: 8px;
  min-height: 64px;
  padding: 4px 12px;
  overflow: hidden;
  border-top: 1px solid var(--rule);
  background: linear-gradient(var(--paper-3), var(--paper-2) 12%, var(--paper-2));
  white-space: nowrap;
}
.tray.compact {
  min-height: 0;
  border: 1px solid var(--rule);
  border-radius: 8px;
  background: var(--paper-0);
}
.pencils {
  display: flex;
  gap: 2px;
  min-width: 0;
  overflow: auto hidden;
  scrollbar-width: thin;
}
.pick {
  display: flex;
  flex: none;
  flex-direction: column;
  align-items: center;
  gap: 2px;
  min-width: 24px;
  min-height: 26px;
  padding: 5px 3px 3px;
  border: 1px solid transparent;
  border-radius: 7px;
  background: none;
  color: var(--ink);
  font: inherit;
  font-size: 12px;
  cursor: pointer;
}
.compact .pick {
  justify-content: center;
  padding: 3px 2px;
}
.pick:hover {
  background: var(--paper-1);
}
.pick[aria-pressed='true'] {
  border-color: var(--blue);
  background: var(--paper-0);
  box-shadow: 0 0 0 1px var(--blue);
}
.label b {
  font-weight: 600;
  font-stretch: 82%;
}
.label .mono {
  color: var(--ink-2);
  font-size: 11px;
}
.dab {
  border: 1px solid var(--ink-3);
  border-radius: 50%;
}
.size {
  display: inline-flex;
  align-items: center;
  gap: 6px;
}
.size input {
  width: 84px;
  accent-color: var(--blue);
}
.size .mono {
  min-width: 32px;
}
.tools {
  display: flex;
  gap: 1px;
  padding: 0 6px;
  border-right: 1px solid var(--rule);
  border-left: 1px solid var(--rule);
}
.gap input {
  width: 44px;
  border: 1px solid var(--rule);
  border-radius: 4px;
  background: var(--sheet);
  color: var(--ink);
  font-size: 12px;
}
.behind {
  display: flex;
  gap: 6px;
  margin-left: auto;
}
.behind .push-button {
  padding: 3px 9px;
}
.compact {
  gap: 5px;
  padding: 3px 8px;
}
.compact .pencils {
  flex: none;
}
.compact .size input {
  width: 52px;
}
.compact .size .mono {
  min-width: 24px;
}
.compact .icon-button {
  width: 25px;
}
.compact .tools {
  padding: 0 3px;
}
.compact .behind {
  gap: 3px;
}
.compact .behind .push-button {
  padding: 3px 6px;
  font-stretch: 80%;
}
.settings {
  display: grid;
  gap: 9px;
  width: 300px;
}
.settings label {
  display: grid;
  grid-template-columns: 76px 1fr 48px;
  align-items: center;
  gap: 8px;
}
.settings input[type='range'] {
  accent-color: var(--blue);
}
.tones {
  display: flex;
  flex-wrap: wrap;
  gap: 5px;
}
.tone,
.any {
  width: 24px;
  height: 24px;
  padding: 0;
  border: 1px solid var(--rule);
  border-radius: 50%;
  cursor: pointer;
}
.any {
  border-radius: 4px;
}
.tone[aria-pressed='true'] {
  box-shadow: 0 0 0 2px var(--paper-0), 0 0 0 4px var(--blue);
}
.keep,
.own {
  display: flex;
  gap: 6px;
}
.keep input,
.own input {
  flex: 1;
  min-width: 0;
  padding: 2px 6px;
  border: 1px solid var(--rule);
  border-radius: 4px;
  background: var(--sheet);
  color: var(--ink);
  font: inherit;
}
</style>

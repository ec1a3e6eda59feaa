<script setup lang="ts">
import { useEventListener } from '@vueuse/core'
import { computed, ref } from 'vue'
import { PICTURE_TYPES } from '#shared/assets'
import { CUT_FILES, droppedFiles, inNameOrder, sortOf } from '~/boards/droppedFiles'
import { inTurns } from '~/composables/boards/inTurns'
import { isSoundFile, SOUND_FILES, useSound } from '~/composables/sound/useSound'
import { useBringIn, type BringAs, type BringItem } from '~/composables/boards/useBringIn'
import { useBoardsStore } from '~/stores/boards'
import { useDeskStore } from '~/stores/desk'
import { useFilmStore } from '~/stores/film'

/** Takes files dropped anywhere, shows what would become of them, and brings them in. */
const emit = defineEmits<{ script: [file: File]; cut: [file: File]; scene: [file: File] }>()
const film = useFilmStore()
const desk = useDeskStore()
const boards = useBoardsStore()
const { state, items, as, fit, goesBack, keepsRough, staysLines, returns, redraws, staysOut, look, bring, cancel } = useBringIn()
const { bring: bringSound } = useSound()
const over = ref(false)

const visible = computed({ get: () => state.value.kind !== 'idle', set: (now) => !now && cancel() })
const good = computed(() => items.value.filter((item) => item.bad === null))
const bad = computed(() => items.value.filter((item) => item.bad !== null))
const finds = computed(() => good.value.some(({ back }) => back.length > 0))
/** What comes in as boards or levels. */
const others = computed(() => good.value.filter((item) => !returns(item) && !redraws(item) && !staysOut(item)))
const nothing = computed(() => good.value.every(staysOut))
const withLines = computed(() => good.value.filter(({ lines }) => lines !== null))
const linesBack = computed(() => withLines.value.flatMap(({ lines }) => lines!.back ?? []))
const notLines = computed(() => [...new Set(withLines.value.flatMap(({ lines }) => lines!.leftOut))])
const layers = computed(() => others.value.reduce((sum, item) => sum + (item.layers?.length ?? 1), 0))
const many = (count: number, one: string) => (count === 1 ? `1 ${one}` : `${count} ${one}s`)

const where = computed(() => {
  const shot = desk.placedShot?.shot
  const take = boards.current?.takeId ?? desk.takeId
  const panelId = boards.current?.panelId ?? desk.placedPanel?.panel.id
  const number = take === null ? -1 : boards.panelsOf(take).findIndex((panel) => panel.id === panelId)
  return { shot: shot?.label ?? null, panel: number < 0 ? null : number + 1 }
})
const choices = computed((): readonly { value: BringAs; label: string; possible: boolean }[] => [
  { value: 'shot', label: where.value.shot === null ? 'A new shot, a panel each' : `A new shot after ${where.value.shot}, a panel each`, possible: true },
  { value: 'panels', label: `Panels after panel ${where.value.panel} of shot ${where.value.shot}`, possible: where.value.panel !== null },
  { value: 'levels', label: `Levels of shot ${where.value.shot}, from panel ${where.value.panel} on`, possible: where.value.panel !== null },
])
const FITS = [
  { value: 'frame', label: 'Whole in the frame' },
  { value: 'fill', label: 'Fill the frame' },
  { value: 'pixels', label: 'Pixel for pixel' },
] as const
const outcome = computed(() => {
  if (good.value.length === 0) return 'Nothing here can be brought in.'
  if (nothing.value) return 'There is nothing to bring back. Take “Back in place” off to bring it in as new.'
  if (others.value.length === 0) return null
  if (as.value === 'levels') return `${many(layers.value, 'level')}, in this order from the top of the rack.`
  const names = new Set(others.value.flatMap((item) => item.layers?.map(({ layer }) => layer.name) ?? ['Picture']))
  return `${many(others.value.length, 'panel')} of ${film.project?.defaultPanelFrames} frames each, in this order, on ${many(names.size, 'level')}.`
})

const painted = new WeakSet<HTMLCanvasElement>()
function paint(element: unknown, item: BringItem) {
  if (!(element instanceof HTMLCanvasElement) || painted.has(element)) return
  painted.add(element)
  inTurns(() => {
    if (item.thumb === null || item.thumb.width === 0) return
    element.width = item.thumb.width
    element.height = item.thumb.height
    element.getContext('2d')!.drawImage(item.thumb, 0, 0)
  })
}

function take(files: readonly File[]) {
  const script = files.find((file) => sortOf(file) === 'script')
  if (files.length === 1 && script !== undefined) return emit('script', script)
  const cut = files.find((file) => sortOf(file) === 'cut')
  if (files.length === 1 && cut !== undefined) return emit('cut', cut)
  if (files.length === 1 && sortOf(files[0]!) === 'scene') return emit('scene', files[0]!)
  const recordings = files.filter(isSoundFile)
  if (recordings.length > 0) void bringSound(recordings)
  files = files.filter((file) => !isSoundFile(file))
  if (files.length > 0) void look(files)
}
function pick() {
  const input = document.createElement('input')
  input.type = 'file'
  input.multiple = true
  input.accept = [...PICTURE_TYPES, '.ora', '.fountain', ...CUT_FILES, '.glb', ...SOUND_FILES].join()
  input.onchange = () => take(inNameOrder([...(input.files ?? [])]))
  input.click()
}
defineExpose({ pick })

const carriesFiles = (event: DragEvent) => event.dataTransfer?.types.includes('Files') === true
useEventListener(window, 'dragover', (event) => {
  if (!carriesFiles(event)) return
  event.preventDefault()
  over.value = true
})
useEventListener(window, 'dragleave', (event) => {
  if (event.relatedTarget === null) over.value = false
})
useEventListener(window, 'drop', (event) => {
  if (!carriesFiles(event) || event.dataTransfer === null) return
  event.preventDefault()
  over.value = false
  droppedFiles(event.dataTransfer).then(take, (error: Error) => film.refuse(`The files could not be read. ${error.message}`))
})
</script>

<template>
  <div v-if="over" class="over" aria-hidden="true"><p>Let go to bring in: pictures, layered files, a folder, a script, a cut, or a 3D scene</p></div>
  <Dialog v-model:visible="visible" modal header="Bring in" :style="{ width: '620px' }" :closable="state.kind !== 'bringing'" data-test="bring-in">
    <template v-if="state.kind === 'looking' || state.kind === 'bringing'">
      <p role="status">{{ state.kind === 'looking' ? 'Looking at the files' : `Bringing in ${state.name}` }}: {{ state.done }} of {{ state.total }}</p>
      <ProgressBar :value="state.total === 0 ? 0 : Math.round((state.done / state.total) * 100)" :show-value="false" style="height: 8px" />
      <footer><span class="grow" /><button class="push-button" @click="cancel">Cancel</button></footer>
    </template>
    <template v-else>
      <fieldset v-if="finds">
        <legend class="visually-hidden">Back</legend>
        <label><input v-model="goesBack" type="checkbox" /> <span><b>Back in place</b>: what was painted goes to the levels that it was laid out for</span></label>
        <label v-if="goesBack" class="under"><input v-model="keepsRough" type="checkbox" /> keep what was drawn there under it, as a reference</label>
      </fieldset>
      <ul v-if="goesBack && good.some(({ back }) => back.length > 0)" class="finds" data-test="finds-back">
        <template v-for="(item, i) in good" :key="i">
          <li v-for="(each, n) in item.back" :key="`${i} ${n}`" :class="{ quiet: each.why !== null }">
            <b>{{ each.name }}</b> {{ each.why === null ? `→ ${each.where}` : `stays out: ${each.why}.` }}<span v-if="each.why === null && each.added.length > 0" class="quiet"> with {{ each.added.join(', ') }}</span>
          </li>
        </template>
      </ul>
      <fieldset v-if="others.length > 0">
        <legend class="visually-hidden">As what</legend>
        <label v-for="each in choices" :key="each.value" :class="{ quiet: !each.possible }"><input v-model="as" type="radio" :value="each.value" :disabled="!each.possible" /> {{ each.label }}</label>
      </fieldset>
      <fieldset v-if="others.length > 0" class="fits">
        <legend class="visually-hidden">How large</legend>
        <label v-for="each in FITS" :key="each.value"><input v-model="fit" type="radio" :value="each.value" /> {{ each.label }}</label>
      </fieldset>
      <fieldset v-if="withLines.length > 0">
        <legend class="visually-hidden">Lines</legend>
        <label title="Else it comes in as one picture, just as it looks"><input v-model="staysLines" type="checkbox" /> <span><b>Lines stay lines</b>, to be drawn on: {{ many(withLines.reduce((sum, { lines }) => sum + lines!.count, 0), 'mark') }}</span></label>
        <p v-if="notLines.length > 0" class="quiet under">As lines, left out: {{ notLines.join('; ') }}.</p>
        <template v-if="staysLines && linesBack.length > 0">
          <label><input v-model="goesBack" type="checkbox" /> <span><b>Back in place</b>: they take the place of what went out</span></label>
          <ul v-if="goesBack" class="finds" data-test="lines-back">
            <li v-for="each in linesBack" :key="each.drawingId" :class="{ quiet: each.why !== null }"><b>{{ each.name }}</b> {{ each.why === null ? `→ ${each.where}` : `stays out: ${each.why}.` }}</li>
          </ul>
        </template>
      </fieldset>
      <p v-if="outcome" class="outcome" data-test="outcome">{{ outcome }}</p>
      <ol v-if="others.length > 0" class="items">
        <li v-for="(item, i) in others" :key="i">
          <canvas v-if="item.thumb" :ref="(element) => paint(element, item)" aria-hidden="true" />
          <span v-else class="kind">{{ item.layers === null ? 'lines' : many(item.layers.length, 'layer') }}</span>
          <span class="name" :title="item.name">{{ item.name }}<small v-if="item.note" class="quiet"> {{ item.note }}</small></span>
          <span v-if="as === 'levels' && item.layers" class="quiet names">{{ item.layers.map(({ layer }) => layer.name).join(', ') }}</span>
        </li>
      </ol>
      <div v-if="bad.length > 0" class="bad" role="alert">
        <b>Left out:</b>
        <ul>
          <li v-for="(item, i) in bad" :key="i">“{{ item.name }}”: {{ item.bad }}</li>
        </ul>
      </div>
      <footer>
        <span class="grow" />
        <button class="push-button" @click="cancel">Cancel</button>
        <button class="push-button strong" :disabled="nothing" @click="bring">Bring in</button>
      </footer>
    </template>
  </Dialog>
</template>

<style scoped>
.over {
  position: fixed;
  z-index: 2000;
  inset: 8px;
  display: grid;
  place-items: center;
  border: 3px dashed var(--blue);
  border-radius: 12px;
  background: color-mix(in srgb, var(--blue-wash) 82%, transparent);
  pointer-events: none;
}
.over p {
  color: var(--blue);
  font-size: 18px;
  font-weight: 600;
}
fieldset {
  display: grid;
  gap: 2px;
  margin: 0 0 10px;
  padding: 0;
  border: 0;
}
.fits {
  display: flex;
  gap: 16px;
}
label {
  display: flex;
  align-items: center;
  gap: 7px;
  min-height: 24px;
}
.under {
  padding-left: 22px;
}
.finds {
  max-height: 200px;
  padding: 0;
  margin: 0 0 10px;
  overflow-y: auto;
  list-style: none;
}
.finds li {
  padding: 4px 0;
  border-top: 1px solid var(--rule);
}
.outcome {
  margin: 0 0 6px;
  font-weight: 600;
}
.items {
  max-height: 280px;
  margin: 0;
  padding: 0;
  overflow-y: auto;
  list-style-position: inside;
}
.items li {
  display: flex;
  align-items: center;
  gap: 10px;
  min-height: 40px;
  border-top: 1px solid var(--rule);
}
.items canvas,
.kind {
  flex: none;
  width: 56px;
  height: 32px;
  object-fit: contain;
  border: 1px solid var(--rule);
  background: #ffffff;
}
.kind {
  display: grid;
  place-items: center;
  background: var(--paper-2);
  font-size: 11px;
}
.name {
  flex: 1;
  overflow: hidden;
  text-overflow: ellipsis;
}
.names {
  flex: 1.4;
  overflow: hidden;
  font-size: 12px;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.bad {
  max-height: 130px;
  margin-top: 10px;
  padding: 6px 10px;
  overflow-y: auto;
  border-radius: 6px;
  background: var(--vermilion-wash);
  color: var(--vermilion-text);
}
.bad ul {
  margin: 0;
  padding-left: 18px;
}
footer {
  display: flex;
  gap: 8px;
  margin-top: 14px;
}
.grow {
  flex: 1;
}
p {
  margin: 0 0 8px;
}
</style>

<script setup lang="ts">
import { hasStandIns as takeHasStandIns } from '@rubato/core/document'
import { filmFiles } from '@rubato/core/stage'
import { secondsOfFrames } from '@rubato/core/time'
import { computed, watch } from 'vue'
import { factsOf } from '#shared/handOver'
import HandOverDress from '~/components/handover/HandOverDress.vue'
import HandOverPreview from '~/components/handover/HandOverPreview.vue'
import HandOverLook from '~/components/handover/HandOverLook.vue'
import HandOverMade from '~/components/handover/HandOverMade.vue'
import HandOverRenders from '~/components/handover/HandOverRenders.vue'
import HandOverPresets from '~/components/handover/HandOverPresets.vue'
import { useHandOver } from '~/composables/handover/useHandOver'
import { useHandOverChoice } from '~/composables/handover/useHandOverChoice'
import { useDeskStore } from '~/stores/desk'
import { useFilmStore } from '~/stores/film'
import { useRendersStore } from '~/stores/renders'
import { useSoundStore } from '~/stores/sound'
import { useTimingStore } from '~/stores/timing'
import { MOST_HANDLES } from '#shared/renders'
import { formatsOf, type FormatId } from '~/workers/formats'

const visible = defineModel<boolean>('visible', { required: true })
const film = useFilmStore()
const desk = useDeskStore()
const timing = useTimingStore()
const sounds = useSoundStore()
const chosen = useHandOverChoice()
const { choice } = chosen
const renders = useRendersStore()
const { unmade, lookWhatCan, isForServer, framesOf, items, busy, secondsLeft, start, cancel, save, forget, estimate, movieBeside, rangeOf } = useHandOver()

const hasSound = computed(() => sounds.placed.clips.length > 0)
const FRAMES = formatsOf('frames')
const EACH = [
  { label: 'One file', value: 'whole' },
  { label: 'A file for each shot', value: 'shot' },
] as const
const WHERE = [
  { label: 'In this window', value: 'window' },
  { label: 'On the server', value: 'server' },
] as const
const PRIORITIES = [
  { label: 'before others', value: 1 },
  { label: 'in its turn', value: 0 },
  { label: 'after others', value: -1 },
] as const
const [CUTS, WORDS] = [formatsOf('cut'), formatsOf('words')]
const isArt = ({ id }: { readonly id: FormatId }) => factsOf(id).art === true
const GROUPS = [
  { name: 'Picture', formats: FRAMES },
  { name: 'Sound', formats: formatsOf('sound') },
  { name: 'Art, shot by shot', formats: formatsOf('stage').filter(isArt) },
  { name: 'Set and camera, shot by shot', formats: formatsOf('stage').filter((each) => !isArt(each)) },
  { name: 'The cut', formats: CUTS },
  { name: 'Words', formats: WORDS },
] as const
/** Why a format can't be had now; null where it can. */
function whyNot(id: FormatId): string | null {
  const { made, leastPx: [width, height] = [0, 0] } = factsOf(id)
  if (made === 'window' && unmade.value.has(id)) return 'This browser can’t write it at this size and rate'
  if (film.project !== null && (film.project.widthPx * choice.size < width || film.project.heightPx * choice.size < height)) return `It can’t be smaller than ${width} × ${height}`
  if (id === 'wav' && !hasSound.value) return 'The film has no sound yet'
  if (id === 'marks' && timing.marks.length === 0) return 'There are no marks on the ruler'
  return null
}
const wanted = computed(() => choice.formats.filter((id) => whyNot(id) === null))
const isOn = (id: FormatId) => wanted.value.includes(id)
function toggle(id: FormatId, on: boolean) {
  const order = GROUPS.flatMap(({ formats }) => formats.map((each) => each.id))
  const now = new Set(choice.formats)
  if (on) now.add(id)
  else now.delete(id)
  choice.formats = order.filter((each) => now.has(each))
}

const hasStandIns = computed(() => film.filmStage.shots.some(({ shot }) => ((body) => body !== null && takeHasStandIns(body))(film.takeOf(shot.circledTakeId))))
const ranges = computed(() => [
  { label: `Shot ${desk.placedShot?.shot.label ?? ''}`, value: 'shot' as const },
  { label: `Sequence ${film.outline.sequences[desk.placedShot?.shot.sequenceId ?? '']?.label ?? ''}`, value: 'sequence' as const },
  ...(timing.range === null ? [] : [{ label: `In to out, ${timing.moment(timing.range.start)} to ${timing.moment(timing.range.end - 1)}`, value: 'range' as const }]),
  { label: 'Whole film', value: 'film' as const },
])
watch(visible, (on) => {
  if (!on) return
  forget()
  void lookWhatCan(FRAMES.map(({ id }) => id))
  void renders.look()
  // A range that is set is what one is about to hand over.
  if (timing.range !== null && timing.loop === 'range') choice.range = 'range'
  else if (timing.range === null && choice.range === 'range') choice.range = 'shot'
})
const frames = computed(() => framesOf(choice))
const touched = computed(() => filmFiles(film.filmStage, rangeOf(choice.range), 'shot').length)
/** Something of it can be made in either place. */
const canChoose = computed(() => wanted.value.some((id) => factsOf(id).made === 'either' && !unmade.value.has(id)))
const onServer = computed(() => wanted.value.filter((id) => isForServer(choice, id)))
const takesFrames = computed(() => FRAMES.some(({ id }) => isOn(id)))
const takesLayers = computed(() => isOn('layers'))
const takesPictures = computed(() => isOn('png'))
const takesSound = computed(() => FRAMES.some(({ id, format }) => isOn(id) && format.sound))
const takesCut = computed(() => CUTS.some(({ id }) => isOn(id)))
const endsCrossed = computed(() => takesFrames.value && choice.depth !== null && choice.depth.nearest !== null && choice.depth.farthest !== null && choice.depth.farthest <= choice.depth.nearest)
/** What is left out, and why. */
const leftOut = computed(() => {
  const said: string[] = []
  if (takesFrames.value) said.push(hasStandIns.value && !choice.standIns ? 'Reference levels and stand-ins are left out.' : 'Reference levels are left out.')
  const forced = onServer.value.filter((id) => choice.where === 'window' || factsOf(id).made === 'server')
  if (forced.length > 0) said.push(`${forced.map((id) => factsOf(id).label).join(', ')}: made on the server${forced.some((id) => factsOf(id).made === 'either') ? ', as this browser can’t' : ''}.`)
  const takesWords = WORDS.some(({ id }) => isOn(id))
  if (takesCut.value) said.push(`The cut ${takesWords ? 'and words are' : 'is'} always of the whole film; the cut has no art.`)
  else if (takesWords) said.push('Words are always of the whole film.')
  if (isOn('glb')) said.push(film.project?.metresPerFw === undefined ? 'No scale is declared, so a frame width is a metre in 3D; fades, haze and focus are left out there.' : 'Fades, haze and focus are left out in 3D.')
  if (takesLayers.value) said.push('Levels come shot by shot, as drawn: without what is written, tones, slate and card.')
  const lost = choice.formats.filter((id) => whyNot(id) !== null)
  for (const id of lost) said.push(`${GROUPS.flatMap(({ formats }) => [...formats]).find((each) => each.id === id)?.format.label}: ${whyNot(id)!.toLowerCase()}.`)
  return said
})
const sizeWords = computed(() => {
  const { bytes, seconds, isGuess } = estimate({ ...choice, formats: wanted.value })
  if (bytes === 0) return ''
  const size = bytes < 1e6 ? `${Math.max(1, Math.round(bytes / 1e3))} kB` : `${(bytes / 1e6).toFixed(bytes < 1e7 ? 1 : 0)} MB`
  const time = seconds < 1.5 ? 'a second' : seconds < 90 ? `${Math.round(seconds)} s` : `${Math.round(seconds / 60)} min`
  return `${isGuess ? 'at a guess' : 'about'} ${size}, ${time}`
})
const beside = computed(() => (isOn('otio') ? movieBeside({ ...choice, formats: wanted.value }) : null))
const submit = () => start({ ...chosen.copy(), formats: [...wanted.value] })
</script>

<template>
  <Dialog v-model:visible="visible" modal header="Hand over" :style="{ width: takesFrames ? '1120px' : '780px' }" :closable="!busy" :close-on-escape="!busy">
    <form class="form" @submit.prevent="submit">
      <div class="top">
        <label>What <Select v-model="choice.range" size="small" :options="ranges" option-label="label" option-value="value" :disabled="busy" aria-label="What" /></label>
        <HandOverPresets :presets="chosen.presets.value" :same="chosen.same.value" :disabled="busy" @take="chosen.take" @keep="chosen.keep" @drop="chosen.drop" />
      </div>
      <div class="columns" :class="{ wide: takesFrames }">
        <div class="formats" role="group" aria-label="As">
          <fieldset v-for="group in GROUPS" :key="group.name">
            <legend>{{ group.name }}</legend>
            <label v-for="{ id, format } in group.formats" :key="id" :class="{ cannot: whyNot(id) !== null }" :title="whyNot(id) ?? ''">
              <input type="checkbox" :checked="isOn(id)" :disabled="busy || whyNot(id) !== null" @change="(event) => toggle(id, (event.target as HTMLInputElement).checked)" /> {{ format.label }}
            </label>
          </fieldset>
        </div>
        <div class="look">
          <HandOverLook v-if="takesFrames" v-model="choice" :busy="busy" :takes-sound="takesSound" :takes-pictures="takesPictures" :takes-layers="takesLayers" :has-sound="hasSound" :has-stand-ins="hasStandIns" />
          <div v-if="takesFrames || isOn('wav')" class="row">
            <span>As</span>
            <span class="each">
              <Select v-model="choice.each" size="small" :options="[...EACH]" option-label="label" option-value="value" :disabled="busy || (touched < 2 && choice.each === 'whole' && choice.range !== 'shot')" aria-label="As one file or several" />
              <label v-if="choice.each === 'shot'" class="check" title="Frames more before and after each shot, for the edit to lean on: what goes on goes on there, and no other shot is seen"><input v-model.number="choice.handles" type="number" class="plain-field mono" min="0" :max="MOST_HANDLES" :disabled="busy" aria-label="Handles, frames" /> frames of handle</label>
            </span>
          </div>
          <div v-if="canChoose || onServer.length > 0" class="row">
            <span>Made</span>
            <span class="each">
              <Select v-if="canChoose" v-model="choice.where" size="small" :options="[...WHERE]" option-label="label" option-value="value" :disabled="busy" aria-label="Made where" />
              <span v-else>on the server,</span>
              <Select v-if="onServer.length > 0" v-model="choice.priority" size="small" :options="[...PRIORITIES]" option-label="label" option-value="value" :disabled="busy" aria-label="When" />
            </span>
          </div>
          <label v-if="isOn('otio')" class="plain" title="Each shot holds its panels, and which camera is live when; without, each is one clip"><input v-model="choice.nested" type="checkbox" :disabled="busy" /> Panels and cameras inside each shot of the timeline</label>
          <p v-if="beside" class="quiet">The timeline refers to <b>{{ beside }}</b>, which is made with it.</p>
          <p v-else-if="isOn('otio')" class="quiet">Choose the whole film and a movie too, and the timeline refers to it.</p>
          <HandOverRenders v-if="renders.list.length > 0 || renders.trouble !== null" />
          <HandOverMade v-if="items.length > 0" :items="items" :seconds-left="secondsLeft" @save="save" />
          <p v-if="wanted.length === 0" class="quiet">Choose at the left what is to be made: several at once, if you like.</p>
        </div>
        <div v-if="takesFrames" class="look">
          <HandOverPreview v-model="choice" :busy="busy" />
          <HandOverDress v-model="choice" :busy="busy" />
        </div>
      </div>
      <p v-if="endsCrossed" class="failed" role="alert">What is white must be nearer than what is black.</p>
      <div class="actions">
        <p class="quiet sum">
          <span v-if="takesFrames || isOn('wav')">{{ frames }} frames, {{ film.project ? secondsOfFrames(frames, film.project.rate).toFixed(2) : 0 }} s<template v-if="sizeWords">; {{ sizeWords }}</template>. </span>{{ leftOut.join(' ') }}
        </p>
        <button v-if="busy" type="button" class="push-button" data-test="export-cancel" @click="cancel">Cancel</button>
        <template v-else>
          <button type="button" class="push-button" @click="visible = false">Close</button>
          <button type="submit" class="push-button strong" :disabled="wanted.length === 0 || endsCrossed || !(choice.handles >= 0 && choice.handles <= MOST_HANDLES) || ((takesFrames || isOn('wav')) && frames === 0)">{{ wanted.length > 1 ? `Make ${wanted.length} files` : onServer.length > 0 ? 'Make it on the server' : 'Make it' }}</button>
        </template>
      </div>
    </form>
  </Dialog>
</template>

<style scoped>
.form {
  display: flex;
  flex-direction: column;
  gap: 10px;
}
.top {
  display: flex;
  align-items: center;
  justify-content: space-between;
  gap: 12px;
}
.top > label {
  display: flex;
  align-items: center;
  gap: 10px;
}
.columns {
  display: grid;
  grid-template-columns: 322px minmax(0, 1fr);
  gap: 18px;
}
.columns.wide {
  grid-template-columns: 290px minmax(0, 1fr) 392px;
}
fieldset {
  margin: 0 0 6px;
  padding: 0;
  border: 0;
}
legend {
  padding: 0;
  color: var(--ink-2);
  font-size: 12px;
}
.formats label,
.plain {
  display: flex;
  align-items: center;
  gap: 7px;
  min-height: 24px;
}
.cannot {
  color: var(--ink-3);
}
.look {
  display: flex;
  flex-direction: column;
  gap: 9px;
  padding-left: 18px;
  border-left: 1px solid var(--rule);
}
.row {
  display: grid;
  grid-template-columns: 74px 1fr;
  align-items: center;
}
.each,
.check {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 6px;
}
.each input {
  width: 56px;
}
p {
  margin: 0;
}
.sum {
  flex: 1;
  align-self: center;
}
.actions {
  position: sticky;
  z-index: 1;
  /* Nothing is seen between it and the dialog's edge. */
  bottom: -20px;
  display: flex;
  margin-bottom: -20px;
  padding: 6px 0 20px;
  background: var(--paper-0);
  justify-content: flex-end;
  gap: 8px;
}
.failed {
  padding: 8px 10px;
  border-left: 3px solid var(--vermilion);
  background: var(--vermilion-wash);
}
</style>

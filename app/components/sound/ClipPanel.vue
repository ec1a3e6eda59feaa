<script setup lang="ts">
import { inOrder, type Clip, shorten } from '@rubato/core/document'
import { editClip } from '@rubato/core/edits'
import { PAUSE_WISHES } from '@rubato/core/sound'
import { computed, ref } from 'vue'
import NumberField from '~/components/fields/NumberField.vue'
import { useScrub } from '~/composables/view/useScrub'
import { useSound } from '~/composables/sound/useSound'
import { useDeskStore } from '~/stores/desk'
import { useFilmStore } from '~/stores/film'
import { useSoundStore } from '~/stores/sound'

/** The chosen clips: how loud, whose line, what they are tied to. */
const film = useFilmStore()
const desk = useDeskStore()
const sound = useSoundStore()
const { setClip, tie, splitHere, duplicate, remove, placeUnderPanel, panelToLine, panelOf, findSplits } = useSound()
const scrub = useScrub()
const clip = computed<Clip | null>(() => (sound.chosenClips.length === 1 ? sound.chosenClips[0]! : null))
const threshold = ref<number>(PAUSE_WISHES.thresholdDb)
const least = ref<number>(PAUSE_WISHES.leastSeconds)

type Gain = 'gainDb' | 'fadeInSeconds' | 'fadeOutSeconds'
const NAMES: Readonly<Record<Gain, string>> = { gainDb: 'gain', fadeInSeconds: 'fade in', fadeOutSeconds: 'fade out' }
const make = (key: Gain, value: number) => (f: typeof film.film) => editClip(f.outline, film.project!.id, clip.value!.id, { [key]: value })
const most = (key: Gain) => (key === 'gainDb' ? 24 : Math.max(0, (clip.value?.lengthSeconds ?? 0) - (key === 'fadeInSeconds' ? (clip.value?.fadeOutSeconds ?? 0) : (clip.value?.fadeInSeconds ?? 0))))

/** Lists of a long film stay short: what lies around is offered. */
const SHOTS_AROUND = 12
const LINES_AROUND = 30

/** What characters say, from the script, around the clip's own line or those of its shot. */
const lines = computed(() => {
  const all = inOrder(film.outline.passages).filter((passage) => passage.kind === 'dialogue')
  if (all.length <= 2 * LINES_AROUND) return all
  const takeId = film.outline.shots[clip.value?.shotId ?? '']?.circledTakeId
  const linked = new Set(Object.values(film.outline.links).flatMap((link) => (link.takeId === takeId ? [link.passageId] : [])))
  const anchor = Math.max(0, all.findIndex((passage) => passage.id === clip.value?.passageId || (clip.value?.passageId === null && linked.has(passage.id))))
  return all.slice(Math.max(0, anchor - LINES_AROUND), anchor + LINES_AROUND)
})
const changedWords = computed(() => {
  const passage = clip.value?.passageId === null || clip.value === null ? undefined : film.outline.passages[clip.value.passageId]
  return passage !== undefined && passage.text !== clip.value!.line ? passage.text : null
})
function takeLine(id: string) {
  const passage = film.outline.passages[id]
  if (clip.value === null) return
  if (passage === undefined) setClip(clip.value.id, 'line of the clip', { passageId: null })
  else setClip(clip.value.id, 'line of the clip', { passageId: id, speaker: shorten(passage.speaker, 200), line: shorten(passage.text, 20_000) })
}
const keep = (key: 'name' | 'speaker' | 'line', value: string) => clip.value !== null && value !== clip.value[key] && setClip(clip.value.id, `${key} of the clip`, { [key]: value })

const tiedTo = computed(() => (sound.chosenClips.every((each) => each.shotId === sound.chosenClips[0]?.shotId) ? (sound.chosenClips[0]?.shotId ?? '') : '-'))
const shots = computed(() => {
  const { shots: all, placeOf } = film.filmStage
  const own = sound.chosenClips.flatMap((each) => (each.shotId === null ? [] : (placeOf(each.shotId)?.index ?? [])))
  const here = placeOf(desk.shotId ?? '')?.index ?? 0
  const around = [...own.slice(0, 4), here]
  return all
    .filter(({ index }) => around.some((at) => Math.abs(at - index) <= SHOTS_AROUND))
    .map(({ shot, index }) => ({ id: shot.id, label: `shot ${shot.label}${index === here ? ' (playhead)' : ''}${shot.title === '' ? '' : ` ${shot.title.slice(0, 24)}`}` }))
})
const panel = computed(() => (clip.value === null ? null : panelOf(clip.value)))
</script>

<template>
  <div class="group" data-test="clip-panel" @keydown.esc.stop="sound.chooseNothing">
    <h3>
      <template v-if="clip">{{ clip.name || 'Clip' }} <span class="quiet">{{ clip.lengthSeconds.toFixed(2) }} s of {{ clip.sourceSeconds.toFixed(2) }}</span></template>
      <template v-else>{{ sound.chosenClips.length }} clips</template>
    </h3>
    <div v-if="clip" class="pair three">
      <NumberField v-for="key in (['gainDb', 'fadeInSeconds', 'fadeOutSeconds'] as const)" :key="key" :label="{ gainDb: 'gain', fadeInSeconds: 'in', fadeOutSeconds: 'out' }[key]" :unit="key === 'gainDb' ? 'dB' : 's'" :model-value="clip[key]" :step="key === 'gainDb' ? 0.5 : 0.05" :min="key === 'gainDb' ? -60 : 0" :max="most(key)" :decimals="key === 'gainDb' ? 1 : 2" :reset-to="0" :data-test="`clip-${key}`" v-on="scrub.field(`${NAMES[key]} of ${clip.name}`, (v) => make(key, v))" />
    </div>
    <label class="row"><span class="quiet">Tie to</span>
      <select :value="tiedTo" aria-label="What the clip is tied to" title="What the clip keeps its place in; it stays where it is. For a shot far off, put the playhead there" @change="(e) => tie((e.target as HTMLSelectElement).value || null)">
        <option v-if="tiedTo === '-'" value="-" disabled>different shots</option>
        <option value="">the film’s start</option>
        <option v-for="shot in shots" :key="shot.id" :value="shot.id">{{ shot.label }}</option>
      </select>
    </label>
    <template v-if="clip">
      <label class="row"><span class="quiet">Name</span><input :key="`${clip.id}n${clip.name}`" :value.attr="clip.name" maxlength="200" @change="(e) => keep('name', (e.target as HTMLInputElement).value)" /></label>
      <label class="row"><span class="quiet">Who</span><input :key="`${clip.id}w${clip.speaker}`" :value.attr="clip.speaker" maxlength="200" placeholder="character" aria-label="Who speaks" @change="(e) => keep('speaker', (e.target as HTMLInputElement).value)" /></label>
      <label v-if="lines.length > 0" class="row"><span class="quiet">Script</span>
        <select :value="clip.passageId ?? ''" aria-label="Line of the script" @change="(e) => takeLine((e.target as HTMLSelectElement).value)">
          <option value="">no line of the script</option>
          <option v-for="line in lines" :key="line.id" :value="line.id">{{ line.speaker }}: {{ line.text.slice(0, 60) }}</option>
        </select>
      </label>
      <textarea :key="`${clip.id}l${clip.line}`" :defaultValue.prop="clip.line" rows="2" maxlength="20000" placeholder="The line" aria-label="The line" @change="(e) => keep('line', (e.target as HTMLTextAreaElement).value)" />
      <p v-if="changedWords !== null" class="quiet small">The script now says “{{ changedWords }}”. <button class="link" @click="takeLine(clip.passageId!)">Take its words</button></p>
      <div class="buttons">
        <button class="push-button" :title="panel ? `The clip begins with panel ${panel.number}` : 'Choose a panel first'" :disabled="panel === null" @click="placeUnderPanel(clip.id)">Place under panel</button>
        <button class="push-button" :title="panel ? `Panel ${panel.number} lasts as long as the line, with the pauses` : 'Choose a panel first'" :disabled="panel === null" @click="panelToLine(clip.id)">Panel to line</button>
      </div>
      <div class="pair">
        <NumberField :model-value="sound.headFrames" label="before" unit="f" :step="1" :min="0" :max="500" :decimals="0" :reset-to="6" @set="(v) => (sound.headFrames = v)" @scrub="(v) => (sound.headFrames = Math.round(v))" />
        <NumberField :model-value="sound.tailFrames" label="after" unit="f" :step="1" :min="0" :max="500" :decimals="0" :reset-to="8" @set="(v) => (sound.tailFrames = v)" @scrub="(v) => (sound.tailFrames = Math.round(v))" />
      </div>
      <div class="pauses">
        <button class="push-button" title="Pauses are proposed as splits, one after the other" @click="findSplits(clip.id, threshold, least)">Find pauses</button>
        <label title="No louder than this is a pause">below <input v-model.number="threshold" class="mono" type="number" min="-42" max="-6" step="1" /> dB</label>
        <label title="Pauses shorter than this are left">for <input v-model.number="least" class="mono" type="number" min="0.05" max="10" step="0.05" /> s</label>
      </div>
    </template>
    <div class="buttons">
      <button class="push-button" title="At the playhead (Y)" @click="splitHere">Split</button>
      <button class="push-button" title="Right after itself (Shift N)" @click="duplicate">Duplicate</button>
      <button class="push-button" title="Out of the film; undo brings it back (Delete)" @click="remove">Delete</button>
    </div>
  </div>
</template>

<style scoped src="../desk/inspector/panel.css" />

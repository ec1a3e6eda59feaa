<script setup lang="ts">
import { shorten } from '@rubato/core/document'
import { wavFile } from '@rubato/core/interchange'
import { babble, BABBLE_RATE_HZ, voiceOf } from '@rubato/core/sound'
import { useLocalStorage } from '@vueuse/core'
import { computed, onBeforeUnmount, ref, watch } from 'vue'
import NumberField from '~/components/fields/NumberField.vue'
import { SIMULATED, useMicrophone } from '~/composables/sound/useMicrophone'
import { usePlayback } from '~/composables/playback/usePlayback'
import { useSound, type Spoken } from '~/composables/sound/useSound'
import { useSoundPlayerStore } from '~/stores/soundPlayer'
import { useDeskStore } from '~/stores/desk'
import { useFilmStore } from '~/stores/film'
import { useSoundStore } from '~/stores/sound'

/** Scratch lines: said by a made-up voice, or into a microphone while the film plays. */
const film = useFilmStore()
const desk = useDeskStore()
const sound = useSoundStore()
const { bringWave } = useSound()
const player = useSoundPlayerStore()
const playback = usePlayback()
const { microphones, recording, level, seconds, look, start, stop } = useMicrophone()

const visible = computed({ get: () => sound.voicing !== null, set: (now) => !now && void close() })
const speaker = ref('')
const words = ref('')
const spoken = ref<Spoken>({ speaker: '', line: '', passageId: null, panelId: null })
const pace = useLocalStorage('rubato.voicePace', 1)
const microphone = useLocalStorage('rubato.microphone', SIMULATED.id)
const along = useLocalStorage('rubato.recordAlong', true)
const busy = ref(false)
const problem = ref<string | null>(null)
let startFrame = 0
let heard: AudioBufferSourceNode | null = null
let gate = new AbortController()

const panelName = computed(() => (desk.placedPanel === null ? '' : `panel ${desk.placedPanel.index + 1} of shot ${desk.placedShot?.shot.label ?? ''}`))
const duration = computed(() => babble(words.value, voiceOf(speaker.value), pace.value).length / BABBLE_RATE_HZ)

/** The panel's line: its own words, and the script's passage where it shows one. */
function fromPanel() {
  const panel = desk.placedPanel?.panel
  const link = Object.values(film.outline.links).find((each) => each.takeId === desk.takeId && each.panelId === panel?.id && film.outline.passages[each.passageId]?.kind === 'dialogue')
  const passage = link === undefined ? undefined : film.outline.passages[link.passageId]
  const [, who = '', said = ''] = /^(?:([^:\n]{1,40}):\s*)?([\s\S]*)$/.exec((panel?.dialogue ?? '').split('\n')[0]!.trim()) ?? []
  speaker.value = passage?.speaker ?? who
  words.value = passage?.text ?? said
  spoken.value = { speaker: '', line: '', passageId: passage?.id ?? null, panelId: panel?.id ?? null }
}
watch(visible, (now) => {
  if (!now) return
  playback.stop()
  problem.value = null
  if (!microphones.value.some((each) => each.id === microphone.value)) microphone.value = SIMULATED.id
  fromPanel()
  void look()
})
watch(() => (sound.voicing !== null && !recording.value && !busy.value ? [desk.takeId, desk.placedPanel?.panel.id] : null), (now, before) => now !== null && before !== null && before !== undefined && now.join() !== before.join() && fromPanel())

function hear() {
  heard?.stop()
  heard = player.playOnce(babble(words.value, voiceOf(speaker.value), pace.value), BABBLE_RATE_HZ)
}
const lineName = () => shorten(`${speaker.value.trim() || 'Line'}, ${shorten(words.value.trim(), 40) || 'recorded'}`, 200)
const says = (): Spoken => ({ ...spoken.value, speaker: shorten(speaker.value.trim(), 200), line: words.value.trim() })

async function keep(wave: Float32Array, sampleRateHz: number, frame: number) {
  busy.value = true
  problem.value = null
  gate = new AbortController()
  try {
    if (wave.length === 0) throw new Error('There is nothing in it.')
    await bringWave(new Blob([wavFile([wave], sampleRateHz)], { type: 'audio/wav' }), lineName(), frame, says(), gate.signal)
    return true
  } catch (error) {
    if (!gate.signal.aborted) problem.value = `The line was not kept. ${(error as Error).message}`
    return false
  } finally {
    busy.value = false
  }
}
async function putWords() {
  const frame = (desk.placedShot?.startFrame ?? 0) + (desk.placedPanel?.startFrame ?? 0)
  if (await keep(babble(words.value, voiceOf(speaker.value), pace.value), BABBLE_RATE_HZ, frame)) sound.voicing = null
}

async function record() {
  problem.value = null
  startFrame = desk.playhead
  try {
    await start(microphone.value, words.value, speaker.value)
    void look()
    if (along.value && film.project !== null) playback.play()
  } catch (error) {
    problem.value = (error as Error).message
  }
}
async function end() {
  playback.stop()
  const { wave, sampleRateHz } = await stop()
  if (await keep(wave, sampleRateHz, startFrame)) {
    desk.goTo(startFrame)
    sound.voicing = null
  }
}
// It ends by itself when it has become too long.
watch(recording, (now, before) => before && !now && !busy.value && sound.voicing !== null && void end())

async function close() {
  heard?.stop()
  gate.abort(new Error('Cancelled.'))
  if (recording.value) {
    sound.voicing = null
    playback.stop()
    await stop()
  }
  sound.voicing = null
}
onBeforeUnmount(() => heard?.stop())
</script>

<template>
  <Dialog v-model:visible="visible" modal header="Scratch line" position="left" :style="{ width: '340px' }" :pt="{ mask: { style: 'background: transparent' } }" :closable="!busy">
    <div class="modes" role="group" aria-label="How the line is made">
      <button class="push-button" :aria-pressed="sound.voicing === 'words'" :disabled="recording || busy" title="A made-up voice babbles the words: the same words always the same way" @click="sound.voicing = 'words'">Made-up voice</button>
      <button class="push-button" :aria-pressed="sound.voicing === 'microphone'" :disabled="recording || busy" title="Say it yourself, or have the simulated microphone hear it" @click="sound.voicing = 'microphone'">Microphone</button>
    </div>
    <p class="quiet">For {{ panelName }}.</p>
    <label>Who <input v-model="speaker" maxlength="200" placeholder="character" aria-label="Who speaks" :disabled="recording || busy" /></label>
    <textarea v-model="words" rows="3" maxlength="2000" placeholder="What is said" aria-label="What is said" :disabled="recording || busy" />
    <template v-if="sound.voicing === 'words'">
      <NumberField label="Pace" unit="×" :model-value="pace" :step="0.05" :min="0.5" :max="2" :decimals="2" :reset-to="1" @set="(v) => (pace = v)" @scrub="(v) => (pace = v)" />
      <p class="quiet">{{ duration > 0 ? `${duration.toFixed(2)} s` : 'Type what is said: without words there is no line.' }}</p>
    </template>
    <template v-else>
      <label>From <select v-model="microphone" :disabled="recording || busy" aria-label="Microphone"><option v-for="each in microphones" :key="each.id" :value="each.id">{{ each.name }}</option></select></label>
      <label class="check"><input v-model="along" type="checkbox" :disabled="recording || busy" /> play the film along, from the playhead</label>
      <p v-if="recording" class="level" role="status"><meter :value="level" min="0" max="1" low="0.05" high="0.9" aria-label="Level" /> <span class="mono">{{ seconds.toFixed(1) }} s</span></p>
      <p v-else class="quiet">What is recorded begins at the playhead, and can be trimmed and slipped.</p>
    </template>
    <p v-if="problem" class="wrong" role="alert">{{ problem }}</p>
    <div class="actions">
      <button class="push-button" @click="close">Cancel</button>
      <template v-if="sound.voicing === 'words'">
        <button class="push-button" :disabled="duration === 0 || busy" @click="hear">Hear it</button>
        <button class="push-button strong" :disabled="duration === 0 || busy" @click="putWords">Put under panel</button>
      </template>
      <button v-else-if="recording" class="push-button strong" @click="end">Stop and keep</button>
      <button v-else class="push-button strong" :disabled="busy" @click="record">Record</button>
    </div>
  </Dialog>
</template>

<style scoped>
.modes {
  display: flex;
  gap: 6px;
}
label {
  display: grid;
  grid-template-columns: 52px 1fr;
  align-items: center;
  margin-bottom: 6px;
}
label.check {
  grid-template-columns: 24px 1fr;
}
input:not([type='checkbox']),
select,
textarea {
  width: 100%;
  padding: 4px 7px;
  border: 1px solid var(--rule);
  border-radius: 5px;
  background: var(--sheet);
  color: var(--ink);
  font: inherit;
}
textarea {
  margin-bottom: 6px;
  color: var(--plum);
  resize: vertical;
}
p {
  margin: 6px 0;
}
.level {
  display: flex;
  align-items: center;
  gap: 10px;
}
meter {
  flex: 1;
  height: 14px;
}
.wrong {
  padding: 6px 9px;
  border-left: 3px solid var(--vermilion);
  background: var(--vermilion-wash);
}
.actions {
  display: flex;
  justify-content: flex-end;
  gap: 8px;
  margin-top: 10px;
}
</style>

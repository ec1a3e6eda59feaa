<script setup lang="ts">
import { DEFAULT_FILM_BACK_MM } from '@rubato/core/camera'
import { rateName, RATES } from '@rubato/core/time'
import { computed, reactive, ref, watch } from 'vue'
import { api } from '~/api/client'
import NumberField from '~/components/fields/NumberField.vue'
import { newProjectSchema } from '#shared/projects'

const visible = defineModel<boolean>('visible', { required: true })
/** A list of a cut that the film is made of: its name, lengths and rate come from there, where it says them. */
const props = defineProps<{ cut?: File | null }>()
const emit = defineEmits<{ made: [id: string, notes: readonly string[]] }>()

const PRESETS = [
  { label: 'Wide, 1920 × 1080', widthPx: 1920, heightPx: 1080 },
  { label: 'Wide and light, 1280 × 720', widthPx: 1280, heightPx: 720 },
  { label: 'Cinema scope, 2048 × 858', widthPx: 2048, heightPx: 858 },
  { label: 'Cinema flat, 1998 × 1080', widthPx: 1998, heightPx: 1080 },
  { label: 'Large, 3840 × 2160', widthPx: 3840, heightPx: 2160 },
  { label: 'Classic, 1440 × 1080', widthPx: 1440, heightPx: 1080 },
  { label: 'Upright, 1080 × 1920', widthPx: 1080, heightPx: 1920 },
]
const rates = RATES.map((rate) => ({ label: `${rateName(rate)} fps`, value: rate }))
const fresh = () => ({ title: '', preset: PRESETS[0]!, widthPx: 1920, heightPx: 1080, rate: RATES[1]!, baseLensMm: 50, defaultPanelFrames: 48 })
const form = reactive(fresh())
const isList = computed(() => props.cut?.name.toLowerCase().endsWith('.edl') === true)
const busy = ref(false)
const trouble = ref<string | null>(null)
watch(visible, (now) => {
  if (!now) return
  Object.assign(form, fresh(), { title: props.cut?.name.replace(/\.[^.]+$/, '') ?? '' })
  trouble.value = null
})
watch(
  () => form.preset,
  (preset) => Object.assign(form, { widthPx: preset.widthPx, heightPx: preset.heightPx }),
)
const settings = computed(() => ({
  title: form.title.trim(),
  rate: { ...form.rate },
  widthPx: form.widthPx,
  heightPx: form.heightPx,
  filmBackMm: DEFAULT_FILM_BACK_MM,
  baseLensMm: form.baseLensMm,
  defaultPanelFrames: form.defaultPanelFrames,
}))
const WORDS: Record<string, string> = {
  title: 'A film needs a name of at most 200 letters.',
  widthPx: 'The width is a whole number from 16 to 8192 px.',
  heightPx: 'The height is a whole number from 16 to 8192 px.',
  baseLensMm: 'The base lens is from 4 to 2000 mm.',
  defaultPanelFrames: 'The default panel length is a whole number of frames, at least 1.',
}

async function make() {
  const parsed = newProjectSchema.safeParse(settings.value)
  if (!parsed.success) {
    const issue = parsed.error.issues[0]!
    trouble.value = WORDS[String(issue.path[0])] ?? issue.message
    return
  }
  busy.value = true
  try {
    const { card, notes } = props.cut ? await api.filmOfCut({ fileName: props.cut.name, text: await props.cut.text(), rate: parsed.data.rate, widthPx: parsed.data.widthPx, heightPx: parsed.data.heightPx }) : { card: await api.createProject(parsed.data), notes: [] }
    visible.value = false
    emit('made', card.project.id, notes)
  } catch (error) {
    trouble.value = `The film was not made. ${(error as Error).message}`
  } finally {
    busy.value = false
  }
}
</script>

<template>
  <Dialog v-model:visible="visible" modal :header="cut ? 'New film of a cut' : 'New film'" :style="{ width: '420px' }">
    <form @submit.prevent="make">
      <p v-if="cut" class="quiet">{{ cut.name }} becomes a film: a shot a picture, of the same lengths, empty. {{ isList ? 'An edit list does not say its rate: choose the one that it was made for.' : 'Its rate is the timeline’s own.' }}</p>
      <label v-else class="wide">Name <InputText size="small" v-model="form.title" autofocus maxlength="200" placeholder="What is it called?" /></label>
      <label class="wide">Size <Select size="small" v-model="form.preset" :options="PRESETS" option-label="label" aria-label="Size" /></label>
      <div class="pair">
        <NumberField label="Width" unit="px" :model-value="form.widthPx" :step="2" :min="16" :max="8192" :decimals="0" @set="(v) => (form.widthPx = Math.round(v))" @scrub="(v) => (form.widthPx = Math.round(v))" />
        <NumberField label="Height" unit="px" :model-value="form.heightPx" :step="2" :min="16" :max="8192" :decimals="0" @set="(v) => (form.heightPx = Math.round(v))" @scrub="(v) => (form.heightPx = Math.round(v))" />
      </div>
      <label v-if="!cut || isList" class="wide">Rate <Select size="small" v-model="form.rate" :options="rates" option-label="label" option-value="value" aria-label="Rate" /></label>
      <div v-if="!cut" class="pair">
        <NumberField label="Base lens" unit="mm" :model-value="form.baseLensMm" :step="1" :min="4" :max="2000" :decimals="1" :reset-to="50" @set="(v) => (form.baseLensMm = v)" @scrub="(v) => (form.baseLensMm = v)" />
        <NumberField label="Panels last" unit="f" :model-value="form.defaultPanelFrames" :step="1" :min="1" :max="100000" :decimals="0" :reset-to="48" @set="(v) => (form.defaultPanelFrames = Math.round(v))" @scrub="(v) => (form.defaultPanelFrames = Math.round(v))" />
      </div>
      <p v-if="trouble" class="trouble" role="alert">{{ trouble }}</p>
      <div class="actions">
        <button type="button" class="push-button" @click="visible = false">Cancel</button>
        <button type="submit" class="push-button strong" :disabled="busy">{{ busy ? 'Making…' : 'Make the film' }}</button>
      </div>
    </form>
  </Dialog>
</template>

<style scoped>
p {
  margin: 0;
}
form {
  display: flex;
  flex-direction: column;
  gap: 10px;
}
.wide {
  display: grid;
  grid-template-columns: 52px 1fr;
  align-items: center;
}
.pair {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 8px;
  padding-left: 52px;
}
.actions {
  display: flex;
  justify-content: flex-end;
  gap: 8px;
}
.trouble {
  margin: 0;
  color: var(--vermilion-text);
}
</style>

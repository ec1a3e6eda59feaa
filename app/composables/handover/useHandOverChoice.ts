import { useLocalStorage } from '@vueuse/core'
import { computed, reactive, watch } from 'vue'
import { NO_BURN_IN, UNDRESSED } from '#shared/renders'
import { useFilmStore } from '~/stores/film'
import { FORMATS } from '~/workers/formats'
import type { HandOverChoice } from './useHandOver'

/** A choice under a name, for any film. */
export interface HandOverPreset {
  readonly name: string
  readonly choice: HandOverChoice
}

const first = (): HandOverChoice => ({
  range: 'shot',
  formats: ['webm'],
  size: 1,
  sound: true,
  burnIn: structuredClone(NO_BURN_IN),
  dress: structuredClone(UNDRESSED),
  standIns: false,
  depth: null,
  clear: false,
  trim: false,
  each: 'whole',
  handles: 0,
  where: 'window',
  priority: 0,
  nested: true,
})

/** What was kept by an earlier Rubato may lack what came since, or have what has gone. */
function whole(kept: Partial<HandOverChoice> | undefined): HandOverChoice {
  const usual = first()
  const choice = { ...usual, ...kept }
  return {
    ...choice,
    burnIn: { ...usual.burnIn, ...choice.burnIn },
    dress: { ...usual.dress, ...choice.dress, card: { ...usual.dress.card, ...choice.dress?.card } },
    formats: Array.isArray(choice.formats) ? choice.formats.filter((id) => Object.hasOwn(FORMATS, id)) : usual.formats,
  }
}

/** What is chosen to be handed over: as it was for this film the last time, and choices under names. */
export function useHandOverChoice() {
  const film = useFilmStore()
  const kept = useLocalStorage<Record<string, HandOverChoice>>('rubato.handOver', {})
  const presets = useLocalStorage<HandOverPreset[]>('rubato.handOverPresets', [])
  const choice = reactive<HandOverChoice>(first())
  const copy = (): HandOverChoice => JSON.parse(JSON.stringify(choice)) as HandOverChoice

  watch(() => film.projectId, (id) => id !== null && Object.assign(choice, whole(kept.value[id])), { immediate: true })
  watch(choice, () => film.projectId !== null && (kept.value = { ...kept.value, [film.projectId]: copy() }))

  const same = computed(() => presets.value.find((preset) => JSON.stringify(whole(preset.choice)) === JSON.stringify(choice))?.name ?? null)
  const take = (name: string) => ((preset) => preset !== undefined && Object.assign(choice, whole(preset.choice)))(presets.value.find((each) => each.name === name))
  const keep = (name: string) => (presets.value = [...presets.value.filter((each) => each.name !== name), { name, choice: copy() }].sort((a, b) => (a.name < b.name ? -1 : 1)))
  const drop = (name: string) => (presets.value = presets.value.filter((each) => each.name !== name))
  return { choice, copy, presets, same, take, keep, drop }
}

<script setup lang="ts">
import { NEAREST_Z } from '@rubato/core/camera'
import type { Level } from '@rubato/core/document'
import { computed, nextTick, ref, useTemplateRef } from 'vue'
import { signedDepth } from '~/components/desk/rack/ladder'
import { useDepths } from '~/composables/levels/useDepths'
import { useDeskStore } from '~/stores/desk'
import { useFilmStore } from '~/stores/film'
import { useRackStore } from '~/stores/rack'
import { DISTANCE_FORMS, readDistance } from '~/text/distances'

/** A distance from the lens, typed in whatever it is thought in. */
const desk = useDeskStore()
const film = useFilmStore()
const rack = useRackStore()
const depths = useDepths()

const panel = useTemplateRef<{ show(event: Event, target?: EventTarget | null): void; hide(): void }>('panel')
const input = useTemplateRef<HTMLInputElement>('input')
const levelIds = ref<readonly string[]>([])
const text = ref('')

function open(event: Event | null, target: EventTarget | null, level: Level) {
  levelIds.value = depths.along(level.id)
  text.value = String(Number((desk.placeOf(level.id).depth - lens.value).toFixed(3)))
  panel.value?.show(event ?? new Event('click'), target)
  void nextTick(() => setTimeout(() => input.value?.select(), 30))
}
defineExpose({ open })

const lens = computed(() => desk.read.pose?.depth ?? 0)
/** The nearest figure before the lens that is not itself meant; else what lies at the picture plane. */
const subject = computed(() => {
  const figures = desk.levels.filter((level) => level.figure === true && level.visible && !levelIds.value.includes(level.id)).map((level) => ({ name: level.name, distance: desk.placeOf(level.id).depth - lens.value }))
  return figures.filter(({ distance }) => distance > 0).sort((a, b) => a.distance - b.distance)[0] ?? { name: 'the picture plane', distance: -lens.value }
})
const read = computed(() => readDistance(text.value, { lensDepth: lens.value, outputWidthPx: film.project?.widthPx ?? 1920, subject: subject.value }))
/** What it comes to for the first of them, or why it can't be. */
const meant = computed<{ readonly ok: boolean; readonly told: string }>(() => {
  if (!read.value.ok) return { ok: false, told: read.value.why }
  const [id] = levelIds.value
  if (id === undefined) return { ok: false, told: '' }
  const before = desk.placeOf(id).depth - lens.value
  const now = read.value.of(before)
  if (!(now >= NEAREST_Z)) return { ok: false, told: 'That is at the lens or behind it.' }
  const field = rack.facts.get(id)?.fieldFw
  const wide = field === undefined ? '' : `; the frame is ${((field * now) / before).toFixed(2)} fw wide there`
  const size = desk.keepPicture ? '' : `; seen ${Math.round((before / now) * 100)} % as large`
  return { ok: true, told: `${now.toFixed(3)} fw from the lens (${signedDepth(now + lens.value, 3)})${wide}${size}.` }
})
function take() {
  if (!read.value.ok || !meant.value.ok) return
  if (depths.setDistance(levelIds.value, read.value.of)) panel.value?.hide()
}
</script>

<template>
  <Popover ref="panel">
    <form class="distance" aria-label="Distance from the lens" @submit.prevent="take" @keydown.esc.stop="panel?.hide()">
      <label>Distance of {{ depths.nameOf(levelIds) }}<input ref="input" v-model="text" class="mono" :class="{ wrong: !meant.ok }" :aria-invalid="!meant.ok" autocomplete="off" spellcheck="false" maxlength="40" data-test="distance" /></label>
      <p :class="{ wrong: !meant.ok }" role="status">{{ meant.told }}</p>
      <dl><template v-for="[form, means] in DISTANCE_FORMS" :key="form"><dt class="mono">{{ form }}</dt><dd>{{ means }}</dd></template></dl>
      <p class="quiet">The subject is {{ subject.name }}, {{ subject.distance.toFixed(2) }} fw away. {{ desk.keepPicture ? 'The picture is kept.' : 'The picture is not kept: what goes away grows small.' }}</p>
      <div><button type="button" class="push-button" @click="panel?.hide()">Cancel</button> <button class="push-button strong" :disabled="!meant.ok">Send there</button></div>
    </form>
  </Popover>
</template>

<style scoped>
.distance {
  display: flex;
  flex-direction: column;
  gap: 7px;
  width: 292px;
}
input {
  display: block;
  width: 100%;
  margin-top: 4px;
  padding: 4px 7px;
  border: 1px solid var(--rule);
  border-radius: 5px;
  background: var(--paper-0);
  color: var(--ink);
  font-size: 14px;
}
input.wrong {
  border-color: var(--vermilion);
}
p {
  margin: 0;
  min-height: 30px;
}
p.wrong {
  color: var(--vermilion-text);
}
dl {
  display: grid;
  grid-template-columns: auto 1fr;
  gap: 2px 10px;
  margin: 0;
  color: var(--ink-2);
  font-size: 11.5px;
}
dd {
  margin: 0;
}
form > div {
  display: flex;
  gap: 6px;
  justify-content: flex-end;
}
</style>

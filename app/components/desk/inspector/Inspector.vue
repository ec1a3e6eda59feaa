<script setup lang="ts">
import { editPanel, retime } from '@rubato/core/edits'
import { framesOfEntry } from '@rubato/core/time'
import { computed, ref, watch } from 'vue'
import { useSpans } from '~/composables/camera/useSpans'
import { useDeskStore } from '~/stores/desk'
import FermataMark from '~/components/desk/strip/FermataMark.vue'
import NumberField from '~/components/fields/NumberField.vue'
import { useAir } from '~/composables/levels/useAir'
import { useScrub } from '~/composables/view/useScrub'
import type { Make } from '~/stores/editing'
import { useFilmStore } from '~/stores/film'
import { useTiming } from '~/composables/strip/useTiming'
import CameraPanel from '~/components/desk/inspector/CameraPanel.vue'
import LevelPanel from '~/components/desk/inspector/LevelPanel.vue'
import CutPanel from '~/components/desk/inspector/CutPanel.vue'
import SpanPanel from '~/components/desk/inspector/SpanPanel.vue'
import MoveFields from '~/components/desk/inspector/MoveFields.vue'
import MovePanel from '~/components/desk/inspector/MovePanel.vue'
import ClipPanel from '~/components/sound/ClipPanel.vue'
import TransitionPanel from '~/components/sound/TransitionPanel.vue'
import { useSoundStore } from '~/stores/sound'
import { useTimingStore } from '~/stores/timing'
import type { Panel } from '@rubato/core/document'

const film = useFilmStore()
const desk = useDeskStore()
const timing = useTimingStore()
const { giverAfter, reachAfter } = useTiming()
const scrub = useScrub()
const spans = useSpans()
const air = useAir()
const sound = useSoundStore()

const takeId = () => desk.takeId!
const panel = computed(() => desk.placedPanel?.panel ?? null)
/** As on the strip: Push or Steal. */
function lengthEdit(value: number, target: Panel): Make {
  const place = { takeId: takeId(), panelId: target.id }
  const mode = timing.modeNow
  const giver = mode === 'steal' ? giverAfter(place) : null
  return (f) => retime(f, film.project!.id, [{ lengths: [{ ...place, lengthFrames: Math.round(value) }], giver }], mode)
}
const words = ref({ action: '', dialogue: '', notes: '' })
watch(panel, (now) => (words.value = { action: now?.action ?? '', dialogue: now?.dialogue ?? '', notes: now?.notes ?? '' }), { immediate: true })
function keepWords(field: 'action' | 'dialogue' | 'notes', target: Panel | null) {
  const value = words.value[field]
  if (target === null || target[field] === value) return
  film.perform(`${field} of panel`, (f) => editPanel(f.takes[takeId()]!, takeId(), target.id, { [field]: value }))
}
</script>

<template>
  <section class="inspector" aria-label="Inspector">
    <ClipPanel v-if="sound.chosenClips.length > 0" />
    <TransitionPanel v-else-if="sound.transitionId !== null" />
    <LevelPanel v-if="desk.selectedLevel && desk.tool === 'level'" />
    <CutPanel v-if="desk.selectedCutFrame !== null" />
    <SpanPanel v-if="spans.selected.value" :key="spans.selected.value.span.id" :placed="spans.selected.value" />
    <MoveFields v-if="air.move.value" :move="air.move.value" />
    <MovePanel />
    <CameraPanel />
    <SpanPanel v-if="!spans.selected.value && spans.shown.value" :key="spans.shown.value.span.id" :placed="spans.shown.value" />

    <LevelPanel v-if="desk.selectedLevel && desk.tool !== 'level'" />

    <div v-if="panel && film.project" class="group">
      <h3>Panel {{ (desk.placedPanel?.index ?? 0) + 1 }} <span class="quiet">{{ timing.length(panel.lengthFrames) }}<template v-if="panel.targetFrames !== undefined"> of {{ timing.length(panel.targetFrames) }}</template></span></h3>
      <div class="pair">
        <NumberField label="Length" unit="f" :model-value="panel.lengthFrames" :step="1" :min="1" :max="1000000" :decimals="0" :reset-to="film.project.defaultPanelFrames" :disabled="panel.lengthLocked" :parse="(text, now) => framesOfEntry(text, film.project!.rate, now)" data-test="panel-length" v-on="{ ...scrub.field(`length of panel ${(desk.placedPanel?.index ?? 0) + 1}`, (v) => lengthEdit(v, panel!), `length:${panel!.id}`), pointerdown: () => void reachAfter(takeId()) }" />
        <button class="push-button fermata" :aria-pressed="panel.lengthLocked" :title="panel.lengthLocked ? 'Fermata: the length is held. Press to let it go.' : 'Put a fermata on: the panel keeps its length'" aria-label="Fermata: hold this length" @click="film.perform(panel.lengthLocked ? 'take fermata off' : 'put fermata on', (f) => editPanel(f.takes[takeId()]!, takeId(), panel!.id, { lengthLocked: !panel!.lengthLocked }))"><FermataMark /></button>
      </div>
      <label class="words"><span class="quiet">Action</span><textarea v-model="words.action" rows="2" maxlength="10000" placeholder="What happens" @blur="keepWords('action', panel)" /></label>
      <label class="words dialogue"><span class="quiet">Dialogue</span><textarea v-model="words.dialogue" rows="2" maxlength="10000" placeholder="NAME: what is said" @blur="keepWords('dialogue', panel)" /></label>
    </div>
  </section>
</template>

<style scoped src="./panel.css" />
<style scoped>
.inspector {
  height: 100%;
  overflow: hidden auto;
  background: var(--paper-0);
  /* A layer of its own, which what moves beside it does not paint anew. */
  will-change: opacity;
}
.words {
  display: block;
  margin-top: 5px;
}
.words textarea {
  display: block;
  margin-bottom: 0;
  color: var(--ink);
}
.dialogue textarea {
  color: var(--plum);
}
</style>

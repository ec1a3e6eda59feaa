<script setup lang="ts">
import { computed } from 'vue'
import { Columns2, ExternalLink, Maximize2, Minimize2, X } from '~/icons'
import CameraBar from '~/components/desk/lens/CameraBar.vue'
import AroundView from '~/components/desk/set/AroundView.vue'
import ChecksView from '~/components/desk/checks/ChecksView.vue'
import CurvesView from '~/components/desk/curves/CurvesView.vue'
import SetView from '~/components/desk/set/SetView.vue'
import WallView from '~/components/desk/set/WallView.vue'
import OtherTakeView from '~/components/desk/takes/OtherTakeView.vue'
import TableView from '~/components/desk/set/TableView.vue'
import ChoiceRow from '~/components/fields/ChoiceRow.vue'
import { useViews } from '~/composables/view/useViews'
import { useDeskStore } from '~/stores/desk'

/** A place for a view beside the lens: which kind it shows is chosen in its head. */
const desk = useDeskStore()
const props = defineProps<{ slotId: 'beside' | 'third' }>()
const { KINDS, arranged, show, toggleThird, toggleAlone, openSecond } = useViews()
const kind = computed(() => arranged.value[props.slotId] ?? 'plan')
const alone = computed(() => arranged.value.alone === props.slotId)
</script>

<template>
  <section class="slot" :aria-label="`View: ${KINDS.find((each) => each.id === kind)!.name}`">
    <header>
      <ChoiceRow class="kinds" label="Kind of view" :choices="KINDS" :model-value="kind" @update:model-value="(id) => show(id, slotId)" />
      <CameraBar v-if="alone" class="camera" />
      <span v-else class="grow" />
      <button v-if="slotId === 'third'" class="icon-button small" title="Close this view (Alt V)" aria-label="Close this view" @click="toggleThird"><X :size="14" /></button>
      <button v-else class="icon-button small" :aria-pressed="arranged.third !== null" title="A third view beside the lens (Alt V)" aria-label="A third view" @click="toggleThird"><Columns2 :size="14" /></button>
      <button v-if="slotId === 'beside'" class="icon-button small" title="A second window for another screen (Alt Shift W)" aria-label="Second window" @click="openSecond()"><ExternalLink :size="14" /></button>
      <button class="icon-button small" :aria-pressed="alone" :title="alone ? 'With the other views again' : 'This view alone'" :aria-label="alone ? 'With the other views' : 'This view alone'" @click="toggleAlone(slotId)"><Minimize2 v-if="alone" :size="14" /><Maximize2 v-else :size="14" /></button>
    </header>
    <div class="body" :class="{ lit: alone && desk.autoKey }">
      <TableView v-if="kind === 'table'" />
      <SetView v-else-if="kind === 'plan' || kind === 'side'" :key="kind" :kind="kind" />
      <AroundView v-else-if="kind === 'around'" />
      <WallView v-else-if="kind === 'wall'" />
      <ChecksView v-else-if="kind === 'checks'" />
      <OtherTakeView v-else-if="kind === 'take'" />
      <CurvesView v-else />
    </div>
  </section>
</template>

<style scoped>
.slot {
  display: flex;
  flex-direction: column;
  height: 100%;
  min-width: 0;
}
header {
  display: flex;
  align-items: center;
  gap: 2px;
  height: 36px;
  padding: 0 6px;
  background: var(--paper-0);
  overflow: hidden;
}
/* All kinds stay readable in a narrow slot. */
.kinds {
  flex: none;
}
.slot {
  container: slot / inline-size;
}
@container slot (max-width: 380px) {
  .kinds :deep(button) {
    padding: 1px 5px;
    font-size: 11px;
  }
}
@container slot (max-width: 345px) {
  .kinds :deep(button) {
    padding: 1px 2px;
    font-size: 10.5px;
  }
  header {
    gap: 0;
    padding: 0 2px;
  }
  header .icon-button.small {
    width: 19px;
  }
}
.camera {
  margin-left: 8px;
}
.grow {
  flex: 1;
}
.body {
  position: relative;
  flex: 1;
  min-height: 0;
}
.body.lit::after {
  content: '';
  position: absolute;
  inset: 0;
  border: 3px solid var(--vermilion);
  pointer-events: none;
}
</style>

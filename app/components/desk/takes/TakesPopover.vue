<script setup lang="ts">
import { inOrder } from '@rubato/core/document'
import { computed, nextTick, ref, useTemplateRef, watch } from 'vue'
import type { Version } from '#shared/versions'
import { api } from '~/api/client'
import TakeCard from '~/components/desk/takes/TakeCard.vue'
import { useViews } from '~/composables/view/useViews'
import { useDeskStore } from '~/stores/desk'
import { useFilmStore } from '~/stores/film'
import { useTakesStore, type PlanSource } from '~/stores/takes'

/** The takes of the shot as cards beside each other; how two are compared; whose framings lie over the lens view. */
const film = useFilmStore()
const desk = useDeskStore()
const takes = useTakesStore()
const { arranged, show, openSecond } = useViews()
const panel = ref<{ show: (event: Event, target?: HTMLElement) => void; hide: () => void } | null>(null)
const opener = useTemplateRef('opener')
const versions = ref<readonly Version[]>([])

watch(
  () => takes.cardsOpen,
  async (open) => {
    await nextTick()
    if (!open || opener.value === null) return panel.value?.hide()
    panel.value?.show({ currentTarget: opener.value } as unknown as Event, opener.value)
    // Without the server there are none to choose from; the takes are here all the same.
    versions.value = film.projectId === null || film.lookingAt !== null ? [] : await api.versions(film.projectId).catch(() => [])
  },
)
const many = computed(() => takes.takes.length > 1)
const beside = computed(() => arranged.value.beside === 'take' || arranged.value.third === 'take')
function toggleBeside() {
  if (!beside.value) {
    arranged.value.alone = null
    show('take', arranged.value.third === null ? 'beside' : 'third')
  } else if (arranged.value.third === 'take') arranged.value.third = null
  else show('plan')
}

const NONE = 'none'
const keyOf = (source: PlanSource | null) => (source === null ? NONE : `${source.kind}:${source.id}`)
const choices = computed(() => {
  const cameras = desk.take === null ? [] : inOrder(desk.take.cameras).filter(({ id }) => id !== desk.cameraAtWorkId)
  const group = (label: string, items: readonly { readonly key: string; readonly name: string; readonly source: PlanSource | null }[]) => (items.length === 0 ? [] : [{ label, items }])
  const item = (source: PlanSource, name: string) => ({ key: keyOf(source), name, source })
  return [
    { label: '', items: [{ key: NONE, name: 'nothing', source: null }] },
    ...group('Takes', takes.takes.filter(({ id }) => id !== desk.takeId).map((take) => item({ kind: 'take', id: take.id }, takes.nameOf(take)))),
    ...group('Cameras', cameras.map(({ id, letter }) => item({ kind: 'camera', id }, `camera ${letter}`))),
    ...group('Versions', versions.value.map(({ id, name }) => item({ kind: 'version', id, name }, name))),
  ]
})
const planKey = computed({
  get: () => (choices.value.some(({ items }) => items.some(({ key }) => key === keyOf(takes.planOf))) ? keyOf(takes.planOf) : NONE),
  set: (key) => (takes.planOf = choices.value.flatMap(({ items }) => items).find((each) => each.key === key)?.source ?? null),
})
</script>

<template>
  <button v-if="desk.placedShot" ref="opener" class="chip opener" :aria-expanded="takes.cardsOpen" aria-haspopup="dialog" title="The shot’s takes (Alt Shift T)" data-test="takes-open" @click="takes.cardsOpen = !takes.cardsOpen">take {{ takes.circled?.letter }}<template v-if="many"> of {{ takes.takes.length }}</template></button>
  <Popover ref="panel" @hide="takes.cardsOpen = false">
    <section class="takes" aria-label="Takes of this shot" @keydown.esc="takes.cardsOpen = false">
      <header>
        <b>Takes of shot {{ desk.placedShot?.shot.label }}</b>
        <span class="grow" />
        <button v-if="takes.circled && film.lookingAt === null" class="push-button" title="A copy of the circled take, with art of its own; the film shows the new one (Alt Shift C)" @click="takes.newFrom(takes.circled)">New take from {{ takes.circled.letter }}</button>
      </header>
      <div class="cards"><TakeCard v-for="take in takes.takes" :key="take.id" :take="take" /></div>
      <footer>
        <template v-if="takes.other && takes.circled">
          <span class="quiet">{{ takes.circled.letter }} and {{ takes.other.letter }}:</span>
          <button class="push-button" :aria-pressed="beside" :title="`Take ${takes.other.letter} in a view beside the lens, under the same playhead`" @click="toggleBeside">Side by side</button>
          <button class="push-button" :aria-pressed="takes.wipeAt !== null" title="An edge over the lens view that is dragged from one to the other (Alt Shift Y)" @click="takes.wipeAt = takes.wipeAt === null ? 0.5 : null">Wipe</button>
          <span class="quiet">hold <kbd>Alt Y</kbd> to flip</span>
        </template>
        <span class="grow" />
        <label class="plan"><span class="quiet">Faint over the lens</span>
          <Select v-model="planKey" :options="choices" option-label="name" option-value="key" option-group-label="label" option-group-children="items" size="small" aria-label="Whose framings lie faint over the lens view" />
        </label>
        <button v-if="takes.planOf?.kind === 'version'" class="push-button" title="The version’s picture under the same playhead" @click="openSecond(takes.planOf.id)">In a second window</button>
      </footer>
    </section>
  </Popover>
</template>

<style scoped>
.opener {
  cursor: pointer;
}
.takes {
  display: flex;
  flex-direction: column;
  gap: 8px;
  max-width: min(820px, 92vw);
}
header,
footer,
.plan {
  display: flex;
  align-items: center;
  gap: 8px;
}
footer {
  flex-wrap: wrap;
}
.cards {
  display: flex;
  gap: 8px;
  overflow-x: auto;
}
.grow {
  flex: 1;
}
</style>

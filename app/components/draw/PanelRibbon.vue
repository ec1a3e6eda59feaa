<script setup lang="ts">
import { cellIdOf, placedPanels, type Panel } from '@rubato/core/document'
import { computed, nextTick, useTemplateRef, watch } from 'vue'
import RibbonPanel from '~/components/draw/RibbonPanel.vue'
import { usePanels } from '~/composables/boards/usePanels'
import { useDeskStore } from '~/stores/desk'
import { useFilmStore } from '~/stores/film'

/** The panels around this one, bracketed by shot, under the paper. */
const film = useFilmStore()
const desk = useDeskStore()
const panels = usePanels()
const strip = useTemplateRef('strip')
/** Of long shots only those near this one are laid out. */
const AROUND = 24

interface RibbonShot {
  readonly id: string
  readonly label: string
  readonly takeId: string
  readonly startFrame: number
  readonly loaded: boolean
  readonly items: readonly { readonly panel: Panel; readonly index: number; readonly startFrame: number; readonly own: boolean }[]
}
const shots = computed<RibbonShot[]>(() => {
  const index = desk.placedShot?.index
  if (index === undefined) return []
  const here = desk.placedPanel?.index ?? 0
  return [index - 1, index, index + 1].flatMap((i): RibbonShot[] => {
    const placed = film.filmStage.shots[i]
    if (placed === undefined) return []
    const takeId = placed.shot.circledTakeId
    const take = film.takeOf(takeId)
    const all = take === null ? [] : placedPanels(take)
    const near = i === index ? all.filter((entry) => Math.abs(entry.index - here) <= AROUND) : i < index ? all.slice(-4) : all.slice(0, 4)
    const levelId = desk.selectedLevelId
    return [{
      id: placed.shot.id,
      label: placed.shot.label,
      takeId,
      startFrame: placed.startFrame,
      loaded: take !== null,
      items: near.map(({ panel, index: n, startFrame }) => ({ panel, index: n, startFrame, own: i === index && levelId !== null && take!.cells[cellIdOf(levelId, panel.id)] !== undefined })),
    }]
  })
})
const currentKey = computed(() => `${desk.takeId}/${desk.placedPanel?.panel.id}`)
watch(
  currentKey,
  async () => {
    if (desk.playing) return
    await nextTick()
    strip.value?.querySelector('[aria-current=true]')?.scrollIntoView({ block: 'nearest', inline: 'center' })
  },
  { immediate: true },
)
</script>

<template>
  <nav ref="strip" class="ribbon" aria-label="Panels around this one">
    <div v-for="shot in shots" :key="shot.id" class="shot" :class="{ here: shot.id === desk.shotId }">
      <span class="bracket"><b>{{ shot.label }}</b></span>
      <span v-if="!shot.loaded" class="quiet">…</span>
      <RibbonPanel
        v-for="item in shot.items"
        :key="item.panel.id"
        :take-id="shot.takeId"
        :panel="item.panel"
        :number="item.index + 1"
        :current="shot.id === desk.shotId && item.panel.id === desk.placedPanel?.panel.id"
        :own="item.own"
        @choose="panels.go(shot.startFrame + item.startFrame)"
      />
      <span v-if="shot.id === desk.shotId && film.lookingAt === null" class="adds">
        <button class="add" title="New panel after this one: every level holds (N)" aria-label="New panel" @click="panels.newPanel(false)">+</button>
        <button class="add two" title="Duplicate this panel, with copies of its figures to change (Shift N)" aria-label="Duplicate panel" @click="panels.newPanel(true)">++</button>
      </span>
    </div>
  </nav>
</template>

<style scoped>
.ribbon {
  display: flex;
  gap: 14px;
  height: 104px;
  padding: 8px 12px;
  overflow: auto hidden;
  border-top: 1px solid var(--rule);
  background: var(--paper-1);
  scrollbar-width: thin;
}
.shot {
  display: flex;
  flex: none;
  align-items: stretch;
  gap: 8px;
}
.bracket {
  width: 12px;
  border: 2px solid var(--ink-3);
  border-right: 0;
  border-radius: 5px 0 0 5px;
}
.here .bracket {
  border-color: var(--ink);
}
.bracket b {
  display: block;
  margin: 4px 0 0 1px;
  color: var(--ink-2);
  font-size: 11px;
  writing-mode: vertical-rl;
}
.adds {
  display: grid;
  gap: 4px;
}
.add {
  width: 32px;
  border: 1px dashed var(--ink-3);
  border-radius: 6px;
  background: none;
  color: var(--ink-2);
  font: inherit;
  font-weight: 600;
  cursor: pointer;
}
.add:hover {
  background: var(--paper-0);
  color: var(--ink);
}
</style>

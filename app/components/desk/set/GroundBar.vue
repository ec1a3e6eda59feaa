<script setup lang="ts">
import { ref } from 'vue'
import { ImagePlus, Layers, Pencil } from '~/icons'
import NumberField from '~/components/fields/NumberField.vue'
import { useGround } from '~/composables/levels/useGround'

/** What lies under the plan: drawn or placed, shown, moved and cleared. */
const { ground, picture, pencil, bringing, choosePicture, change, edit, clear } = useGround()
const settings = ref<{ toggle: (event: Event) => void } | null>(null)
</script>

<template>
  <div class="bar" @pointerdown.stop @dblclick.stop>
    <span v-if="bringing" class="chip" role="status">Placing, {{ Math.round(bringing.share * 100) }} % <button class="link" @click="bringing.cancel()">Cancel</button></span>
    <button class="icon-button small" :aria-pressed="pencil" title="Draw a floor plan under the set; it is never handed over" aria-label="Draw under the plan" @click="pencil = !pencil"><Pencil :size="14" /></button>
    <button class="icon-button small" title="Place a picture of a floor plan under the set" aria-label="Place a picture under the plan" @click="choosePicture"><ImagePlus :size="14" /></button>
    <button v-if="ground" class="icon-button small" title="What lies under the plan" aria-label="What lies under the plan" aria-haspopup="dialog" @click="(e) => settings?.toggle(e)"><Layers :size="14" /></button>
    <Popover ref="settings">
      <div v-if="ground" class="settings" @keydown.stop>
        <label><input type="checkbox" :checked="ground.visible" @change="(e) => edit({ visible: (e.target as HTMLInputElement).checked }, 'what lies under the plan')" /> shown</label>
        <label>Strength <input type="range" min="0.1" max="1" step="0.05" :value="ground.opacity" aria-label="Strength" @change="(e) => edit({ opacity: Number((e.target as HTMLInputElement).value) }, 'strength of what lies under the plan')" /></label>
        <template v-if="picture">
          <div class="pair">
            <NumberField label="x" unit="fw" :model-value="picture.x" :step="0.05" @set="(v) => change({ x: v }, 'place of the plan')" @scrub="() => undefined" />
            <NumberField label="depth" unit="fw" :model-value="picture.y" :step="0.05" @set="(v) => change({ y: v }, 'place of the plan')" @scrub="() => undefined" />
            <NumberField label="wide" unit="fw" :model-value="picture.widthFw" :min="0.01" :max="9999" :step="0.1" @set="(v) => change({ widthFw: v }, 'size of the plan')" @scrub="() => undefined" />
            <NumberField label="turn" unit="°" :model-value="picture.turnDegrees ?? 0" :step="1" :reset-to="0" @set="(v) => change({ turnDegrees: v }, 'turn of the plan')" @scrub="() => undefined" />
          </div>
        </template>
        <button class="push-button" title="Undo brings it back" @click="clear">Clear it</button>
      </div>
    </Popover>
  </div>
</template>

<style scoped src="../inspector/panel.css"></style>
<style scoped>
.bar {
  display: flex;
  gap: 2px;
  border-radius: 6px;
  background: var(--paper-0);
}
.settings {
  display: grid;
  gap: 7px;
  width: 230px;
}
</style>

<script setup lang="ts">
import { useLocalStorage, watchDebounced } from '@vueuse/core'
import { Pane, Splitpanes } from 'splitpanes'
import '~/styles/splitpanes.css'
import { onBeforeUnmount, ref } from 'vue'
import Inspector from '~/components/desk/inspector/Inspector.vue'
import OperateBar from '~/components/desk/operate/OperateBar.vue'
import Transport from '~/components/desk/strip/Transport.vue'
import DepthRack from '~/components/desk/rack/DepthRack.vue'
import LensView from '~/components/desk/lens/LensView.vue'
import PasteMoveDialog from '~/components/desk/inspector/PasteMoveDialog.vue'
import SpeakersDialog from '~/components/desk/inspector/SpeakersDialog.vue'
import BakeDialog from '~/components/desk/inspector/BakeDialog.vue'
import ReadyMadeDialog from '~/components/desk/inspector/ReadyMadeDialog.vue'
import StripTools from '~/components/desk/strip/StripTools.vue'
import StripView from '~/components/desk/strip/StripView.vue'
import VoiceDialog from '~/components/sound/VoiceDialog.vue'
import { offerCommands } from '~/commands/registry'
import { useDeskCommands } from '~/composables/view/useDeskCommands'
import { usePlayback } from '~/composables/playback/usePlayback'
import ViewSlot from '~/components/desk/ViewSlot.vue'
import { useFirstWindow } from '~/composables/view/useTwoWindows'
import { useLiveCut } from '~/composables/camera/useLiveCut'
import { useViews } from '~/composables/view/useViews'
import { useSoundPlayerStore } from '~/stores/soundPlayer'
import { useTapTiming } from '~/composables/strip/useTapTiming'
import { useShotArt } from '~/composables/view/useShotArt'
import { useDeskStore } from '~/stores/desk'
import { useOperateStore } from '~/stores/operate'
import { useSoundStore } from '~/stores/sound'
import { useSpreadStore } from '~/stores/spread'

const { stop } = usePlayback()
const tap = useTapTiming()
const desk = useDeskStore()
const sound = useSoundStore()
const player = useSoundPlayerStore()
const { arranged } = useViews()
const operate = useOperateStore()
const spread = useSpreadStore()
useFirstWindow()
useLiveCut()

const strip = ref<InstanceType<typeof StripView> | null>(null)
const splits = useLocalStorage('rubato.splits4', { rack: 20, right: 23.5, plan: 42, strip: 39, third: 45 }, { mergeDefaults: true })

// What is played next from here is decoded by then.
watchDebounced(() => [desk.playing ? null : desk.playhead, sound.placed] as const, ([playhead]) => playhead !== null && player.warm(playhead), { debounce: 300, immediate: true })

const { commands } = useDeskCommands({
  strip: () => strip.value,
  openSpread: () => spread.begin(),
})
offerCommands(commands)

const { trouble: loadTrouble, load: loadWanted } = useShotArt()
onBeforeUnmount(() => {
  // What was tapped is not lost by looking elsewhere; undo takes it back.
  tap.keep()
  operate.leave()
  if (spread.open) spread.close()
  stop()
})

function resized(key: keyof typeof splits.value, index: number) {
  return (event: { panes: { size: number }[] }) => (splits.value = { ...splits.value, [key]: event.panes[index]!.size })
}
function resizedMain(event: { panes: { size: number }[] }) {
  splits.value = { ...splits.value, rack: event.panes[0]!.size, right: event.panes[2]!.size }
}
</script>

<template>
  <div class="desk">
    <p v-if="loadTrouble" class="trouble" role="alert">This shot could not be loaded. {{ loadTrouble }} <button class="push-button" @click="loadWanted">Try again</button></p>
    <Splitpanes class="splits" horizontal @resized="resized('strip', 1)($event)">
      <Pane :size="100 - splits.strip" min-size="35">
        <Splitpanes @resized="resizedMain">
          <Pane :size="splits.rack" min-size="14"><DepthRack /></Pane>
          <Pane :size="100 - splits.rack - splits.right" min-size="30">
            <div class="middle">
              <ViewSlot v-if="arranged.alone === 'beside' || arranged.alone === 'third'" class="lens" :slot-id="arranged.alone" />
              <Splitpanes v-else-if="arranged.third !== null && arranged.alone === null" class="lens" @resized="resized('third', 1)($event)">
                <Pane :size="100 - splits.third" min-size="25"><LensView /></Pane>
                <Pane :size="splits.third" min-size="20"><ViewSlot slot-id="third" /></Pane>
              </Splitpanes>
              <LensView v-else class="lens" />
              <OperateBar v-if="operate.phase !== 'idle'" />
              <Transport />
            </div>
          </Pane>
          <Pane :size="splits.right" min-size="17">
            <Inspector v-if="arranged.alone !== null" />
            <Splitpanes v-else horizontal @resized="resized('plan', 0)($event)">
              <Pane :size="splits.plan" min-size="12"><ViewSlot slot-id="beside" /></Pane>
              <Pane :size="100 - splits.plan" min-size="20"><Inspector /></Pane>
            </Splitpanes>
          </Pane>
        </Splitpanes>
      </Pane>
      <Pane :size="splits.strip" min-size="12">
        <StripView ref="strip">
          <template #tools><StripTools /></template>
        </StripView>
      </Pane>
    </Splitpanes>
    <PasteMoveDialog />
    <ReadyMadeDialog />
    <BakeDialog />
    <SpeakersDialog />
    <VoiceDialog />
  </div>
</template>

<style scoped>
.desk {
  display: flex;
  flex-direction: column;
  height: 100%;
  /* The edges between panes can be caught a little beside them: past the window there is nothing to scroll to. */
  overflow: clip;
}
.splits {
  flex: 1;
  min-height: 0;
}
.middle {
  display: flex;
  flex-direction: column;
  height: 100%;
}
.lens {
  flex: 1;
  min-height: 0;
}
.trouble {
  margin: 0;
  padding: 5px 12px;
  background: var(--vermilion-wash);
  color: var(--vermilion-text);
}
.desk :deep(.splitpanes__splitter) {
  position: relative;
  flex: none;
  background: var(--rule);
}
.desk :deep(.splitpanes--vertical > .splitpanes__splitter) {
  width: 1px;
  cursor: col-resize;
}
.desk :deep(.splitpanes--horizontal > .splitpanes__splitter) {
  height: 1px;
  cursor: row-resize;
}
.desk :deep(.splitpanes__splitter::after) {
  content: '';
  position: absolute;
  z-index: 6;
  inset: -4px;
}
.desk :deep(.splitpanes__pane) {
  transition: none;
}
</style>

<script setup lang="ts">
import { parallaxOf, type SpeedOf, type Strobe } from '@rubato/core/checks'
import { useEventListener } from '@vueuse/core'
import { computed, onBeforeUnmount, ref, useTemplateRef, watch } from 'vue'
import NumberField from '~/components/fields/NumberField.vue'
import { useChart } from '~/composables/view/useChart'
import { useDeskStore } from '~/stores/desk'
import { useSpeedStore } from '~/stores/speed'
import { frameRanges } from '~/text/findings'
import { CHART_MARGINS, speedChart } from '~/text/speedChart'

/** How fast the camera and the levels go over the screen, over the shot; what strobes; how the levels go against each other. */
const desk = useDeskStore()
const speed = useSpeedStore()
speed.look()

const nameOf = (id: string | null) => (id === null ? 'Camera' : (desk.take?.levels[id]?.name ?? ''))
const most = ({ speeds }: SpeedOf) => speeds.reduce((top, value) => (value > top ? value : top), 0)
/** The fastest first; the camera before all. */
const moving = computed(() => speed.shown.filter((each) => each.levelId === null || most(each) > 1e-4).sort((a, b) => Number(b.levelId === null) - Number(a.levelId === null) || most(b) - most(a)))
/** Level by level, with the worst of its runs. While a mend is tried it stands as it was; the chart shows how it would be. */
const strobing = computed(() => (speed.trial?.before ?? speed.shown).flatMap(({ levelId, strobes }) => (strobes.length === 0 ? [] : [{ levelId: levelId!, strobes, strobe: strobes.reduce((worst, each) => (each.speed > worst.speed ? each : worst)) }])).sort((a, b) => b.strobe.speed - a.strobe.speed))
const framesOf = (strobes: readonly Strobe[]) => frameRanges(strobes.map(({ first, last }) => [first, last]))
const atFrame = ref<number | null>(null)
const shotFrame = computed(() => atFrame.value ?? desk.shotFrame)
const perSecond = (value: number | undefined) => (value === undefined || Number.isNaN(value) ? '–' : `${value.toFixed(value < 0.1 ? 3 : 2)} fw/s`)

/** Of what moves and is nearest in the rack, against every other. */
const parallax = computed(() => {
  const levels = moving.value.filter(({ levelId }) => levelId !== null)
  const of = levels.find(({ levelId }) => levelId === desk.selectedLevelId) ?? levels.reduce<SpeedOf | null>((top, each) => (top === null || most(each) > most(top) ? each : top), null)
  if (of === null) return null
  const others = levels.flatMap((each) => {
    const ratio = each === of ? null : parallaxOf(of.speeds, each.speeds)
    return ratio === null ? [] : [{ name: nameOf(each.levelId), ratio }]
  })
  return { name: nameOf(of.levelId), others: others.sort((a, b) => a.ratio - b.ratio) }
})
const ratioWords = (ratio: number) => (Math.abs(ratio - 1) < 0.005 ? 'as fast as' : ratio > 1 ? `${ratio.toFixed(ratio < 10 ? 2 : 0)} × as fast as` : `${(1 / ratio).toFixed(2)} × slower than`)

const host = useTemplateRef<HTMLElement>('host')
const chart = computed(() => speedChart(moving.value.map((each) => ({ name: nameOf(each.levelId), speeds: each.speeds, isCamera: each.levelId === null, isChosen: each.levelId !== null && each.levelId === desk.selectedLevelId, strobes: each.strobes })), speed.limit))

/** The frame under the pointer, wherever it is over the chart. */
function frameUnder(event: PointerEvent | MouseEvent): number {
  const box = host.value!.getBoundingClientRect()
  const { left, right } = CHART_MARGINS
  const most = Math.max(0, (desk.stage?.lengthFrames ?? 1) - 1)
  return Math.min(most, Math.max(0, Math.round(((event.clientX - box.left - left) / Math.max(1, box.width - left - right)) * most)))
}
const playhead = (color: string) => ({ type: 'line', x0: desk.shotFrame, x1: desk.shotFrame, y0: 0, y1: 1, yref: 'paper', line: { color, width: 1.5 } })
let wrong = ''
const { trouble, change } = useChart(host, [chart], ({ width, height, colour }) => {
  wrong = colour('--vermilion')
  const { traces, layout } = chart.value({ ink: colour('--ink-2'), rule: colour('--rule'), camera: colour('--blue'), wrong, width, height })
  return { traces, layout: { ...layout, shapes: [...layout.shapes, playhead(wrong)] } }
})
const goTo = (frame: number) => desk.placedShot !== null && desk.goTo(desk.placedShot.startFrame + frame)
watch(() => desk.shotFrame, () => !desk.playing && change({ [`shapes[${chart.value.shapes}]`]: playhead(wrong) }))
// What is only tried must not stay where nobody can take it or leave it.
onBeforeUnmount(() => speed.leave())
useEventListener(window, 'keydown', (event) => event.key === 'Escape' && !event.defaultPrevented && speed.leave())

function secondsTyped(value: number) {
  speed.secondsAcross = Math.min(60, Math.max(0.5, value))
}
let secondsBefore = speed.secondsAcross
const isTried = (levelId: string, first: number) => speed.trial?.levelId === levelId && speed.trial.strobe.first === first
</script>

<template>
  <div class="speed" data-test="speed">
    <p v-if="trouble ?? speed.trouble" class="trouble" role="alert">{{ trouble ?? speed.trouble }}</p>
    <p v-if="desk.takeId === null" class="quiet">There is no shot here yet.</p>
    <template v-else>
      <div v-show="moving.length > 0" ref="host" class="chart" data-test="speed-chart" role="img" aria-label="Speed on screen over the frames of the shot" title="A click goes to the frame" @pointermove="atFrame = frameUnder($event)" @pointerleave="atFrame = null" @click="goTo(frameUnder($event))" />
      <p v-if="speed.shown.length > 0 && moving.length <= 1 && moving.every((each) => most(each) < 1e-4)" class="quiet">Nothing goes over the screen in this shot.</p>
      <ul v-if="strobing.length > 0" data-test="strobes">
        <li v-for="{ levelId, strobes, strobe } in strobing" :key="levelId">
          <button class="go" :title="`To its fastest frame, ${strobe.worstFrame}`" @click="goTo(strobe.worstFrame)">
            <b>{{ nameOf(levelId) }} strobes</b>
            <span>{{ framesOf(strobes) }} · {{ perSecond(strobe.speed) }} · safe to {{ perSecond(speed.limit) }}</span>
          </button>
          <div v-if="isTried(levelId, strobe.first)" class="trial" role="status" data-test="slower-trial">
            <span>{{ speed.trial!.slowing.frames }} frames more</span>
            <button class="push-button strong" @click="speed.takeIt()">Take it</button>
            <button class="push-button" title="As it was (Esc)" @click="speed.leave()">Leave it</button>
          </div>
          <button v-else class="chip" :disabled="speed.working !== null" title="Frames put in where it is fastest, as few as make it slow enough" @click="speed.trySlower(levelId, strobe)">{{ speed.working === speed.nameOf(strobe, levelId) ? 'working it out…' : 'Take longer' }}</button>
        </li>
      </ul>
      <p v-else-if="moving.length > 0" class="fine">Nothing strobes: all goes slower than {{ perSecond(speed.limit) }}.</p>
      <template v-if="moving.length > 0">
        <h4>{{ atFrame === null ? 'At' : 'Under the pointer, at' }} frame {{ shotFrame }}</h4>
        <table>
          <tbody>
            <tr v-for="each in moving" :key="each.levelId ?? 'camera'" :class="{ chosen: each.levelId !== null && each.levelId === desk.selectedLevelId }">
              <th scope="row"><button v-if="each.levelId" class="link" @click="desk.chooseLevel(desk.choosable(each.levelId))">{{ nameOf(each.levelId) }}</button><span v-else>Camera</span></th>
              <td class="mono">{{ perSecond(each.speeds[shotFrame]) }}</td>
              <td class="mono quiet">at most {{ perSecond(most(each)) }}</td>
            </tr>
          </tbody>
        </table>
      </template>
      <template v-if="parallax && parallax.others.length > 0">
        <h4>Parallax</h4>
        <p class="words" data-test="parallax">{{ parallax.name }} goes {{ parallax.others.map(({ name, ratio }) => `${ratioWords(ratio)} ${name}`).join(', ') }}.</p>
      </template>
      <NumberField class="limit" label="a frame’s width in" :model-value="speed.secondsAcross" unit="s" :step="0.5" :min="0.5" :max="60" :decimals="1" :reset-to="7" title="What crosses the frame in less strobes at 24 frames a second; at higher rates the limit is higher as well" @begin="secondsBefore = speed.secondsAcross" @scrub="secondsTyped" @cancel="speed.secondsAcross = secondsBefore" @set="secondsTyped" />
    </template>
  </div>
</template>

<style scoped src="./checks.css"></style>
<style scoped>
.speed {
  height: 100%;
  padding: 8px 10px;
  overflow: hidden auto;
}
.chart {
  height: 150px;
  margin: 0 -6px 4px;
}
h4 {
  margin: 9px 0 3px;
  font-size: 13px;
  font-weight: 600;
}
ul {
  padding: 0;
  margin: 0;
  list-style: none;
}
li {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 6px;
  padding: 4px 8px;
  margin-bottom: 5px;
  border: 1px solid var(--vermilion);
  border-radius: 7px;
  background: var(--sheet);
}
.go {
  display: flex;
  flex: 1;
  flex-direction: column;
  min-width: 160px;
}
.trial {
  display: flex;
  align-items: center;
  gap: 5px;
}
.trial span {
  font-weight: 600;
}
table {
  width: 100%;
  border-collapse: collapse;
}
th,
td {
  padding: 1px 3px;
  border-bottom: 1px solid var(--rule);
  font-weight: 400;
  text-align: left;
}
td {
  text-align: right;
}
.chosen th {
  font-weight: 700;
}
.words {
  margin: 0;
}
.limit {
  width: 190px;
  margin-top: 9px;
}
</style>

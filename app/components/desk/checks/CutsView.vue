<script setup lang="ts">
import { CUT_LIMITS, type CutLimits, type Eye } from '@rubato/core/checks'
import { useElementSize } from '@vueuse/core'
import { computed, onScopeDispose, ref, useTemplateRef } from 'vue'
import MeantForm from '~/components/desk/checks/MeantForm.vue'
import NumberField from '~/components/fields/NumberField.vue'
import ShotPicture from '~/components/sets/ShotPicture.vue'
import { useCutsStore, type FilmCut, type ReadReading } from '~/stores/cuts'
import { useDeskStore } from '~/stores/desk'
import { useFilmStore } from '~/stores/film'
import { cutWords, VERDICT_WORDS } from '~/text/cutWords'

/** How one picture follows another: what is read at the cuts around the open shot, and what asks to be looked at in the film. */
const film = useFilmStore()
const desk = useDeskStore()
const cuts = useCutsStore()
cuts.lookers++
onScopeDispose(() => cuts.lookers--)

const host = useTemplateRef<HTMLElement>('host')
const { width } = useElementSize(host)
/** Two pictures stand beside each other. */
const pictureWidth = computed(() => Math.max(60, Math.min(260, Math.floor((width.value - 44) / 2))))
const aspect = computed(() => film.optics?.aspect ?? 16 / 9)
const eyes = (cut: FilmCut) => cut.readings.flatMap(({ reading }) => (reading.kind === 'eye' ? [reading] : []))[0] ?? null
/** In the picture's px. */
const ring = ({ u, v }: Eye) => ({ left: `${(0.5 + u) * pictureWidth.value}px`, top: `${(0.5 - v * aspect.value) * (pictureWidth.value / aspect.value)}px` })
const hasFigures = computed(() => cuts.here.some((cut) => eyes(cut) !== null && (eyes(cut)!.from.by !== 'centre' || eyes(cut)!.to.by !== 'centre')))
const nothing = computed(() => (cuts.isReading ? 'reading…' : desk.takeId === null ? 'No shot is open.' : 'Nothing cuts into this shot, out of it or inside it: what dissolves is no cut.'))
const foundWords = (count: number) => `${count === 0 ? 'No cut of the film asks' : count === 1 ? '1 cut of the film asks' : `${count} cuts of the film ask`} to be looked at.`
const asksFor = (cut: FilmCut) => cut.readings.filter(({ reading, meant }) => meant === null && reading.verdict !== 'well').map(({ reading }) => cutWords(reading).name).join(', ')
const others = computed(() => (cuts.found ?? []).filter(({ id }) => !cuts.here.some((cut) => cut.id === id)))

const noting = ref<string | null>(null)
const noteKey = (cut: FilmCut, read: ReadReading) => `${cut.id} ${read.id}`
function accept(cut: FilmCut, read: ReadReading, note: string) {
  cuts.accept(cut, read, note)
  noting.value = null
}

const showsLimits = ref(false)
interface LimitField {
  readonly key: keyof CutLimits
  readonly label: string
  readonly unit: string
  /** What is typed is so many times what is kept. */
  readonly factor: number
  readonly step: number
  readonly min: number
  readonly max: number
  readonly title: string
}
const FIELDS: readonly LimitField[] = [
  { key: 'eyeEasy', label: 'Eye, easy to', unit: '%', factor: 100, step: 1, min: 0, max: 100, title: 'Of the frame’s width: up to here the eye finds its way easily' },
  { key: 'eyeMost', label: 'Eye, too far from', unit: '%', factor: 100, step: 1, min: 0, max: 100, title: 'Past here it is to be mended' },
  { key: 'jumpRatio', label: 'A jump under ×', unit: '', factor: 1, step: 0.05, min: 1, max: 4, title: 'A subject whose size changes by less, seen from less than so many degrees away, jumps' },
  { key: 'jumpDegrees', label: 'and under', unit: '°', factor: 1, step: 1, min: 0, max: 180, title: 'So far the camera has to turn about its subject' },
  { key: 'alikeSpeeds', label: 'Cameras alike to ×', unit: '', factor: 1, step: 0.1, min: 1, max: 10, title: 'Speeds whose ratio is no more are alike' },
  { key: 'restsBelow', label: 'Rests under', unit: '%/s', factor: 100, step: 0.5, min: 0, max: 50, title: 'A camera that goes slower over the screen, % of the frame’s width a second, rests' },
]
const set = (key: keyof CutLimits, value: number) => (cuts.limits = { ...cuts.limits, [key]: value })
</script>

<template>
  <div ref="host" class="cuts" data-test="cuts">
    <p v-if="cuts.trouble" class="trouble" role="alert">{{ cuts.trouble }}</p>
    <ul>
      <li v-for="cut in cuts.here" :key="cut.id" :class="{ chosen: cut.id === cuts.chosenId }" data-test="cut">
        <button class="go head" :title="`To the first frame after it, ${cut.frame} (Alt 8: the next to look at)`" @click="cuts.goTo(cut)">
          <b>{{ cut.label }}</b><span class="verdict" :class="cut.verdict">{{ VERDICT_WORDS[cut.verdict] }}</span>
        </button>
        <div class="pictures">
          <button v-for="side in (['before', 'after'] as const)" :key="side" class="go picture" :title="side === 'before' ? 'The last frame before it' : 'The first frame after it'" @click="desk.goTo(side === 'before' ? cut.frame - 1 : cut.frame)">
            <ShotPicture :take-id="cut[side].takeId" :frame="cut[side].frame" :width="pictureWidth" />
            <template v-if="eyes(cut)">
              <i v-if="side === 'after'" class="eye was" :style="ring(eyes(cut)!.from)" />
              <i class="eye" :style="ring(side === 'before' ? eyes(cut)!.from : eyes(cut)!.to)" />
            </template>
          </button>
        </div>
        <dl>
          <div v-for="read in cut.readings" :key="read.id" class="reading" :class="read.meant === null ? read.reading.verdict : 'meant'" :data-kind="read.reading.kind">
            <dt>{{ cutWords(read.reading).name }}</dt>
            <dd>
              <span class="mono figures">{{ cutWords(read.reading).figures }}</span> {{ cutWords(read.reading).says }}
              <template v-if="read.meant !== null"><i>meant so{{ read.meant === '' ? '' : `: “${read.meant}”` }}</i> <button class="link" @click="cuts.speakAgain(cut, read)">not any more</button></template>
              <template v-else-if="read.reading.verdict !== 'well'">
                <MeantForm v-if="noting === noteKey(cut, read)" @keep="(note) => accept(cut, read, note)" @cancel="noting = null" />
                <button v-else class="link" title="It stays quiet until anything of it is another" @click="noting = noteKey(cut, read)">meant so…</button>
              </template>
            </dd>
          </div>
        </dl>
      </li>
    </ul>
    <p v-if="cuts.here.length === 0" class="quiet">{{ nothing }}</p>
    <p v-else-if="!hasFigures" class="quiet">No figure is in these pictures, so that the eye is taken to be in the middle. Say of a level that it is a figure (in the inspector), and who they are by its name.</p>
    <div class="actions">
      <template v-if="cuts.whole">
        <ProgressBar class="bar" :value="Math.round((cuts.whole.done / cuts.whole.total) * 100)" :show-value="false" aria-label="Shots read" />
        <span class="quiet">{{ cuts.whole.label }}, {{ cuts.whole.done + 1 }} of {{ cuts.whole.total }}</span>
        <button class="push-button" @click="cuts.stop()">Cancel</button>
      </template>
      <template v-else>
        <button class="push-button" title="Every cut of the film, one after the other" @click="cuts.readFilm()">The whole film</button>
        <button class="push-button" :aria-expanded="showsLimits" title="What is easy, what jumps, what is alike" @click="showsLimits = !showsLimits">Limits…</button>
      </template>
    </div>
    <div v-if="showsLimits" class="limits">
      <NumberField
        v-for="{ key, factor, ...field } in FIELDS"
        :key="key"
        v-bind="field"
        :decimals="2"
        :model-value="cuts.limits[key] * factor"
        :reset-to="CUT_LIMITS[key] * factor"
        @set="(value: number) => set(key, value / factor)"
        @scrub="(value: number) => set(key, value / factor)"
      />
    </div>
    <p v-if="cuts.found !== null" class="quiet" role="status">{{ foundWords(cuts.found.length) }}</p>
    <ul v-if="others.length > 0" class="others">
      <li v-for="cut in others" :key="cut.id">
        <button class="go" @click="cuts.goTo(cut)"><b>{{ cut.label }}</b> <span class="verdict" :class="cut.verdict">{{ VERDICT_WORDS[cut.verdict] }}</span> {{ asksFor(cut) }}</button>
      </li>
    </ul>
  </div>
</template>

<style scoped src="./checks.css"></style>
<style scoped src="./cards.css"></style>
<style scoped>
.cuts {
  height: 100%;
  padding: 8px 10px;
  background: var(--paper-1);
  overflow: hidden auto;
}
.head {
  display: flex;
  align-items: baseline;
  justify-content: space-between;
  width: 100%;
  padding-bottom: 4px;
}
.verdict.fix {
  color: var(--vermilion);
  font-weight: 600;
}
.verdict.look {
  color: var(--ochre);
  font-weight: 600;
}
.verdict.well {
  color: var(--sea);
}
.pictures {
  display: flex;
  gap: 6px;
  margin-bottom: 5px;
}
.picture {
  position: relative;
  border: 1px solid var(--rule);
  border-radius: 4px;
  overflow: hidden;
}
.eye {
  position: absolute;
  width: 15px;
  height: 15px;
  margin: -7.5px 0 0 -7.5px;
  border: 2px solid var(--blue);
  border-radius: 50%;
  pointer-events: none;
}
.eye::after {
  content: '';
  position: absolute;
  inset: 4px;
  border-radius: 50%;
  background: var(--blue);
}
.eye.was {
  border: 1.5px dashed var(--ink-2);
}
.eye.was::after {
  background: none;
}
dl {
  display: flex;
  flex-direction: column;
  gap: 3px;
  margin: 0;
}
.reading {
  display: grid;
  grid-template-columns: 68px 1fr;
  gap: 6px;
  padding: 2px 6px;
  border-radius: 4px;
  background: var(--paper-1);
  font-size: 12px;
}
.reading.look {
  background: color-mix(in srgb, var(--ochre) 15%, var(--sheet));
}
.reading.fix {
  background: var(--vermilion-wash);
}
dt {
  color: var(--ink-2);
}
dd {
  margin: 0;
}
.reading.fix .figures {
  color: var(--vermilion);
}
.figures {
  margin-right: 5px;
  white-space: nowrap;
}
.limits {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 12px;
  margin-bottom: 7px;
}
</style>

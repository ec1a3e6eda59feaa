<script setup lang="ts">
import { SIDES, sizePx, type ArtNeed, type SeenThere } from '@rubato/core/checks'
import type { Level } from '@rubato/core/document'
import type { Rectangle } from '@rubato/core/geometry'
import { computed } from 'vue'
import ChoiceRow from '~/components/fields/ChoiceRow.vue'
import NumberField from '~/components/fields/NumberField.vue'
import { SHEET_PAPERS, useSheets } from '~/composables/checks/useSheets'
import { useLevels } from '~/composables/levels/useLevels'
import { useDeskStore } from '~/stores/desk'
import { useFaceOnStore } from '~/stores/faceOn'
import { useFilmStore } from '~/stores/film'
import { useNeededStore } from '~/stores/needed'
import { fwWords, pxWords } from '~/text/sizes'

/** How large the art of the chosen levels has to be. */
const film = useFilmStore()
const desk = useDeskStore()
const needed = useNeededStore()
const faceOn = useFaceOnStore()
const levels = useLevels()
needed.look()
const sheets = useSheets()
const sheetTitle = computed(() => (desk.selectedLevel?.kind === 'set' ? `Sheets of ${desk.selectedLevel.name}` : needed.chosen.length > 1 ? `${needed.chosen.length} background sheets` : 'Background sheet'))
const anySeen = computed(() => needed.chosen.some(({ id }) => needed.needs.has(id)))

const widthPx = computed(() => film.project?.widthPx ?? 1920)
interface Told {
  readonly level: Level
  readonly need: ArtNeed | null
  readonly px: string
}
const told = computed(() =>
  needed.chosen.map((level): Told => {
    const need = needed.needs.get(level.id) ?? null
    return { level, need, px: need === null ? '' : pxWords(sizePx(need.box, need.magnification, widthPx.value)) }
  }),
)
const one = computed(() => (told.value.length === 1 ? told.value[0]! : null))
const isWaiting = computed(() => needed.chosen.length > 0 && needed.chosen.some(({ id }) => !needed.answered.includes(id)))

function owedWords({ owed }: ArtNeed): string {
  if (owed.length === SIDES.length) return 'It has to fill the frame: all that the frames take in of its plane, as long as anything of it is in view.'
  if (owed.length === 0) return 'It stands in the picture: what is seen of its art as it is drawn. Where it has to go past the frame, say which sides it owes.'
  return `It has to go past the frame at ${owed.join(', ')}; elsewhere it needs what is seen of its art.`
}
const isPaperOf = ({ level: { paper }, need }: Told) => paper !== undefined && need !== null && (['left', 'right', 'bottom', 'top'] as const).every((side) => Math.abs(paper[side] - need.box[side]) < 1e-4)
const holds = (paper: Rectangle, box: Rectangle) => paper.left <= box.left + 1e-4 && paper.right >= box.right - 1e-4 && paper.bottom <= box.bottom + 1e-4 && paper.top >= box.top - 1e-4
function layPaper({ level, need }: Told) {
  if (need !== null && levels.edit(level, 'paper to size:', { paper: { ...need.box } })) needed.shown = true
}
function drawOn() {
  desk.view = 'draw'
  faceOn.mode = 'square'
}

interface Seen {
  readonly of: SeenThere
  readonly label: string
  readonly start: number | null
  readonly isClosest: boolean
}
const seen = computed<readonly Seen[]>(() => {
  const need = one.value?.need
  if (!need) return []
  const shots = new Map(film.filmStage.shots.map((placed) => [placed.shot.circledTakeId, placed]))
  if (desk.takeId !== null && desk.placedShot !== null) shots.set(desk.takeId, desk.placedShot)
  return need.seen.map((of) => ({ of, label: shots.get(of.takeId)?.shot.label ?? '', start: shots.get(of.takeId)?.startFrame ?? null, isClosest: of.magnification >= need.magnification * (1 - 1e-9) }))
})
const cameraOf = ({ takeId, cameraId }: SeenThere) => {
  const letter = cameraId === null ? undefined : film.takeOf(takeId)?.cameras[cameraId]?.letter
  return letter === undefined ? '' : ` ${letter}`
}
const closest = computed(() => seen.value.find(({ isClosest }) => isClosest) ?? null)
const go = ({ start, of }: Seen) => start !== null && desk.goTo(start + of.closestFrame)
let marginBefore = needed.marginPercent
const times = (value: number) => `× ${value.toFixed(value < 0.1 ? 3 : 2)}`
</script>

<template>
  <div class="needed" data-test="needed">
    <p v-if="needed.trouble" class="trouble" role="alert">{{ needed.trouble }}</p>
    <p v-if="desk.takeId === null" class="quiet">There is no shot here yet.</p>
    <p v-else-if="needed.chosen.length === 0" class="quiet">Choose a level in the rack, or a set: here stands how large its art has to be for the moves of all shots that see it. A carrier, a reference and a stand-in need none.</p>
    <template v-if="one">
      <h3 :title="one.level.name">{{ one.level.name }}</h3>
      <template v-if="one.need">
        <p class="size mono" data-test="needed-px" title="So large that nothing of it is ever shown above 1:1">{{ one.px }}</p>
        <p class="quiet facts">{{ fwWords(one.need.box) }} of its art<template v-if="closest">, at 1:1 in <button class="link" :disabled="closest.start === null" @click="go(closest)">{{ closest.label }}, frame {{ closest.of.closestFrame }}</button></template></p>
        <p v-if="one.need.isEndless" class="quiet facts">It goes on to the horizon: reckoned as far as 20 fw from the lens.</p>
        <p class="quiet facts">{{ owedWords(one.need) }}</p>
        <div class="line">
          <button class="push-button" :disabled="isPaperOf(one) || one.level.locked" :title="one.level.locked ? `${one.level.name} is locked: unlock it in the rack first` : 'Its paper becomes as large as is needed; nothing that is drawn changes'" @click="layPaper(one)">Paper to size</button>
          <button v-if="one.level.paper" class="push-button" :disabled="one.level.locked" title="No paper is laid out for it any more" @click="levels.edit(one.level, 'no paper:', { paper: undefined })">No paper</button>
          <button class="push-button" title="To Draw, the level square on with all of its paper" @click="drawOn">Draw on it</button>
        </div>
        <p v-if="one.level.paper" class="facts" :class="holds(one.level.paper, one.need.box) ? 'fine' : 'wrong'">Its paper is {{ fwWords(one.level.paper) }}{{ holds(one.level.paper, one.need.box) ? '.' : ': less than is needed.' }}</p>
      </template>
      <p v-else-if="!isWaiting" class="quiet">No shot sees it: it is hidden, blank or behind the lens throughout.</p>
    </template>
    <table v-else-if="told.length > 1" class="many">
      <tbody>
        <tr v-for="each in told" :key="each.level.id">
          <th scope="row"><button class="link" :title="`${each.level.name} alone`" @click="desk.chooseLevel(each.level.id)">{{ each.level.name }}</button></th>
          <td class="mono">{{ each.need ? each.px : 'not seen' }}</td>
        </tr>
      </tbody>
    </table>
    <template v-if="seen.length > 0">
      <h4>Seen by</h4>
      <ul>
        <li v-for="each in seen" :key="`${each.of.takeId} ${each.of.cameraId} ${each.of.first} ${each.of.levelId}`">
          <button class="go" :disabled="each.start === null" :title="`To frame ${each.of.closestFrame}, where it is largest`" @click="go(each)">
            <b>{{ each.label }}{{ cameraOf(each.of) }}</b><span class="quiet">{{ each.of.first === each.of.last ? `frame ${each.of.first}` : `frames ${each.of.first}–${each.of.last}` }}</span><span class="mono" :class="{ closest: each.isClosest }">{{ times(each.of.magnification) }}</span>
          </button>
        </li>
      </ul>
    </template>
    <div v-if="needed.loading" class="line" role="status">
      <ProgressBar class="bar" :value="Math.round((needed.loading.done / needed.loading.total) * 100)" :show-value="false" aria-label="Other shots of the set" />
      <span class="quiet small">{{ needed.loading.done }} of {{ needed.loading.total }} other shots of the set</span>
    </div>
    <template v-if="needed.chosen.length > 0">
      <h4>{{ sheetTitle }}</h4>
      <p v-if="sheets.trouble.value" class="trouble" role="alert">{{ sheets.trouble.value }}</p>
      <div v-if="sheets.progress.value" class="line" role="status">
        <ProgressBar class="bar" :value="Math.round((sheets.progress.value.done / sheets.progress.value.total) * 100)" :show-value="false" aria-label="Sheets" />
        <button class="push-button" @click="sheets.stop()">Cancel</button>
      </div>
      <div v-else class="line">
        <ChoiceRow v-model="sheets.paper.value" label="Paper" :choices="SHEET_PAPERS" />
        <button class="push-button" :disabled="!anySeen" title="For who paints it: what is needed, every framing at its frame, the way, a grid, the sizes. Lines and words stay lines and words" @click="sheets.make('pdf')">PDF</button>
        <button class="push-button" :disabled="!anySeen" title="The same as SVG, to be drawn on in other programs" @click="sheets.make('svg')">SVG</button>
      </div>
      <template v-if="!sheets.progress.value">
        <h4>There and back</h4>
        <div class="line">
          <button class="push-button" :disabled="!anySeen" title="An OpenRaster file of just the needed size, with a guide, the rough, and empty layers to paint on. Dropped on the film again it lands in its place" @click="sheets.make('ora')">Out to paint</button>
          <span class="quiet small">{{ needed.chosen.length > 1 ? `${needed.chosen.length} levels in one file, as they are seen now` : 'Layers to paint on elsewhere; drop the file here again when it is done' }}</span>
        </div>
        <p v-if="sheets.made.value" class="quiet facts" role="status">{{ sheets.made.value }}</p>
      </template>
    </template>
    <div class="line foot">
      <NumberField label="margin" :model-value="needed.margin * 100" unit="%" :step="1" :min="0" :max="50" :decimals="1" :reset-to="5" title="Added to the frame at each side, of its width" @begin="marginBefore = needed.marginPercent" @scrub="(value) => (needed.marginPercent = value)" @cancel="needed.marginPercent = marginBefore" @set="(value) => (needed.marginPercent = value)" />
      <label title="Dashed, around the art in Table and Draw (Alt Shift B)"><input v-model="needed.shown" type="checkbox" /> outline in Table and Draw</label>
    </div>
  </div>
</template>

<style scoped src="./checks.css"></style>
<style scoped>
.needed {
  height: 100%;
  padding: 8px 10px;
  overflow: hidden auto;
}
h3,
h4 {
  margin: 0;
  overflow: hidden;
  font-size: 13px;
  text-overflow: ellipsis;
}
h4 {
  margin: 10px 0 3px;
  font-weight: 600;
}
.size {
  margin: 1px 0 2px;
  font-size: 19px;
  font-weight: 600;
}
.facts {
  margin: 0 0 4px;
  font-size: 12px;
}
.wrong {
  color: var(--vermilion-text);
}
ul {
  padding: 0;
  margin: 0;
  list-style: none;
}
.go {
  display: grid;
  grid-template-columns: 1fr auto 58px;
  gap: 8px;
  width: 100%;
  padding: 2px 4px;
  border-bottom: 1px solid var(--rule);
}
.go:hover {
  background: var(--sheet);
}
.go .mono {
  text-align: right;
}
.go .closest {
  color: var(--blue);
  font-weight: 700;
}
.line {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 6px;
  margin: 5px 0;
}
.foot {
  padding-top: 7px;
  margin-top: 10px;
  border-top: 1px solid var(--rule);
}
.foot label {
  display: flex;
  align-items: center;
  gap: 5px;
}
.foot :deep(.number-field) {
  width: 118px;
}
.many {
  width: 100%;
  border-collapse: collapse;
}
.many th,
.many td {
  padding: 2px 4px;
  border-bottom: 1px solid var(--rule);
  text-align: left;
}
.many td {
  text-align: right;
}
</style>

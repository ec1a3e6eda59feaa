<script setup lang="ts">
import type { Finding } from '@rubato/core/checks'
import { pieceOf } from '@rubato/core/document'
import type { Mend } from '@rubato/core/edits'
import { useEventListener, useNow } from '@vueuse/core'
import { computed, onBeforeUnmount, ref } from 'vue'
import MeantForm from '~/components/desk/checks/MeantForm.vue'
import { useDeskStore } from '~/stores/desk'
import { useEdgesStore } from '~/stores/edges'
import { useFilmStore } from '~/stores/film'
import { useNeededStore } from '~/stores/needed'
import { findingFacts, findingTitle } from '~/text/findings'

/** Whether the art suffices in the shot that is open, and in the film: what was found, what is meant so. */
const film = useFilmStore()
const desk = useDeskStore()
const edges = useEdgesStore()
const needed = useNeededStore()
const now = useNow({ interval: 5000 })

const nameOf = (id: string) => desk.take?.levels[id]?.name ?? 'A level'
const looked = computed(() => (desk.takeId === null ? null : (edges.looked.get(desk.takeId) ?? null)))
const list = computed(() => edges.here.map((finding) => ({ finding, note: edges.meantOf(desk.takeId!, finding) })).sort((a, b) => Number(a.note !== null) - Number(b.note !== null)))
const counts = computed(() => {
  const of = (kind: Finding['kind']) => edges.speakingHere.filter((finding) => finding.kind === kind).length
  return { out: of('runs-out'), gap: of('gap'), meant: edges.here.length - edges.speakingHere.length }
})
const outputPx = computed(() => film.project?.widthPx ?? 0)
/** Art that is missing, in px of art that is drawn at the output's size. */
const missingPx = ({ artFw }: Finding) => (artFw === null ? null : Math.ceil(artFw * outputPx.value))
const ago = computed(() => {
  const seconds = looked.value === null ? 0 : Math.max(0, Math.round((now.value.getTime() - looked.value.atMs) / 1000))
  return seconds < 5 ? 'just now' : seconds < 90 ? `${seconds} s ago` : `${Math.round(seconds / 60)} min ago`
})
const isRunning = computed(() => edges.running !== null && edges.running.takeId === desk.takeId)

/** Of the film's other shots, those in which something was found. */
const others = computed(() => film.filmStage.shots.flatMap(({ shot, startFrame }) => {
  const count = edges.speakingIn.get(shot.circledTakeId)?.length ?? 0
  return count === 0 || shot.id === desk.shotId ? [] : [{ shot, startFrame, count }]
}))

useEventListener(window, 'keydown', (event) => event.key === 'Escape' && !event.defaultPrevented && edges.leaveMend())
// What is only tried must not stay where nobody can take it or leave it.
onBeforeUnmount(() => edges.leaveMend())
const canGrow = (levelId: string) => pieceOf(levelId) === null
const mendWords = ({ of, amount }: Mend) => (of === 'larger' ? `× ${amount.toFixed(amount < 1.1 ? 3 : 2)}, about its foot` : `framings drawn in by ${(amount * 100).toFixed(amount < 0.1 ? 1 : 0)} %`)
function moreArt(finding: Finding) {
  edges.goTo(finding)
  // What is missing lies inside the outline of what is needed.
  needed.shown = true
  desk.view = 'draw'
}

const noting = ref<string | null>(null)
function accept(finding: Finding, note: string) {
  edges.accept(finding, note)
  noting.value = null
}
</script>

<template>
  <div class="edges" data-test="edges">
    <div class="counts">
      <span class="chip" :class="{ wrong: counts.out > 0 }">{{ counts.out }} {{ counts.out === 1 ? 'runs out' : 'run out' }}</span>
      <span class="chip" :class="{ bare: counts.gap > 0 }">{{ counts.gap }} bare</span>
      <span v-if="counts.meant > 0" class="chip">{{ counts.meant }} meant so</span>
    </div>
    <p v-if="edges.trouble" class="trouble" role="alert">{{ edges.trouble }}</p>
    <ul>
      <li v-for="{ finding, note: meant } in list" :key="finding.id" :class="{ chosen: finding.id === edges.chosenId, quiet: meant !== null }" data-test="finding">
        <button class="go" :title="`To its worst frame, ${finding.worstFrame} (Alt Shift Q: the next)`" @click="edges.goTo(finding)">
          <b>{{ findingTitle(finding, nameOf) }}</b>
          <span>{{ findingFacts(finding) }}</span>
          <span v-if="missingPx(finding) !== null">{{ missingPx(finding) }} px more art at its {{ finding.side }}</span>
        </button>
        <template v-if="meant === null">
          <MeantForm v-if="noting === finding.id" @keep="(note) => accept(finding, note)" @cancel="noting = null" />
          <div v-else-if="edges.trial?.findingId === finding.id" class="trial" role="status" data-test="mend-trial">
            <span>{{ mendWords(edges.trial.mend) }}</span>
            <button class="push-button strong" @click="edges.takeMend()">Take it</button>
            <button class="push-button" title="As it was (Esc)" @click="edges.leaveMend()">Leave it</button>
          </div>
          <div v-else class="mends">
            <template v-if="finding.levelId !== null && finding.side !== 'inside'">
              <button v-if="canGrow(finding.levelId)" class="chip" :disabled="edges.working !== null" title="About the point of it that is straight before the lens, by the least that closes every frame" @click="edges.tryMend(finding, 'larger')">Larger level</button>
              <button class="chip" :disabled="edges.working !== null" title="The camera’s framings drawn in by the least that closes every frame" @click="edges.tryMend(finding, 'shorter')">Shorter way</button>
              <button class="chip" title="To Draw, at the worst frame, with this level in hand" @click="moreArt(finding)">More art</button>
            </template>
            <button class="chip" title="It stays quiet until anything of it is another" @click="noting = finding.id">Meant so…</button>
            <span v-if="edges.working === finding.id" class="quiet small">working it out…</span>
          </div>
        </template>
        <p v-else class="said">meant so{{ meant === '' ? '' : `: “${meant}”` }}<button v-if="desk.take?.meant[finding.id]" class="link" @click="edges.speakAgain(finding.id)">not any more</button></p>
      </li>
    </ul>
    <p v-if="looked && !looked.anyArt" class="quiet">Nothing is drawn in this shot yet that could run out. Draw on a level, or place a picture.</p>
    <p v-else-if="looked && list.length === 0" class="fine">The art suffices in all {{ looked.frames }} frames of this shot.</p>
    <p class="quiet small" role="status">
      <template v-if="isRunning">looking… {{ edges.running!.total > 1 ? `${edges.running!.done} of ${edges.running!.total} frames` : '' }}</template>
      <template v-else-if="looked">{{ looked.frames }} frames looked at, {{ looked.again }} of them anew, {{ ago }}</template>
      <template v-else-if="edges.byItself">is looked through as soon as nothing moves</template>
      <template v-else>not looked through</template>
    </p>
    <div class="actions">
      <label title="White that is seen where no art is, is no fault in this shot"><input type="checkbox" :checked="edges.paperIsMeant" :disabled="desk.takeId === null" @change="edges.setPaper(!edges.paperIsMeant)" /> white paper is meant</label>
      <label title="Whenever nothing moves"><input v-model="edges.byItself" type="checkbox" /> by itself</label>
    </div>
    <div class="actions">
      <template v-if="edges.whole">
        <ProgressBar class="bar" :value="Math.round((edges.whole.done / edges.whole.total) * 100)" :show-value="false" aria-label="Shots looked through" />
        <span class="quiet small">{{ edges.whole.label }}, {{ edges.whole.done + 1 }} of {{ edges.whole.total }}</span>
        <button class="push-button" @click="edges.stop()">Cancel</button>
      </template>
      <template v-else>
        <button class="push-button" title="Every shot’s circled take, one after the other" @click="edges.lookThroughFilm()">The whole film</button>
        <button class="push-button" :disabled="desk.takeId === null || isRunning" @click="desk.takeId && edges.look(desk.takeId)">This shot</button>
      </template>
    </div>
    <ul v-if="others.length > 0" class="others">
      <li v-for="{ shot, startFrame, count } in others" :key="shot.id"><button class="go" @click="desk.goTo(startFrame)"><b>{{ shot.label }}</b> {{ count === 1 ? '1 finding' : `${count} findings` }} <span class="quiet">{{ shot.title }}</span></button></li>
    </ul>
  </div>
</template>

<style scoped src="./checks.css"></style>
<style scoped src="./cards.css"></style>
<style scoped>
.edges {
  height: 100%;
  padding: 8px 10px;
  background: var(--paper-1);
  overflow: hidden auto;
}
.counts {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 5px 8px;
  margin-bottom: 7px;
}
.chip.wrong {
  background: var(--vermilion-wash);
  color: var(--vermilion);
}
.chip.bare {
  color: var(--ochre);
  font-weight: 600;
}
li.quiet {
  background: none;
}
.go {
  display: flex;
  flex-direction: column;
  width: 100%;
  padding-bottom: 3px;
}
.others .go {
  display: block;
  padding: 0;
}
.mends,
.trial {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 4px;
}
.trial span {
  flex: 1;
  color: var(--ink);
  font-weight: 600;
}
.said,
.small {
  margin: 0 0 6px;
  font-size: 12px;
}
.said {
  margin: 0;
  font-style: italic;
}
.actions label {
  display: flex;
  align-items: center;
  gap: 5px;
}
</style>

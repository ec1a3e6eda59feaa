<script setup lang="ts">
import { inOrder } from '@rubato/core/document'
import { Pane, Splitpanes } from 'splitpanes'
import '~/styles/splitpanes.css'
import { computed, ref, useTemplateRef, watch } from 'vue'
import SetAround from '~/components/sets/SetAround.vue'
import SetMark from '~/components/sets/SetMark.vue'
import SetPlan from '~/components/sets/SetPlan.vue'
import ShotPicture from '~/components/sets/ShotPicture.vue'
import RenamedText from '~/components/levels/RenamedText.vue'
import { ArrowDownToLine } from '~/icons'
import { useSetFiles } from '~/composables/levels/useSetFiles'
import { useSets } from '~/composables/levels/useSets'
import { useSetScene, type SetCamera } from '~/composables/levels/useSetScene'
import { useDeskStore } from '~/stores/desk'
import { useFilmStore } from '~/stores/film'
import { useSetsStore } from '~/stores/sets'

/** The film's sets: each seen around and from above, with the cameras of all its shots, and a picture of each to go to. */
const film = useFilmStore()
const desk = useDeskStore()
const store = useSetsStore()
const sets = useSets()
const files = useSetFiles()
const all = computed(() => inOrder(film.outline.sets))
const shownId = computed(() => (store.shownId !== null && film.outline.sets[store.shownId] !== undefined ? store.shownId : (all.value[0]?.id ?? null)))
const shown = computed(() => (shownId.value === null ? null : (film.outline.sets[shownId.value] ?? null)))
const scene = useSetScene(shownId)
const hovered = ref<string | null>(null)
const trouble = ref<string | null>(null)
const input = useTemplateRef<HTMLInputElement>('input')
/** Shots that are read at once; the rest as they come. */
const SHOTS_AT_ONCE = 24

void store.count()
async function load(id: string) {
  trouble.value = null
  if (!(await sets.load(id))) {
    trouble.value = 'The set could not be loaded.'
    return
  }
  try {
    const takeIds = () => scene.shots.value.map(({ placed }) => placed.shot.circledTakeId)
    for (let at = 0; at < takeIds().length && shownId.value === id; at += SHOTS_AT_ONCE) await film.ensureTakesWithArt(takeIds().slice(at, at + SHOTS_AT_ONCE))
  } catch (error) {
    trouble.value = `Not all of its shots could be loaded. ${(error as Error).message}`
  }
}
watch([shownId, () => scene.shots.value.length], ([id]) => id !== null && void load(id), { immediate: true })

const pieces = computed(() => Object.keys(scene.body.value?.pieces ?? {}).length)
const users = (id: string) => ((count) => (count === 0 ? 'in no shot' : count === 1 ? 'in 1 shot' : `in ${count} shots`))(store.shotsOf(id).length)
const first = (id: string) => store.shotsOf(id).find(({ placed }) => film.takeOf(placed.shot.circledTakeId) !== null)?.placed.shot.circledTakeId ?? null

function go(camera: SetCamera) {
  desk.view = 'desk'
  desk.goTo(camera.placed.startFrame + camera.frame)
}
async function put() {
  if (shownId.value !== null && (await sets.put(shownId.value))) desk.view = 'desk'
}
function choose(event: Event) {
  const field = event.target as HTMLInputElement
  const [file] = field.files ?? []
  field.value = ''
  if (file !== undefined) void files.bring(file)
}
</script>

<template>
  <div class="sets">
    <aside class="list" aria-label="Sets">
      <header>
        <b>Sets</b><span class="quiet grow">{{ all.length === 0 ? '' : all.length }}</span>
        <button class="push-button" title="Bring a set in from its file" @click="input?.click()"><ArrowDownToLine :size="13" /> Bring in…</button>
        <input ref="input" type="file" accept=".rubato-set" class="file" aria-label="A set’s file" @change="choose" />
      </header>
      <p v-if="files.state.value" class="going" role="status">{{ files.state.value.text }} <progress v-if="files.state.value.share !== null" :value="files.state.value.share" max="1" /> <button class="push-button" @click="files.cancel">Cancel</button></p>
      <ul role="listbox" aria-label="The film’s sets">
        <li v-for="set in all" :key="set.id" role="option" :aria-selected="set.id === shownId" class="card" data-test="set-card" @click="store.shownId = set.id">
          <ShotPicture v-if="first(set.id)" :key="first(set.id)!" :take-id="first(set.id)!" :frame="0" :width="72" />
          <span v-else class="blank"><SetMark :width="30" :height="25" /></span>
          <span class="words"><RenamedText :text="set.name" title="" label="Name of the set" @rename="(name) => sets.rename(set.id, name)" /><span class="quiet">{{ users(set.id) }}</span></span>
        </li>
      </ul>
    </aside>
    <main v-if="shown === null" class="empty">
      <SetMark :width="72" :height="60" />
      <h2>No sets yet</h2>
      <p>A set is levels that stand in many shots: drawn once, changed once, seen from every camera. On the Desk choose levels in the depth rack and make a set of them (Alt Shift U), or bring one in from a file.</p>
      <p><button class="push-button strong" @click="desk.view = 'desk'">To the Desk</button> <button class="push-button" @click="input?.click()">Bring in…</button></p>
    </main>
    <main v-else class="seen">
      <header>
        <h2 :title="shown.name">{{ shown.name }}</h2>
        <span class="quiet grow">{{ pieces === 1 ? '1 piece' : `${pieces} pieces` }}, {{ users(shown.id) }}</span>
        <button class="push-button strong" :disabled="desk.placedShot === null" :title="`Puts it into shot ${desk.placedShot?.shot.label ?? ''}, where it stands in its other shots`" @click="put">Put into {{ desk.placedShot?.shot.label }}</button>
        <button class="push-button" title="A set of its own like this one" @click="sets.duplicate(shown.id)">Duplicate</button>
        <button class="push-button" title="Save the set as one file, with its drawings and pictures" @click="files.save(shown.id)">Save as a file</button>
        <button class="push-button" :disabled="store.usersOf(shown.id).size > 0" :title="store.usersOf(shown.id).size > 0 ? 'Shots stand in it. Take it out of those first' : 'Delete the set (undo brings it back)'" @click="sets.remove(shown.id)">Delete</button>
      </header>
      <p v-if="trouble ?? store.trouble" class="trouble" role="alert">{{ trouble ?? `Which shots stand in it could not be asked for. ${store.trouble}` }} <button class="push-button" @click="(store.count(), load(shown.id))">Try again</button></p>
      <Splitpanes class="views">
        <Pane :size="72" min-size="40">
          <Splitpanes v-if="scene.stage.value" horizontal>
            <Pane :size="60" min-size="25"><SetAround :stage="scene.stage.value" :cameras="scene.cameras.value" :hovered="hovered" :bounds-of="scene.boundsOf" @hover="(id) => (hovered = id)" @go="go" /></Pane>
            <Pane :size="40" min-size="20"><SetPlan :stage="scene.stage.value" :cameras="scene.cameras.value" :hovered="hovered" :bounds-of="scene.boundsOf" :name-of="scene.nameOf" @hover="(id) => (hovered = id)" @go="go" /></Pane>
          </Splitpanes>
          <p v-else class="loading quiet" role="status">{{ trouble ?? 'Loading the set…' }}</p>
        </Pane>
        <Pane :size="28" min-size="16">
          <div class="shots" aria-label="Cameras of its shots">
            <p v-if="scene.shots.value.length === 0" class="quiet">No shot stands in it yet. Put it into one, and its cameras show here.</p>
            <button v-for="camera in scene.cameras.value" :key="camera.id" class="shot" :class="{ hovered: camera.id === hovered }" :title="`Go to shot ${camera.placed.shot.label} ${camera.placed.shot.title}`" data-test="set-shot" @click="go(camera)" @pointerenter="hovered = camera.id" @pointerleave="hovered = null">
              <ShotPicture :take-id="camera.takeId" :frame="camera.frame" :width="236" />
              <span class="words"><b>{{ camera.label }}</b> <span class="quiet">{{ camera.framings > 1 ? `${camera.framings} framings` : '' }}</span><br /><span class="title">{{ camera.placed.shot.title }}</span></span>
            </button>
          </div>
        </Pane>
      </Splitpanes>
    </main>
  </div>
</template>

<style scoped>
.sets {
  display: flex;
  height: 100%;
  background: var(--paper-1);
}
.list {
  display: flex;
  flex: none;
  flex-direction: column;
  width: 252px;
  border-right: 1px solid var(--rule);
}
header {
  display: flex;
  flex: none;
  align-items: center;
  gap: 8px;
  min-height: 40px;
  padding: 4px 10px;
}
.grow {
  flex: 1;
}
.seen header .grow {
  flex: 1 0 auto;
  white-space: nowrap;
}
.file {
  display: none;
}
.going {
  display: grid;
  gap: 4px;
  margin: 0 8px 6px;
  padding: 6px 8px;
  border-radius: 6px;
  background: var(--blue-wash);
}
.going progress {
  width: 100%;
}
ul {
  display: flex;
  flex: 1;
  flex-direction: column;
  gap: 4px;
  margin: 0;
  padding: 2px 8px 12px;
  overflow: auto;
  list-style: none;
}
.card {
  display: flex;
  gap: 8px;
  align-items: center;
  padding: 5px;
  border: 1px solid transparent;
  border-radius: 6px;
  cursor: pointer;
}
.card:hover {
  background: var(--paper-2);
}
.card[aria-selected='true'] {
  border-color: var(--blue);
  background: var(--blue-wash);
}
.blank {
  display: grid;
  flex: none;
  place-items: center;
  width: 72px;
  height: 41px;
  border-radius: 4px;
  background: var(--paper-2);
  color: var(--ink-2);
}
.card .words {
  display: grid;
  min-width: 0;
}
.seen {
  display: flex;
  flex: 1;
  flex-direction: column;
  min-width: 0;
}
h2 {
  min-width: 0;
  margin: 0;
  overflow: hidden;
  font-family: var(--serif);
  font-size: 21px;
  font-weight: 500;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.seen header .push-button {
  flex: none;
}
.views {
  flex: 1;
  min-height: 0;
  border-top: 1px solid var(--rule);
}
.loading {
  margin: 40px;
}
.trouble {
  margin: 0;
  padding: 5px 12px;
  background: var(--vermilion-wash);
  color: var(--vermilion-text);
}
.shots {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
  align-content: start;
  height: 100%;
  padding: 10px;
  overflow: auto;
}
.shots p {
  margin: 4px;
}
.shot {
  padding: 5px;
  border: 1px solid var(--rule);
  border-radius: 7px;
  background: var(--paper-0);
  color: inherit;
  font: inherit;
  text-align: left;
  cursor: pointer;
}
.shot:hover,
.shot.hovered {
  border-color: var(--blue);
  box-shadow: 0 0 0 1px var(--blue);
}
.shot .words {
  display: block;
  width: 236px;
  padding: 3px 2px 0;
}
.title {
  display: inline-block;
  max-width: 100%;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.empty {
  display: grid;
  flex: 1;
  gap: 10px;
  align-content: center;
  justify-items: center;
  color: var(--ink-2);
}
.empty h2 {
  color: var(--ink);
}
.empty p {
  max-width: 430px;
  margin: 0;
  text-align: center;
}
</style>

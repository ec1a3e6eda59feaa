<script setup lang="ts">
import { inOrder, type Passage, shorten } from '@rubato/core/document'
import { setScript, type PlannedSequence } from '@rubato/core/edits'
import { canBeBoarded, keepPassages, passageWords, writeFountain, type ScriptDoubt } from '@rubato/core/script'
import { computed, ref, shallowRef, watch } from 'vue'
import { scriptText, SCRIPT_LIMIT_BYTES } from '~/boards/scriptFile'
import { TookTooLong, WorkerStopped } from '~/clients/jobs'
import { scriptJobs } from '~/clients/scriptJobs'
import { useFilmStore } from '~/stores/film'

/** Brings a screenplay in, or an edited one in its place: read, looked over, accepted. */
const visible = defineModel<boolean>('visible', { required: true })
const props = defineProps<{ file: File | null; startWith: 'file' | 'text' }>()
const film = useFilmStore()

interface Scene {
  readonly passage: Passage
  /** The sequence it is already in. */
  readonly known: string | null
  name: string
  /** Goes with the scene before it. */
  merged: boolean
}

const step = ref<'give' | 'look'>('give')
const text = ref('')
const note = ref<string | null>(null)
const doubts = shallowRef<readonly ScriptDoubt[]>([])
const DOUBTS = { 'open-comment': 'a comment that is never closed', 'open-note': 'a note that is never closed', 'too-long': 'longer than a passage can be, so it was parted' } as const
const doubtsText = computed(() => {
  const named = doubts.value.slice(0, 4).map(({ line, what }) => `line ${line}: ${DOUBTS[what]}`)
  const more = doubts.value.length - named.length
  return `Taken as the text that it is: ${named.join('; ')}${more > 0 ? `; and ${more} more` : ''}.`
})
const trouble = ref<string | null>(null)
const busy = ref(false)
const passages = shallowRef<readonly Passage[]>([])
const scenes = ref<Scene[]>([])
const old = computed(() => inOrder(film.film.outline.passages))
/** A screenplay takes a second; longer than this nobody should wait for one that can't be read. */
const READ_WITHIN_MS = 10_000
let gate = new AbortController()

watch(visible, (now) => {
  gate.abort()
  if (!now) return
  step.value = 'give'
  trouble.value = null
  note.value = null
  doubts.value = []
  busy.value = false
  text.value = props.startWith === 'text' ? writeFountain(old.value).trimEnd() : ''
  if (props.file !== null) void takeFile(props.file)
  else if (props.startWith === 'file') pick()
})

function pick() {
  const input = document.createElement('input')
  input.type = 'file'
  input.accept = '.fountain,.txt,.spmd,text/plain'
  input.onchange = () => input.files?.[0] && void takeFile(input.files[0])
  input.click()
}
async function takeFile(file: File) {
  trouble.value = null
  try {
    if (file.size > SCRIPT_LIMIT_BYTES) scriptText(new Uint8Array(SCRIPT_LIMIT_BYTES + 1))
    const read = scriptText(new Uint8Array(await file.arrayBuffer()))
    text.value = read.text
    note.value = read.note
    await readText()
  } catch (error) {
    trouble.value = `“${file.name}” was not read. ${(error as Error).message}`
  }
}

/** In a worker: a long script takes a moment. */
async function readText() {
  trouble.value = null
  if (text.value.trim() === '') {
    trouble.value = 'There is no text yet. Choose a file, or paste the script here.'
    return
  }
  if (text.value.length > SCRIPT_LIMIT_BYTES) {
    trouble.value = `The text is longer than ${SCRIPT_LIMIT_BYTES / 1024 ** 2} million letters. Bring in its parts one by one.`
    return
  }
  busy.value = true
  gate.abort()
  const { signal } = (gate = new AbortController())
  try {
    const script = await scriptJobs.run(text.value, { signal, withinMs: READ_WITHIN_MS })
    busy.value = false
    if (script.passages.length === 0) return fail('Nothing was found in it.')
    doubts.value = script.doubts
    show(keepPassages(old.value, script.passages, () => crypto.randomUUID()))
  } catch (error) {
    if (signal.aborted) return
    if (error instanceof TookTooLong) fail(`The text can’t be read in ${READ_WITHIN_MS / 1000} seconds, so the reader was stopped. Bring in its parts one by one.`)
    else fail(error instanceof WorkerStopped ? 'The reader stopped. Reload the page and try again.' : (error as Error).message)
  }
}
function fail(what: string) {
  busy.value = false
  trouble.value = what
}

function show(found: readonly Passage[]) {
  passages.value = found
  let last: string | null = null
  scenes.value = found
    .filter((passage) => passage.kind === 'scene')
    .map((passage): Scene => {
      const known = passage.sequenceId !== null && film.film.outline.sequences[passage.sequenceId] !== undefined ? passage.sequenceId : null
      const place = placeOf(passage.text)
      // One place after another in the same place is mostly one sequence.
      const merged = known === null && last !== null && place === last
      last = place
      return { passage, known, name: nameOf(passage.text), merged }
    })
  step.value = 'look'
}

/** `EXT. SALT MARSH - DUSK` is in Salt marsh. */
function placeOf(heading: string): string {
  return heading.replace(/\s*#[^#]+#\s*$/, '').replace(/^\s*(?:int\.?\/ext|i\/e|int|ext|est)[. ]+/i, '').split(/\s[-–—]+\s/)[0]!.trim().toLowerCase()
}
function nameOf(heading: string): string {
  const place = placeOf(heading)
  return shorten(place.charAt(0).toUpperCase() + place.slice(1), 200) || 'Scene'
}

const counts = computed(() => {
  const before = new Map(old.value.map((passage) => [passage.id, passage]))
  const boardedIds = new Set(Object.values(film.film.outline.links).map((link) => link.passageId))
  const now = new Set(passages.value.map((passage) => passage.id))
  const edited = passages.value.filter((passage) => before.has(passage.id) && passageWords(before.get(passage.id)!) !== passageWords(passage))
  const gone = old.value.filter((passage) => !now.has(passage.id))
  return {
    isNew: old.value.length === 0,
    boardable: passages.value.filter(canBeBoarded).length,
    fresh: passages.value.filter((passage) => !before.has(passage.id)).length,
    edited: edited.length,
    editedBoarded: edited.filter((passage) => boardedIds.has(passage.id)).length,
    gone: gone.length,
    goneBoarded: gone.filter((passage) => boardedIds.has(passage.id)).length,
  }
})
const sequencesMade = computed(() => scenes.value.filter((scene, i) => scene.known === null && (!scene.merged || i === 0)).length)

async function accept() {
  const plan: { title: string | null; id: string; sceneIds: string[] }[] = []
  for (const [index, scene] of scenes.value.entries()) {
    const before = plan.at(-1)
    if (scene.known !== null) plan.push({ title: null, id: scene.known, sceneIds: [scene.passage.id] })
    else if (scene.merged && index > 0 && before !== undefined) before.sceneIds.push(scene.passage.id)
    else plan.push({ title: scene.name.trim() || 'Scene', id: crypto.randomUUID(), sceneIds: [scene.passage.id] })
  }
  busy.value = true
  const goesOn = counts.value.isNew || (await film.safeguard('Before another script was brought in'))
  busy.value = false
  if (!goesOn) return
  const label = counts.value.isNew ? 'bring in the script' : 'change the script'
  if (film.perform(label, (f) => setScript(f.outline, film.project!.id, passages.value, plan as PlannedSequence[]))) visible.value = false
}
function mergeAll() {
  scenes.value.forEach((scene, i) => (scene.merged = i > 0 && scene.known === null))
}
function splitAll() {
  for (const scene of scenes.value) scene.merged = false
}
</script>

<template>
  <Dialog v-model:visible="visible" modal :header="step === 'give' ? (old.length === 0 ? 'Bring in a script' : 'Change the script') : 'Scenes become sequences'" :style="{ width: '680px' }" data-test="script-dialog">
    <template v-if="step === 'give'">
      <p class="quiet">A screenplay in Fountain: plain text with scene headings (INT. and EXT.), action, names in capitals over what they say. {{ old.length > 0 ? 'What is still in it keeps its links to the panels.' : '' }}</p>
      <textarea v-model="text" class="text mono" rows="16" aria-label="The script as text" placeholder="EXT. SALT MARSH - DUSK&#10;&#10;The lamp in the tower gutters.&#10;&#10;OSKAR&#10;Mind the lamp." spellcheck="false" />
      <p v-if="trouble" class="wrong" role="alert">{{ trouble }}</p>
      <footer>
        <button class="push-button" @click="pick">Choose a file…</button>
        <span class="grow" />
        <button class="push-button" @click="visible = false">Cancel</button>
        <button class="push-button strong" :disabled="busy" @click="readText">{{ busy ? 'Reading…' : 'Read it' }}</button>
      </footer>
    </template>
    <template v-else>
      <p>
        <b>{{ passages.length }}</b> passages, <b>{{ counts.boardable }}</b> of them action or dialogue; <b>{{ scenes.length }}</b> {{ scenes.length === 1 ? 'scene' : 'scenes' }}.
        <template v-if="!counts.isNew">{{ counts.fresh }} new, {{ counts.edited }} edited ({{ counts.editedBoarded }} on the boards), {{ counts.gone }} gone ({{ counts.goneBoarded }} on the boards: those panels keep their words).</template>
      </p>
      <p v-if="note" class="wrong">{{ note }}</p>
      <p v-if="doubts.length > 0" class="wrong" data-test="script-doubts">{{ doubtsText }}</p>
      <p v-if="scenes.length === 0" class="quiet">No scene headings were found, so no sequences are made. The passages can be boarded into the sequences that are there.</p>
      <div v-else class="tools">
        <span class="quiet">{{ sequencesMade }} new {{ sequencesMade === 1 ? 'sequence' : 'sequences' }}</span>
        <span class="grow" />
        <button class="push-button" @click="mergeAll">All into one</button>
        <button class="push-button" @click="splitAll">Each its own</button>
      </div>
      <ul v-if="scenes.length > 0" class="scenes">
        <li v-for="(scene, i) in scenes" :key="scene.passage.id" :class="{ merged: scene.merged && i > 0 }">
          <label v-if="scene.known === null && i > 0" class="merge" title="Goes with the scene above, in one sequence"><input v-model="scene.merged" type="checkbox" /> with the one above</label>
          <span v-else class="merge quiet">{{ scene.known === null ? '' : 'is there' }}</span>
          <span class="heading mono" :title="scene.passage.text">{{ scene.passage.text }}</span>
          <input v-if="scene.known === null && (!scene.merged || i === 0)" v-model="scene.name" class="name" maxlength="200" :aria-label="`Name of the sequence for ${scene.passage.text}`" />
          <span v-else class="name quiet">{{ scene.known === null ? '' : film.film.outline.sequences[scene.known]?.title }}</span>
        </li>
      </ul>
      <footer>
        <button class="push-button" @click="step = 'give'">Back to the text</button>
        <span class="grow" />
        <button class="push-button" @click="visible = false">Cancel</button>
        <button class="push-button strong" :disabled="busy" @click="accept">{{ counts.isNew ? 'Bring it in' : 'Accept the changes' }}</button>
      </footer>
    </template>
  </Dialog>
</template>

<style scoped>
p {
  margin: 0 0 10px;
}
.text {
  width: 100%;
  padding: 8px;
  resize: vertical;
  border: 1px solid var(--rule);
  border-radius: 6px;
  background: var(--sheet);
  color: var(--ink);
  font-size: 12px;
  line-height: 1.4;
}
.wrong {
  color: var(--vermilion-text);
}
.tools,
footer {
  display: flex;
  align-items: center;
  gap: 8px;
}
footer {
  margin-top: 12px;
}
.grow {
  flex: 1;
}
.scenes {
  max-height: 340px;
  margin: 8px 0 0;
  padding: 0;
  overflow-y: auto;
  list-style: none;
}
.scenes li {
  display: grid;
  grid-template-columns: 128px 1fr 190px;
  align-items: center;
  gap: 8px;
  min-height: 32px;
  padding: 2px 4px;
  border-top: 1px solid var(--rule);
}
.scenes li.merged {
  border-top-style: dashed;
}
.merge {
  font-size: 12px;
  white-space: nowrap;
}
.heading {
  overflow: hidden;
  font-size: 12px;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.name {
  min-width: 0;
}
input.name {
  padding: 3px 7px;
  border: 1px solid var(--rule);
  border-radius: 5px;
  background: var(--sheet);
  color: var(--ink);
  font: inherit;
}
</style>

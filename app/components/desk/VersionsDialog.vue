<script setup lang="ts">
import { secondsOfFrames } from '@rubato/core/time'
import { shotsOf } from '@rubato/core/edits'
import { inOrder } from '@rubato/core/document'
import { computed, ref, shallowRef, watch } from 'vue'
import { Trash2 } from '~/icons'
import { api } from '~/api/client'
import CoverPicture from '~/components/CoverPicture.vue'
import { useFilmStore } from '~/stores/film'
import { wordBytes, wordDifferences } from '~/text/differences'
import type { Compared, Version } from '#shared/versions'

/** Named whole states of the film: kept, looked at, compared, brought back. */
const visible = defineModel<boolean>('visible', { required: true })
const film = useFilmStore()
const versions = shallowRef<readonly Version[] | null>(null)
const name = ref('')
const busy = ref(false)
const trouble = ref<string | null>(null)
const said = ref<string | null>(null)
const opened = shallowRef<{ readonly id: string; readonly kind: 'compare' | 'back' } | null>(null)
const compared = shallowRef<readonly Compared[] | null>(null)
const chosen = ref<string[]>([])
const shotChoices = shallowRef<readonly { readonly id: string; readonly label: string }[]>([])

const projectId = computed(() => film.projectId ?? '')

async function attempt(work: () => Promise<void>) {
  busy.value = true
  trouble.value = null
  said.value = null
  try {
    await work()
  } catch (error) {
    trouble.value = (error as Error).message
  } finally {
    busy.value = false
  }
}
const load = async () => void (versions.value = await api.versions(projectId.value))

watch(visible, (now) => {
  if (!now) return
  opened.value = null
  said.value = null
  void attempt(load)
})

const keep = () =>
  attempt(async () => {
    // A version has what is on the screen, not only what the server has heard of.
    await film.settled()
    await api.makeVersion(projectId.value, name.value.trim(), film.artist)
    name.value = ''
    await load()
  })

const remove = (version: Version) =>
  attempt(async () => {
    if (!window.confirm(`Delete the version “${version.name}”? The film itself stays as it is; the version can’t be had back.`)) return
    await api.deleteVersion(projectId.value, version.id)
    await load()
  })

const compare = (version: Version) =>
  attempt(async () => {
    if (opened.value?.id === version.id && opened.value.kind === 'compare') return void (opened.value = null)
    compared.value = null
    opened.value = { id: version.id, kind: 'compare' }
    await film.flush()
    compared.value = await api.compareVersion(projectId.value, version.id)
  })

const chooseShots = (version: Version) =>
  attempt(async () => {
    if (opened.value?.id === version.id && opened.value.kind === 'back') return void (opened.value = null)
    chosen.value = []
    const { outline } = await api.openVersion(projectId.value, version.id)
    shotChoices.value = inOrder(outline.sequences).flatMap((sequence) => shotsOf(outline, sequence.id).map((shot) => ({ id: shot.id, label: `${sequence.label} · ${shot.label} ${shot.title}`.trim() })))
    opened.value = { id: version.id, kind: 'back' }
  })

const bringBack = (version: Version, shotIds: readonly string[] | null) =>
  attempt(async () => {
    await film.flush()
    const { changes } = await api.bringBack(projectId.value, version.id, shotIds, film.artist)
    opened.value = null
    await load()
    said.value = changes === 0 ? 'Nothing had changed since, so nothing was brought back.' : `Brought back. The film as it was before is kept as “Before “${version.name}” was brought back”.`
  })

function timeOf(frames: number) {
  const seconds = film.project === null ? 0 : Math.round(secondsOfFrames(frames, film.project.rate))
  return `${Math.floor(seconds / 60)}:${String(seconds % 60).padStart(2, '0')}`
}
const when = (iso: string) => new Date(iso).toLocaleString([], { dateStyle: 'medium', timeStyle: 'short' })
</script>

<template>
  <Dialog v-model:visible="visible" modal header="Versions" :style="{ width: '680px' }">
    <form class="keep" @submit.prevent="keep">
      <InputText v-model="name" maxlength="120" placeholder="Name, such as “Before the re-board”" aria-label="Name of the version" size="small" autofocus />
      <button class="push-button strong" type="submit" :disabled="busy || name.trim() === ''">Keep this version</button>
    </form>
    <p v-if="trouble" class="trouble" role="alert">{{ trouble }}</p>
    <p v-if="said" class="said" role="status">{{ said }}</p>
    <p v-if="versions === null && !trouble" class="quiet">Looking…</p>
    <p v-else-if="versions?.length === 0" class="quiet empty">No versions yet. Keep one before a change you may want to take back as a whole; it costs only what has changed since the last.</p>
    <ol v-else class="list">
      <li v-for="version in versions ?? []" :key="version.id" data-test="version">
        <div class="row">
          <CoverPicture v-if="film.project" class="picture" :project="film.project" :load="() => api.versionCover(projectId, version.id)" />
          <div class="words">
            <b :title="version.name">{{ version.name }}</b>
            <span class="quiet">{{ when(version.createdAt) }}<template v-if="version.author"> · {{ version.author }}</template></span>
            <span class="quiet">{{ version.shotCount === 1 ? '1 shot' : `${version.shotCount} shots` }} · {{ timeOf(version.lengthFrames) }} · {{ wordBytes(version.bytes) }}, {{ wordBytes(version.ownBytes) }} its own</span>
          </div>
          <div class="doing">
            <a class="push-button" :href="`/film/${projectId}?version=${version.id}`" target="_blank" title="Open it beside the film, to look at">Look</a>
            <button class="push-button" :disabled="busy" :aria-expanded="opened?.id === version.id && opened.kind === 'compare'" title="What was done to the film since" @click="compare(version)">Changes</button>
            <button class="push-button" :disabled="busy" :aria-expanded="opened?.id === version.id && opened.kind === 'back'" title="Make the film, or some of its shots, what they were" @click="chooseShots(version)">Bring back…</button>
            <button class="icon-button small" :disabled="busy" :title="`Delete the version ${version.name}`" :aria-label="`Delete the version ${version.name}`" @click="remove(version)"><Trash2 :size="14" /></button>
          </div>
        </div>
        <div v-if="opened?.id === version.id && opened.kind === 'compare'" class="more" data-test="compared">
          <p v-if="compared === null" class="quiet">Comparing…</p>
          <p v-else-if="compared.length === 0" class="quiet">Nothing has changed since.</p>
          <ul v-else>
            <li v-for="part in compared" :key="part.shotId ?? ''"><b>{{ part.shotLabel === null ? 'Film' : `Shot ${part.shotLabel}` }}</b> {{ wordDifferences(part.differences).join('; ') }}</li>
          </ul>
        </div>
        <div v-if="opened?.id === version.id && opened.kind === 'back'" class="more">
          <p class="quiet">The film as it is now is kept as a version first.</p>
          <div class="choices">
            <label v-for="shot in shotChoices" :key="shot.id"><input v-model="chosen" type="checkbox" :value="shot.id" /> {{ shot.label }}</label>
          </div>
          <div class="doing">
            <button class="push-button" :disabled="busy || chosen.length === 0" @click="bringBack(version, chosen)">Bring back {{ chosen.length === 1 ? 'this shot' : `these ${chosen.length} shots` }}</button>
            <button class="push-button strong" :disabled="busy" @click="bringBack(version, null)">Bring back the whole film</button>
          </div>
        </div>
      </li>
    </ol>
  </Dialog>
</template>

<style scoped>
.keep {
  display: flex;
  gap: 8px;
  margin-bottom: 12px;
}
.keep :deep(input) {
  flex: 1;
}
.list {
  display: grid;
  gap: 8px;
  max-height: 56vh;
  margin: 0;
  padding: 0;
  overflow: auto;
  list-style: none;
}
.list > li {
  padding: 8px;
  border: 1px solid var(--rule);
  border-radius: 7px;
}
.row {
  display: flex;
  align-items: center;
  gap: 10px;
}
.picture {
  flex: none;
  width: 96px;
  border: 1px solid var(--rule);
  border-radius: 4px;
  overflow: hidden;
}
.words {
  display: grid;
  flex: 1;
  min-width: 0;
}
.words b {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.words span {
  font-size: 11.5px;
}
.doing {
  display: flex;
  align-items: center;
  gap: 5px;
}
.doing a {
  text-decoration: none;
}
.more {
  margin-top: 8px;
  padding-top: 8px;
  border-top: 1px solid var(--rule);
}
.more ul {
  display: grid;
  gap: 4px;
  margin: 0;
  padding: 0;
  list-style: none;
}
.choices {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 3px 12px;
  max-height: 160px;
  margin-bottom: 8px;
  overflow: auto;
}
p {
  margin: 0 0 8px;
}
.empty {
  padding: 20px 30px;
  text-align: center;
}
.trouble {
  padding: 6px 10px;
  border-radius: 6px;
  background: var(--vermilion-wash);
  color: var(--vermilion-text);
}
.said {
  padding: 6px 10px;
  border-radius: 6px;
  background: var(--paper-2);
}
</style>

<script setup lang="ts">
import type { Work, WorkState } from '@rubato/core/document'
import { ref, shallowRef, useTemplateRef } from 'vue'
import type { WorkChange } from '#shared/projects'
import { api } from '~/api/client'
import { useBreakdownStore } from '~/stores/breakdown'
import { useFilmStore } from '~/stores/film'
import { daysWords, stateWords } from '~/text/breakdown'

/** Who said what of a row, and when. */
const film = useFilmStore()
const store = useBreakdownStore()
const popover = useTemplateRef('popover')
const label = ref('')
const changes = shallowRef<readonly WorkChange[] | null>(null)
const trouble = ref<string | null>(null)
let asked = 0

async function show(event: Event, id: string, called: string) {
  label.value = called
  changes.value = trouble.value = null
  popover.value?.show(event)
  const mine = ++asked
  try {
    await film.flush()
    const found = await api.workHistory(film.projectId!, id)
    if (mine === asked) changes.value = found
  } catch (error) {
    if (mine === asked) trouble.value = `It could not be read. ${(error as Error).message}`
  }
}
defineExpose({ show })

function told({ before, after }: WorkChange): string {
  const parts: string[] = []
  const field = (name: string, of: (work: Work | null) => string) => ((was, is) => was !== is && parts.push(`${name}: ${was === '' ? '' : `${was} → `}${is === '' ? 'nothing' : is}`))(of(before), of(after))
  field('state', (work) => stateWords(work?.state as WorkState | undefined))
  field('who', (work) => work?.who ?? '')
  field('days', (work) => (work?.days === undefined ? '' : daysWords(work.days)))
  field('notes', (work) => work?.notes ?? '')
  for (const id of new Set([...Object.keys(before?.own ?? {}), ...Object.keys(after?.own ?? {})])) field(store.body.columns[id]?.name ?? 'a column that is gone', (work) => work?.own?.[id] ?? '')
  return parts.join('; ')
}
const when = (at: string) => new Date(at).toLocaleString(undefined, { day: 'numeric', month: 'short', hour: '2-digit', minute: '2-digit' })
</script>

<template>
  <Popover ref="popover">
    <section class="history" :aria-label="`History of ${label}`">
      <b>{{ label }}</b>
      <p v-if="trouble" role="alert">{{ trouble }}</p>
      <p v-else-if="changes === null" class="quiet">Looking…</p>
      <p v-else-if="changes.length === 0" class="quiet">Nobody has said anything of it yet.</p>
      <ol v-else>
        <li v-for="(change, i) in changes" :key="i"><span class="quiet">{{ when(change.at) }}, {{ change.author || 'somebody' }}</span><br />{{ told(change) }}</li>
      </ol>
    </section>
  </Popover>
</template>

<style scoped>
.history {
  width: 320px;
  max-height: 360px;
  overflow-y: auto;
}
ol {
  padding: 0;
  margin: 6px 0 0;
  list-style: none;
}
li {
  padding: 4px 0;
  border-top: 1px solid var(--rule);
  overflow-wrap: anywhere;
}
</style>

<script setup lang="ts">
import { factsOf } from '#shared/handOver'
import type { Render } from '#shared/renders'
import { shareOf, useRendersStore } from '~/stores/renders'
import { wordBytes } from '~/text/differences'

/** What the server makes of this film, and has made, one line each. */
const renders = useRendersStore()

function stateOf(render: Render): string {
  const { state, frames, doneFrames, atWork, workers, why, expiresAt } = render
  if (state === 'done') return `${frames > 0 ? `${frames} frames` : 'made'}${expiresAt === null ? '' : `, kept until ${new Date(expiresAt).toLocaleDateString(undefined, { day: 'numeric', month: 'short' })}`}`
  if (state === 'failed') return why ?? 'failed'
  if (state === 'cancelled') return 'cancelled'
  const at = frames > 0 ? `frame ${doneFrames} of ${frames}` : 'being made'
  const hands = atWork > 0 ? (atWork > 1 ? `, ${atWork} workers at it` : '') : workers === 0 ? ', waits: no worker runs (./start worker starts one)' : ', waits for its turn'
  return `${at}${hands}${why === null ? '' : `. ${why}`}`
}
</script>

<template>
  <section aria-label="On the server">
    <h3>On the server</h3>
    <p v-if="renders.trouble" class="failed" role="alert">{{ renders.trouble }}</p>
    <ul>
      <li v-for="render in renders.list" :key="render.id" :class="render.state" data-test="render">
        <span class="what">
          <b>{{ factsOf(render.format).label }}</b>, {{ render.about }}<template v-if="render.author">, {{ render.author }}</template>
          <ProgressBar v-if="render.state === 'running'" :value="Math.round(shareOf(render) * 100)" :show-value="false" style="height: 6px" aria-label="Progress" />
          <span class="quiet" :role="render.state === 'failed' ? 'alert' : 'status'">{{ stateOf(render) }}</span>
        </span>
        <span class="does">
          <a v-for="file in render.files.slice(0, 3)" :key="file.number" class="push-button" :href="renders.urlOf(render, file.number)" :title="`Save ${file.name}, ${wordBytes(file.bytes)}`" download>{{ render.files.length > 1 ? file.name : `Save, ${wordBytes(file.bytes)}` }}</a>
          <details v-if="render.files.length > 3" class="rest">
            <summary>{{ render.files.length - 3 }} more</summary>
            <a v-for="file in render.files.slice(3)" :key="file.number" :href="renders.urlOf(render, file.number)" download>{{ file.name }}</a>
          </details>
          <button v-if="render.state === 'failed' || render.state === 'cancelled'" type="button" class="push-button" title="Once more, of the film as it was then" @click="renders.again(render.id)">Again</button>
          <button type="button" class="push-button" :title="render.state === 'running' ? 'Ends it; nothing is kept of it' : 'Takes it off the list, and its files off the server'" @click="renders.end(render.id)">{{ render.state === 'running' ? 'Cancel' : 'Remove' }}</button>
        </span>
      </li>
    </ul>
  </section>
</template>

<style scoped>
h3 {
  margin: 0 0 4px;
  color: var(--ink-2);
  font-size: 12px;
  font-weight: 500;
}
ul {
  display: flex;
  flex-direction: column;
  gap: 5px;
  max-height: 210px;
  margin: 0;
  padding: 0;
  overflow-y: auto;
  list-style: none;
}
li {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  justify-content: flex-end;
  gap: 4px 12px;
  padding: 4px 10px;
  border-left: 3px solid var(--rule);
}
.done {
  border-color: var(--sea);
}
li.failed {
  border-color: var(--vermilion);
}
.what {
  flex: 1 1 210px;
  min-width: 0;
}
.what > .quiet {
  display: block;
}
.does {
  display: flex;
  flex-wrap: wrap;
  justify-content: flex-end;
  gap: 6px;
}
a.push-button {
  max-width: 190px;
  overflow: hidden;
  text-decoration: none;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.rest a {
  display: block;
}
p {
  margin: 0 0 5px;
}
p.failed {
  padding: 8px 10px;
  border-left: 3px solid var(--vermilion);
  background: var(--vermilion-wash);
}
</style>

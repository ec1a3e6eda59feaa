<script setup lang="ts">
import { useToast } from 'primevue/usetoast'
import { onMounted, ref, shallowRef } from 'vue'
import { useRouter } from 'vue-router'
import { Moon, Plus, Sun } from '~/icons'
import { api } from '~/api/client'
import { useTheme } from '~/composables/useTheme'
import type { ProjectCard as Card } from '#shared/projects'

const router = useRouter()
const toast = useToast()
const { choice, night } = useTheme()
const cards = shallowRef<readonly Card[] | null>(null)
const trouble = ref<string | null>(null)
const creating = ref(false)
const justDeleted = shallowRef<Card | null>(null)

async function load() {
  trouble.value = null
  try {
    cards.value = await api.projects()
  } catch (error) {
    trouble.value = (error as Error).message
  }
}
onMounted(load)

async function remove(card: Card) {
  try {
    await api.trashProject(card.project.id)
    justDeleted.value = card
    await load()
  } catch (error) {
    toast.add({ severity: 'error', detail: `“${card.project.title}” was not deleted. ${(error as Error).message}`, life: 7000 })
  }
}
async function undoRemove() {
  const card = justDeleted.value
  if (card === null) return
  try {
    await api.restoreProject(card.project.id)
    justDeleted.value = null
    await load()
  } catch (error) {
    toast.add({ severity: 'error', detail: `“${card.project.title}” could not be brought back. ${(error as Error).message}`, life: 7000 })
  }
}
const open = (id: string) => void router.push(`/film/${id}`)
</script>

<template>
  <main class="home">
    <header>
      <h1 class="tempo">Rubato</h1>
      <p class="quiet">Films on this desk</p>
      <span class="grow" />
      <button class="icon-button" :title="night ? 'Day desk' : 'Night desk'" :aria-label="night ? 'Day desk' : 'Night desk'" @click="choice = night ? 'day' : 'night'"><Sun v-if="night" :size="16" /><Moon v-else :size="16" /></button>
      <button class="push-button strong" @click="creating = true"><Plus :size="15" /> New film</button>
    </header>
    <p v-if="trouble" class="trouble" role="alert">The films could not be listed. {{ trouble }} <button class="push-button" @click="load">Try again</button></p>
    <p v-if="justDeleted" class="deleted" role="status">“{{ justDeleted.project.title }}” is in the trash. <button class="push-button" @click="undoRemove">Undo</button></p>
    <div v-if="cards && cards.length > 0" class="cards">
      <ProjectCard v-for="card in cards" :key="card.project.id" :card="card" @open="open(card.project.id)" @remove="remove(card)" />
    </div>
    <div v-else-if="cards" class="empty">
      <p class="tempo">No films yet.</p>
      <p class="quiet">A film needs a name and a size; then there is a first shot to draw on.</p>
      <button class="push-button strong" @click="creating = true"><Plus :size="15" /> New film</button>
    </div>
    <NewProjectDialog v-model:visible="creating" @made="open" />
  </main>
</template>

<style scoped>
.home {
  height: 100vh;
  padding: 18px 34px;
  overflow: auto;
}
header {
  display: flex;
  align-items: baseline;
  gap: 16px;
  margin-bottom: 22px;
  border-bottom: 1px solid var(--rule);
}
header button {
  align-self: center;
}
h1 {
  margin: 0 0 6px;
  font-size: 40px;
  font-weight: 500;
}
.grow {
  flex: 1;
}
.cards {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(270px, 1fr));
  gap: 20px;
}
.empty {
  display: grid;
  place-items: center;
  margin-top: 14vh;
}
.empty .tempo {
  margin: 0;
  font-size: 30px;
}
.trouble,
.deleted {
  padding: 7px 12px;
  border-radius: 6px;
  background: var(--paper-2);
}
.trouble {
  background: var(--vermilion-wash);
  color: var(--vermilion-text);
}
</style>

<script setup lang="ts">
import { onUnmounted, watch } from 'vue'
import { onBeforeRouteLeave, useRoute, useRouter } from 'vue-router'
import { useHead } from '#imports'
import { NuxtLink } from '#components'
import FilmView from '~/components/film/FilmView.vue'
import { useDeskStore } from '~/stores/desk'
import { useFilmStore } from '~/stores/film'

const route = useRoute()
const router = useRouter()
const film = useFilmStore()
const desk = useDeskStore()
useHead({ title: () => (film.project === null ? 'Rubato' : `${film.project.title} — Rubato`) })

/** Where the address last was told to be; null while a film opens, where it says where to go and follows nothing. */
let told: { readonly shot: unknown; readonly view: unknown } | null = null

async function open() {
  desk.reset()
  told = null
  const { version, view, shot: label } = route.query
  desk.view = view === 'boards' || view === 'draw' || view === 'sets' || view === 'breakdown' ? view : 'desk'
  await (typeof version === 'string' ? film.openVersion(String(route.params.id), version) : film.open(String(route.params.id)))
  // A new film begins with its boards.
  if (view === undefined && film.isBlank) desk.view = 'boards'
  const wanted = film.filmStage.shots.find((placed) => placed.shot.label === label)
  if (wanted !== undefined) desk.goToShot(wanted.shot.id)
  told = { shot: label, view }
  follow()
}

/** The address names the view and the shot, so that a reload comes back to them. */
function follow() {
  const { view } = desk
  const shot = desk.placedShot?.shot.label
  // What was told, not what the route says: that is behind while it is on its way.
  if (told === null || shot === undefined || desk.playing || (told.shot === shot && told.view === view)) return
  told = { shot, view }
  void router.replace({ query: { ...route.query, view, shot } })
}
watch([() => desk.placedShot?.shot.label, () => desk.view, () => desk.playing], follow)
void open()
onUnmounted(() => film.close())
onBeforeRouteLeave(async () => {
  await film.flush()
  const { waiting, kept } = film.saving
  return waiting === 0 || kept || window.confirm(`${waiting === 1 ? 'One change is' : `${waiting} changes are`} not saved yet: the server can’t be reached. Leave and lose ${waiting === 1 ? 'it' : 'them'}?`)
})
</script>

<template>
  <FilmView v-if="film.project" :key="film.project.id" />
  <main v-else-if="film.loadFailure" class="centre" role="alert">
    <h1>This film could not be opened</h1>
    <p>{{ film.loadFailure }}</p>
    <p><button class="push-button strong" @click="open">Try again</button> <NuxtLink class="push-button" to="/">All films</NuxtLink></p>
  </main>
  <main v-else class="centre" role="status"><p class="tempo">Opening…</p></main>
</template>

<style scoped src="~/styles/centre.css"></style>
<style scoped>
.push-button {
  text-decoration: none;
}
</style>

<script setup lang="ts">
import { computed, onMounted, ref } from 'vue'
import ShotPicture from '~/components/sets/ShotPicture.vue'
import { useBreakdownStore } from '~/stores/breakdown'
import { useFilmStore } from '~/stores/film'

/** What a shot shows first, brought in when its row is looked at. */
const props = defineProps<{ takeId: string | null; width: number }>()
const film = useFilmStore()
const store = useBreakdownStore()
const isLost = ref(false)
const isHere = computed(() => props.takeId !== null && film.takeOf(props.takeId) !== null)
onMounted(() => {
  if (props.takeId !== null) store.bring(props.takeId).catch(() => (isLost.value = true))
})
</script>

<template>
  <ShotPicture v-if="takeId !== null && isHere" :take-id="takeId" :frame="0" :width="width" />
  <span v-else class="blank" :class="{ lost: isLost }" :title="isLost ? 'It could not be loaded.' : ''" :style="{ width: `${width}px` }" />
</template>

<style scoped>
.blank {
  flex: none;
  height: 43px;
  border: 1px dashed var(--rule);
  border-radius: 4px;
}
</style>

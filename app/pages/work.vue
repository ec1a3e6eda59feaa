<script setup lang="ts">
import { onUnmounted } from 'vue'
import { useStageWork } from '~/composables/handover/useStageWork'

// Opened by the server's own workers, that paint with it; there is nothing to see here.
const page = globalThis as unknown as { rubatoWork?: ReturnType<typeof useStageWork> }
page.rubatoWork = useStageWork()
onUnmounted(() => delete page.rubatoWork)
</script>

<template>
  <main class="centre" role="status"><p>This page is for Rubato’s own workers.</p></main>
</template>

<style scoped src="~/styles/centre.css"></style>

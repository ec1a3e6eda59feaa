<script setup lang="ts">
import { computed } from 'vue'
import { question } from '~/stores/question'

/** A step that can't go on without the artist: one question, two answers. Escape is the careful one. */
const visible = computed({ get: () => question.value !== null, set: (now) => !now && question.value?.answer(false) })
</script>

<template>
  <Dialog v-model:visible="visible" modal :header="question?.title ?? ''" :style="{ width: '420px' }" data-test="question">
    <p>{{ question?.text }}</p>
    <div class="actions">
      <button class="push-button strong" autofocus @click="question?.answer(false)">{{ question?.no }}</button>
      <button class="push-button" @click="question?.answer(true)">{{ question?.yes }}</button>
    </div>
  </Dialog>
</template>

<style scoped src="../desk/dialog.css"></style>

<script setup lang="ts">
import { ref } from 'vue'
import { api } from '~/api/client'

const secret = ref('')
const trouble = ref('')
const busy = ref(false)

async function enter() {
  busy.value = true
  trouble.value = ''
  try {
    await api.signIn(secret.value)
    location.reload()
  } catch (error) {
    trouble.value = (error as Error).message
  } finally {
    busy.value = false
  }
}
</script>

<template>
  <main class="sign-in">
    <form @submit.prevent="enter">
      <h1 class="tempo">Rubato</h1>
      <label for="secret">The secret of this server</label>
      <div>
        <InputText id="secret" v-model="secret" type="password" autocomplete="current-password" autofocus :invalid="trouble !== ''" />
        <button class="push-button strong" type="submit" :disabled="busy || secret === ''">Come in</button>
      </div>
      <p v-if="trouble" class="trouble" role="alert">{{ trouble }}</p>
      <p class="quiet">Whoever started this server has it. This browser is remembered for 30 days.</p>
    </form>
  </main>
</template>

<style scoped>
.sign-in {
  display: grid;
  place-content: center;
  height: 100vh;
}
form {
  display: grid;
  gap: 10px;
  width: 340px;
}
h1 {
  margin: 0 0 12px;
  font-size: 38px;
  font-weight: 500;
}
form div {
  display: flex;
  gap: 8px;
}
form :deep(input) {
  flex: 1;
  min-width: 0;
}
p {
  margin: 0;
}
.trouble {
  color: var(--vermilion-text);
}
</style>

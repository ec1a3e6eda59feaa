<script setup lang="ts">
import { NuxtPage } from '#components'
import SignIn from '~/components/SignIn.vue'
import { signInWanted } from '~/api/client'
import { useTheme } from '~/composables/useTheme'

useTheme()
</script>

<template>
  <SignIn v-if="signInWanted" />
  <NuxtPage v-else />
  <Toast position="bottom-center" />
</template>

<script setup lang="ts">
import { NuxtPage } from '#components'
import QuestionDialog from '~/components/film/QuestionDialog.vue'
import SignIn from '~/components/SignIn.vue'
import { signInWanted } from '~/api/client'
import { useTheme } from '~/composables/view/useTheme'

useTheme()
</script>

<template>
  <SignIn v-if="signInWanted" />
  <NuxtPage v-else />
  <QuestionDialog />
  <Toast position="bottom-center" />
</template>

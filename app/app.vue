<script setup lang="ts">
import { NuxtPage } from '#components'
import { useTheme } from '~/composables/useTheme'

useTheme()
</script>

<template>
  <NuxtPage />
  <Toast position="bottom-center" />
</template>

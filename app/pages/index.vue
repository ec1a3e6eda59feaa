<script setup lang="ts">
import HomeView from '~/components/home/HomeView.vue'
</script>

<template>
  <HomeView />
</template>

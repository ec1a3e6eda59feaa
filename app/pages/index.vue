<template>
  <HomeView />
</template>

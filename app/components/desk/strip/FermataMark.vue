<template>
  <svg width="20" height="13" viewBox="0 0 20 13" aria-hidden="true">
    <path d="M1.5 12C2 5 5.5 1.5 10 1.5S18 5 18.5 12" fill="none" stroke="currentColor" stroke-width="1.8" />
    <circle cx="10" cy="9.5" r="1.9" fill="currentColor" />
  </svg>
</template>

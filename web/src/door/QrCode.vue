<script setup lang="ts">
/** A QR code, dark on white whatever the page: cameras want it so. */
defineProps<{ size: number; path: string; says: string }>()
</script>

<template>
  <svg :viewBox="`-4 -4 ${size + 8} ${size + 8}`" role="img" :aria-label="says" shape-rendering="crispEdges">
    <rect x="-4" y="-4" :width="size + 8" :height="size + 8" fill="#fff" />
    <path :d="path" fill="#000" />
  </svg>
</template>

<style scoped>
svg {
  width: min(240px, 100%);
  border: 1px solid var(--line);
}
</style>

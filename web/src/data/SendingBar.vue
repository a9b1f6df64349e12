<script setup lang="ts">
/** How far a file is. */
defineProps<{ share: number; what: string }>()
</script>

<template>
  <div>
    <progress :value="share" max="1" :aria-label="`How far ${what} is sent`"></progress>
    <p class="small" role="status">
      {{ share < 1 ? `${Math.round(share * 100)} % sent` : 'Sent; it is looked over and brought in' }}
    </p>
  </div>
</template>

<style scoped>
progress {
  width: 100%;
  height: 14px;
  accent-color: var(--water);
}
</style>

<script setup lang="ts">
/** That what stands in a form was typed here before and is not saved; and the way back to what is. */
defineEmits<{ drop: [] }>()
</script>

<template>
  <p class="kept" role="status">
    <span>What was typed here before stands here again. It is not saved yet.</span>
    <button class="button plain" type="button" @click="$emit('drop')">Start over</button>
  </p>
</template>

<style scoped>
.kept {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 0 12px;
  padding: 4px 14px;
  border-left: 4px solid var(--water);
  background: var(--water-wash);
}
</style>

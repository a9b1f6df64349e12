<script setup lang="ts">
/** A plain question with two answers; tapping the chosen one again takes it back. */
defineProps<{ question: string; yes: string; no: string }>()
const value = defineModel<boolean | null | undefined>({ required: true })
</script>

<template>
  <div class="ask" role="group" :aria-label="question">
    <span class="question">{{ question }}</span>
    <span class="chips">
      <button class="chip" type="button" :aria-pressed="value === true" @click="value = value === true ? null : true">
        {{ yes }}
      </button>
      <button
        class="chip"
        type="button"
        :aria-pressed="value === false"
        @click="value = value === false ? null : false"
      >
        {{ no }}
      </button>
    </span>
  </div>
</template>

<style scoped>
.ask {
  display: flex;
  flex-wrap: wrap;
  justify-content: space-between;
  align-items: center;
  gap: 6px 16px;
}
</style>

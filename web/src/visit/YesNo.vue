<script setup lang="ts">
/** A plain question with two answers; tapping the chosen one again takes it back. */
import { computed } from 'vue'
import ChoiceChips from '../controls/ChoiceChips.vue'

const props = defineProps<{ question: string; yes: string; no: string }>()
const value = defineModel<boolean | null | undefined>({ required: true })
const choices = computed(() => [
  { key: true, name: props.yes },
  { key: false, name: props.no },
])
</script>

<template>
  <div class="ask">
    <span class="question" aria-hidden="true">{{ question }}</span>
    <ChoiceChips v-model="value" :label="question" :choices="choices" silent />
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

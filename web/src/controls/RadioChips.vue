<script setup lang="ts" generic="K extends string, C extends { key: K; name: string }">
/** One of several, moved by the arrow keys: the library's radio buttons, each over the whole of what it chooses. */
import RadioButton from 'primevue/radiobutton'
import { useId } from 'vue'

defineProps<{ label: string; choices: C[]; shape?: 'chip' | 'card' }>()
const value = defineModel<K | null | undefined>({ required: true })
const id = useId()
</script>

<template>
  <div role="radiogroup" :aria-label="label" :class="shape === 'card' ? 'cards' : 'chips'">
    <span v-for="choice in choices" :key="choice.key" class="pick" :class="shape ?? 'chip'">
      <RadioButton v-model="value" :value="choice.key" :name="id" :aria-labelledby="`${id}-${choice.key}`" />
      <span :id="`${id}-${choice.key}`" class="says"
        ><slot :choice="choice">{{ choice.name }}</slot></span
      >
    </span>
  </div>
</template>

<style scoped>
.card .says {
  display: contents;
}
</style>

<script setup lang="ts">
/** A line of text that counts once it is left: no answer that arrives meanwhile wipes what is being typed. */
import { computed } from 'vue'

const model = defineModel<string | null | undefined>()
const text = computed({ get: () => model.value ?? '', set: (typed) => (model.value = typed.trim() || null) })
</script>

<template>
  <input v-model.lazy="text" autocomplete="off" />
</template>

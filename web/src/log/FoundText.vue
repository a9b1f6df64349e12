<script setup lang="ts">
/** A text in which what was looked for is marked. */
import { computed } from 'vue'
import { found } from './asked'

const props = defineProps<{ text: string; words: string }>()
const pieces = computed(() => found(props.text, props.words))
</script>

<template>
  <template v-for="(piece, n) in pieces" :key="n"
    ><mark v-if="piece.hit">{{ piece.text }}</mark
    ><template v-else>{{ piece.text }}</template></template
  >
</template>

<style scoped>
mark {
  background: var(--watch-wash);
  color: inherit;
  box-shadow: inset 0 -2px 0 var(--watch);
}
</style>

<script setup lang="ts">
/** What a cause calls for: by when, what, with its cautions and the button that leads there. */
import { computed } from 'vue'
import { RouterLink } from 'vue-router'
import type { Schemas } from '../api/client'
import { pathOf } from '../system/way'

const props = defineProps<{
  cause: Schemas['Ranked']
  system: string
  child: boolean
  /** Only said, for what is not the likeliest. */
  bare?: boolean
  /** Said under the condition that it is so: one look more stands before it. */
  ifSo?: boolean
}>()
const way = computed(() => (props.bare ? null : props.cause.way))
</script>

<template>
  <div class="do">
    <p class="doing">
      <strong>{{ ifSo ? 'If so, ' + cause.by.toLowerCase() : cause.by }}:</strong> {{ cause.doing }}
    </p>
    <template v-if="!child">
      <p v-for="caution in cause.cautions" :key="caution" class="small caution">{{ caution }}</p>
    </template>
    <RouterLink v-if="way" class="button" :to="pathOf(way, system)">{{ way.name }}</RouterLink>
  </div>
</template>

<style scoped>
.do {
  display: grid;
  gap: 8px;
  justify-items: start;
}
.doing {
  font-size: 17px;
}
.caution {
  padding-left: 10px;
  border-left: 3px solid var(--watch);
}
</style>

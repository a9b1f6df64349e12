<script setup lang="ts">
/** One system standing on the shelf: drawing, name, margin, and its most pressing task. */
import { RouterLink } from 'vue-router'
import type { Schemas } from '../api/client'
import TankDrawing from '../drawing/TankDrawing.vue'
import { describe } from '../drawing/describe'
import StandMark from '../parts/StandMark.vue'

defineProps<{ system: Schemas['RoundSystem'] }>()
</script>

<template>
  <article class="tank" :class="system.pressing?.urgency">
    <RouterLink class="stand" :to="`/system/${system.id}`" :aria-label="`${system.name}, ${system.place_name}`">
      <TankDrawing :section="system.section" :label="describe(system)" />
    </RouterLink>
    <div class="board"></div>
    <p class="line">
      <RouterLink class="name" :to="`/system/${system.id}`">{{ system.name }}</RouterLink>
    </p>
    <p class="small quiet place">{{ system.place_name }}</p>
    <p v-if="system.changing" class="small under">
      <RouterLink :to="`/system/${system.id}/change`">Change under way</RouterLink>
    </p>
    <template v-if="system.pressing">
      <p class="margin" :title="system.pressing.safe_why">{{ system.pressing.safe }}</p>
      <p class="task">{{ system.pressing.name }}</p>
      <StandMark class="small" :task="system.pressing" />
      <p class="small quiet why" :title="system.pressing.reason">{{ system.pressing.reason }}</p>
    </template>
  </article>
</template>

<style scoped>
.tank {
  display: flex;
  flex-direction: column;
  align-items: flex-start;
  min-width: 0;
}
.stand {
  display: block;
  width: 100%;
  padding: 0 8px;
}
.board {
  width: 100%;
  height: 6px;
  margin: -2px 0 8px;
  border: 1.4px solid var(--ink);
  border-radius: 1px;
  background: var(--paper);
}
.hand .board {
  background: var(--alarm);
  border-color: var(--alarm);
}
.eye .board {
  background: var(--watch);
  border-color: var(--watch);
}
.name {
  display: inline-flex;
  align-items: center;
  min-height: var(--touch);
  font-weight: 700;
  font-size: 18px;
  line-height: 1.2;
  color: var(--ink);
  text-decoration: none;
  overflow-wrap: anywhere;
}
.name:hover {
  text-decoration: underline;
}
.place {
  line-height: 1.25;
}
.under a {
  display: inline-block;
  padding: 4px 0;
  font-weight: 650;
}
.margin {
  margin-top: 6px;
  font-size: 20px;
  font-weight: 700;
  line-height: 1.15;
}
.hand .margin {
  color: var(--alarm);
}
.eye .margin {
  color: var(--watch);
}
.task {
  font-weight: 650;
  line-height: 1.25;
}
.why {
  display: -webkit-box;
  -webkit-line-clamp: 3;
  line-clamp: 3;
  -webkit-box-orient: vertical;
  overflow: hidden;
  line-height: 1.35;
  margin-top: 2px;
}
</style>

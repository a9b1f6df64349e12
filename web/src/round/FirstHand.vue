<script setup lang="ts">
/** The system that needs a hand first, large: drawing, margin, sentence, and the way to the tank. */
import { computed } from 'vue'
import { RouterLink } from 'vue-router'
import type { Schemas } from '../api/client'
import TankDrawing from '../drawing/TankDrawing.vue'
import { describe } from '../drawing/describe'
import StandMark from '../parts/StandMark.vue'
import { readMargin } from '../parts/margin'

const props = defineProps<{ system: Schemas['RoundSystem'] }>()
const task = computed(() => props.system.pressing)
const margin = computed(() => readMargin(task.value?.margin_days ?? 0))
</script>

<template>
  <section class="first" :class="task?.urgency" :aria-label="`First: ${system.name}`">
    <div class="drawing"><TankDrawing :section="system.section" :label="describe(system)" lines /></div>
    <div class="words">
      <p class="where">
        <RouterLink class="name" :to="`/system/${system.id}`">{{ system.name }}</RouterLink>
        <span class="quiet">{{ system.kind_name }}, {{ system.place_name }}</span>
      </p>
      <template v-if="task">
        <h2 class="what">{{ task.name }}</h2>
        <p class="margin">
          <span class="num">{{ margin.number }}</span> {{ margin.words }}
        </p>
        <StandMark :task="task" />
        <p class="why">{{ task.reason }}</p>
      </template>
      <p v-if="system.suspect" class="suspect">Root rot is open here: visit it last, and wash hands and tools after.</p>
      <RouterLink class="button main" :to="`/system/${system.id}/visit`">Start the visit</RouterLink>
    </div>
  </section>
</template>

<style scoped>
.first {
  display: grid;
  grid-template-columns: minmax(160px, 236px) minmax(0, 1fr);
  gap: 28px;
  padding: 18px 24px 20px;
  background: var(--sheet);
  border: 1px solid var(--line);
  border-top: 5px solid var(--water);
  border-radius: 4px;
}
.first.hand {
  border-top-color: var(--alarm);
}
.first.eye {
  border-top-color: var(--watch);
}
.words {
  display: grid;
  gap: 5px;
  justify-items: start;
  align-content: start;
}
.where {
  display: flex;
  flex-wrap: wrap;
  gap: 0 12px;
  align-items: baseline;
}
.name {
  font-weight: 700;
  font-size: 22px;
  color: var(--ink);
  text-decoration-color: var(--line-2);
  text-underline-offset: 4px;
}
.what {
  font-size: 30px;
  line-height: 1.1;
}
.margin .num {
  font-size: 44px;
  line-height: 1;
  font-weight: 750;
}
.hand .margin .num {
  color: var(--alarm);
}
.eye .margin .num {
  color: var(--watch);
}
.why {
  max-width: 34em;
}
.suspect {
  padding: 8px 12px;
  background: var(--alarm-wash);
  border-left: 4px solid var(--alarm);
}
.button {
  margin-top: 8px;
}
@media (max-width: 600px) {
  .first {
    grid-template-columns: minmax(0, 1fr);
    gap: 12px;
    padding: 16px;
  }
  .drawing {
    max-width: 190px;
  }
  .what {
    font-size: 26px;
  }
  .button {
    width: 100%;
  }
}
</style>

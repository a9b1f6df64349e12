<script setup lang="ts">
/** The system that needs a hand first, large: drawing, margin, sentence, and the way to the tank. */
import { computed } from 'vue'
import { RouterLink } from 'vue-router'
import type { Schemas } from '../api/client'
import TankDrawing from '../drawing/TankDrawing.vue'
import { describe } from '../drawing/describe'
import { may } from '../door/session'
import StandMark from '../parts/StandMark.vue'
import { isNow } from '../parts/rank'
import { pathOf } from '../system/way'

const props = defineProps<{ system: Schemas['RoundSystem']; child: boolean }>()
const task = computed(() => props.system.pressing)
</script>

<template>
  <section class="first" :class="task?.urgency" :aria-label="`First: ${system.name}`">
    <div class="drawing"><TankDrawing :section="system.section" :label="describe(system)" lines /></div>
    <div class="words">
      <p class="where">
        <RouterLink class="name" :to="`/system/${system.id}`">{{ system.name }}</RouterLink>
        <span class="quiet">{{ system.kind_name }}, {{ system.place_name }}</span>
      </p>
      <template v-if="system.changing">
        <h2 class="what">The change under way</h2>
        <p class="why">
          {{
            child
              ? 'An adult is at it. Keep away from plugs and bottles, and look at another one.'
              : 'Finish it before anything else: roots may be out of their water.'
          }}
        </p>
      </template>
      <template v-else-if="task">
        <h2 class="what">{{ task.name }}</h2>
        <details class="margin">
          <summary>{{ task.safe }}</summary>
          <p class="small quiet">{{ task.safe_why }}</p>
        </details>
        <p class="do">{{ task.doing }}</p>
        <StandMark v-if="!isNow(task)" :task="task" />
        <p class="why">{{ task.reason }}</p>
      </template>
      <p v-if="system.suspect_why" class="suspect">{{ system.suspect_why }}</p>
      <p v-if="may('care', system.place)" class="ways">
        <RouterLink v-if="system.changing && !child" class="button main" :to="`/system/${system.id}/change`"
          >Go on with the change</RouterLink
        >
        <RouterLink v-else-if="task?.way && !system.changing" class="button main" :to="pathOf(task.way, system.id)">{{
          task.way.name
        }}</RouterLink>
        <RouterLink class="button" :class="{ main: !task?.way && !system.changing }" :to="`/system/${system.id}/visit`"
          >Start the visit</RouterLink
        >
      </p>
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
.ways {
  display: flex;
  width: 100%;
  flex-wrap: wrap;
  gap: 8px;
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
  display: inline-flex;
  align-items: center;
  min-height: var(--touch);
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
.margin summary {
  display: inline-flex;
  align-items: center;
  min-height: var(--touch);
  font-size: 26px;
  font-weight: 750;
  cursor: pointer;
}
.margin summary::after {
  content: '?';
  display: inline-grid;
  place-content: center;
  width: 22px;
  height: 22px;
  margin-left: 10px;
  font-size: 14px;
  border: 1.5px solid currentColor;
  border-radius: 50%;
}
.hand .margin summary {
  color: var(--alarm);
}
.eye .margin summary {
  color: var(--watch);
}
.why {
  max-width: 34em;
}
.do {
  max-width: 30em;
  font-size: 19px;
  font-weight: 650;
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
    order: 1;
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

<script setup lang="ts">
/** The head of a visit: where it is, how it stood last, who records, and the one tap for all that is fine. Once
 * begun it is a line: what it said stands with the numbers. */
import { RouterLink } from 'vue-router'
import type { SystemView } from '../api/client'
import TankDrawing from '../drawing/TankDrawing.vue'
import { describe } from '../drawing/describe'
import RecorderPick from '../parts/RecorderPick.vue'

defineProps<{
  view: SystemView
  begun: boolean
  /** Whether it may not be called fine now, and what is said below the button. */
  shut: boolean
  says: string
}>()
defineEmits<{ fine: [] }>()
</script>

<template>
  <header class="head" :class="{ begun }">
    <div class="drawing"><TankDrawing :section="view.section" :label="describe(view)" /></div>
    <div class="title">
      <h1>
        <RouterLink :to="`/system/${view.card.id}`">{{ view.system.name }}</RouterLink>
      </h1>
      <p class="quiet">{{ view.place_body.name }}</p>
      <p v-if="view.last.length" class="small last">
        <span v-for="value in view.last" :key="value.subject"
          ><span class="num">{{ value.said }}</span> <span class="quiet">{{ value.when }}</span></span
        >
      </p>
      <RecorderPick :place="view.place.id" :people="view.people" />
      <p v-if="view.danger" class="small danger">{{ view.danger }}</p>
      <p v-if="view.suspect_why" class="small suspect">{{ view.suspect_why }}</p>
    </div>
    <div class="fine">
      <button class="button main big" type="button" :disabled="shut" :title="says" @click="$emit('fine')">
        All fine
      </button>
      <p class="small quiet">{{ says }}</p>
    </div>
  </header>
</template>

<style scoped>
.head {
  display: grid;
  grid-template-columns: 120px minmax(0, 1fr) 260px;
  gap: 20px;
  align-items: center;
  margin-bottom: 20px;
}
.title {
  display: grid;
  gap: 4px;
}
h1 a {
  display: inline-flex;
  align-items: center;
  min-height: var(--touch);
  color: inherit;
  text-decoration-color: var(--line-2);
  text-underline-offset: 5px;
}
.last {
  display: flex;
  flex-wrap: wrap;
  gap: 0 16px;
}
.last > span {
  display: inline-flex;
  gap: 6px;
  white-space: nowrap;
}
.big {
  width: 100%;
  min-height: 56px;
  font-size: 20px;
}
.fine {
  display: grid;
  gap: 6px;
}
.begun .last,
.begun .fine p {
  display: none;
}
.head.begun {
  grid-template-columns: 72px minmax(0, 1fr) 200px;
  margin-bottom: 12px;
}
.begun .title {
  grid-template-columns: auto auto 1fr;
  align-items: baseline;
  gap: 0 16px;
}
.begun h1 {
  font-size: 24px;
}
@media (max-width: 900px) {
  .head {
    grid-template-columns: 84px minmax(0, 1fr);
    gap: 12px;
  }
  .fine {
    grid-column: 1 / -1;
  }
  .begun .drawing,
  .begun .quiet {
    display: none;
  }
  .head.begun {
    grid-template-columns: minmax(0, 1fr) auto;
    margin-bottom: 4px;
  }
  .begun .title {
    grid-template-columns: minmax(0, 1fr);
    gap: 0;
  }
  .begun .fine {
    grid-column: 2;
  }
  .begun .big {
    min-height: var(--touch);
    font-size: 17px;
  }
}
.suspect {
  padding-left: 10px;
  border-left: 4px solid var(--alarm);
}
</style>

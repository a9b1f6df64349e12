<script setup lang="ts">
/** What asks for a hand, is late or due today, in the order of the round; look-ins together at the end, for
 * any visit is one. Each leads to where it is done. */
import { computed, defineAsyncComponent, ref } from 'vue'
import { RouterLink } from 'vue-router'
import type { Schemas } from '../api/client'
import StandMark from '../parts/StandMark.vue'
import { pathOf } from '../system/way'

const FitList = defineAsyncComponent(() => import('./FitList.vue'))
const props = defineProps<{ tasks: Schemas['TodayTask'][]; systems: Schemas['RoundSystem'][] }>()
const at = (item: Schemas['TodayTask']) => props.systems[item.at]!
const looks = computed(() => props.tasks.filter((t) => t.task.check === 'look_in'))
const others = computed(() => props.tasks.filter((t) => t.task.check !== 'look_in'))
/** Places with more than one to look in at: done there in one go. */
const places = computed(() => {
  const found = new Map<string, { id: string; name: string; many: number }>()
  for (const { place, place_name } of looks.value.map(at)) {
    const many = (found.get(place)?.many ?? 0) + 1
    found.set(place, { id: place, name: place_name, many })
  }
  return [...found.values()].filter((place) => place.many > 1)
})
const SHOWN = 12
const all = ref(false)
const shown = computed(() => (all.value ? others.value : others.value.slice(0, SHOWN)))
</script>

<template>
  <aside aria-labelledby="today-head">
    <h2 id="today-head">Today</h2>
    <RouterLink v-if="tasks.length" class="button" to="/outing">Make ready and walk it</RouterLink>
    <p v-if="tasks.length === 0" class="quiet">Nothing is due today, and nothing is late.</p>
    <FitList v-if="others.length > 1" />
    <ol>
      <li v-for="item in shown" :key="`${item.at} ${item.task.code}`">
        <RouterLink class="row" :to="item.task.way ? pathOf(item.task.way, at(item).id) : `/system/${at(item).id}`">
          <span class="task">{{ item.task.name }}</span>
          <span class="quiet small">{{ at(item).name }}</span>
          <span v-if="item.task.amount" class="small amount">{{ item.task.amount }}</span>
          <StandMark class="small mark" :task="item.task">{{ item.task.safe }}</StandMark>
        </RouterLink>
      </li>
    </ol>
    <button v-if="others.length > SHOWN" class="button plain" type="button" @click="all = !all">
      {{ all ? 'Show fewer' : `Show all ${others.length}` }}
    </button>
    <div v-if="looks.length" class="looks">
      <h3>Look in at {{ looks.length }} {{ looks.length === 1 ? 'system' : 'systems' }}</h3>
      <p class="small quiet">Plants, sound of the water, bubbles, timer, leaks. Any visit counts as a look-in.</p>
      <p v-for="place in places" :key="place.id" class="small">
        <RouterLink class="button" :to="`/here/${place.id}`">{{ place.many }} at {{ place.name }}</RouterLink>
      </p>
      <details v-if="looks.length">
        <summary class="small">One by one</summary>
        <ul class="names">
          <li v-for="item in looks.slice(0, 24)" :key="item.at">
            <RouterLink :to="`/system/${at(item).id}/visit`">{{ at(item).name }}</RouterLink>
          </li>
        </ul>
        <p v-if="looks.length > 24" class="small quiet">and {{ looks.length - 24 }} more</p>
      </details>
    </div>
  </aside>
</template>

<style scoped>
aside {
  display: grid;
  gap: 8px;
  padding-left: 24px;
  border-left: 1px solid var(--line);
}
.row {
  display: grid;
  grid-template-columns: minmax(0, 1fr) auto;
  gap: 0 12px;
  padding: 9px 0;
  min-height: var(--touch);
  border-bottom: 1px solid var(--line);
  color: inherit;
  text-decoration: none;
}
.row:hover .task {
  text-decoration: underline;
}
.task {
  font-weight: 650;
  line-height: 1.25;
}
.amount {
  grid-column: 1 / -1;
}
.mark {
  grid-column: 2;
  grid-row: 1;
  align-self: start;
}
.looks {
  display: grid;
  gap: 8px;
  margin-top: 8px;
}
.names {
  display: flex;
  flex-wrap: wrap;
  gap: 0 16px;
}
.names a,
summary {
  display: inline-flex;
  align-items: center;
  min-height: var(--touch);
}
@media (max-width: 900px) {
  aside {
    padding-left: 0;
    border-left: 0;
  }
}
</style>

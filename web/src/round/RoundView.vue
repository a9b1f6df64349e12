<script setup lang="ts">
import { computed, ref } from 'vue'
import { RouterLink, useRouter } from 'vue-router'
import { useRound } from '../api/queries'
import LoadState from '../parts/LoadState.vue'
import { useShortcuts } from '../parts/shortcuts'
import FirstHand from './FirstHand.vue'
import NoSystem from './NoSystem.vue'
import ShelfTank from './ShelfTank.vue'
import TodayList from './TodayList.vue'
import { useTakeAlong } from './takeAlong'

const round = useRound()
const router = useRouter()
const systems = computed(() => round.data.value?.systems ?? [])
const first = computed(() => systems.value[0])
useTakeAlong(() => systems.value)
const sought = ref('')
const MANY = 12
const others = computed(() => {
  const words = sought.value.toLowerCase().split(/\s+/).filter(Boolean)
  const text = (s: (typeof systems.value)[number]) =>
    `${s.name} ${s.place_name} ${s.kind_name} ${s.growing}`.toLowerCase()
  return words.length ? systems.value.filter((s) => words.every((w) => text(s).includes(w))) : systems.value.slice(1)
})
const hands = computed(() => systems.value.filter((s) => s.pressing?.urgency === 'hand').length)

useShortcuts({
  v: {
    says: 'Visit the first system of the round',
    run: () => first.value && router.push(`/system/${first.value.id}/visit`),
  },
})
</script>

<template>
  <LoadState v-if="!round.data.value" :error="round.error.value" @again="round.refetch()" />
  <section v-else-if="!first" class="empty"><NoSystem /></section>
  <template v-else>
    <header class="head">
      <h1>{{ round.data.value.today }}</h1>
      <p class="quiet">
        {{ systems.length }} {{ systems.length === 1 ? 'system' : 'systems' }},
        {{
          hands === 0
            ? 'none needs a hand today'
            : hands === 1
              ? 'one needs a hand today'
              : `${hands} need a hand today`
        }}
      </p>
    </header>
    <div class="page">
      <FirstHand :system="first" :child="round.data.value.child" />
      <TodayList class="today" :tasks="round.data.value.tasks" :systems="systems" />
      <div v-if="round.data.value.closures.length" class="closed">
        <p v-for="closure in round.data.value.closures" :key="closure.place">
          {{ closure.said }}
          <RouterLink :to="`/cover/${closure.place}`">See the cover plan</RouterLink>
        </p>
      </div>
      <div v-if="systems.length > MANY" class="field find">
        <label for="find">Find a system, by name, place, kind or crop</label>
        <input id="find" v-model="sought" type="search" autocomplete="off" />
        <p v-if="others.length === 0" class="quiet">None of the {{ systems.length }} systems is called that.</p>
      </div>
      <section v-if="systems.length > 1" class="shelf" aria-label="The other systems, least margin first">
        <ShelfTank v-for="system in others" :key="system.id" :system="system" />
      </section>
    </div>
  </template>
</template>

<style scoped>
.head {
  display: flex;
  flex-wrap: wrap;
  align-items: baseline;
  gap: 4px 16px;
  margin-bottom: 16px;
}
.closed {
  grid-column: 1;
  padding: 4px 14px;
  border-left: 4px solid var(--watch);
  background: var(--watch-wash);
}
.closed p {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 0 12px;
}
.closed a {
  display: inline-flex;
  align-items: center;
  min-height: var(--touch);
}
.page {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 340px;
  gap: 24px 32px;
  align-items: start;
}
.today {
  grid-row: 1 / span 4;
  grid-column: 2;
}
@media (min-width: 901px) {
  .find,
  .shelf {
    grid-column: 1;
  }
}
.shelf {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(178px, 1fr));
  gap: 24px 20px;
}
.empty {
  display: grid;
  gap: 16px;
  justify-items: start;
  max-width: 36em;
  padding-top: 48px;
}
@media (max-width: 900px) {
  .page {
    grid-template-columns: minmax(0, 1fr);
    gap: 24px;
  }
  .today {
    grid-row: auto;
    grid-column: 1;
  }
  .shelf {
    grid-template-columns: repeat(auto-fill, minmax(150px, 1fr));
    gap: 20px 16px;
  }
}
</style>

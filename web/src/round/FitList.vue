<script setup lang="ts">
/** What is done in the minutes that there are: the set that wins the most margin; and what waits, with its risk. */
import { useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { RouterLink } from 'vue-router'
import { api, ask, type Schemas } from '../api/client'
import ChoiceChips from '../controls/ChoiceChips.vue'
import { isNow } from '../parts/rank'
import { lastPicked } from '../parts/recorder'
import { pathOf } from '../system/way'

const minutes = ref<number | null>(null)
const choices = [10, 20, 30, 60].map((key) => ({ key, name: `${key} min` }))
const query = useQuery({
  queryKey: ['fit', minutes, lastPicked],
  queryFn: () => ask(api.GET('/api/round/fit', { params: { query: { minutes: minutes.value! } } })),
  enabled: () => minutes.value !== null,
})
const fit = computed(() => (minutes.value === null ? null : query.data.value))
const to = (line: Schemas['FitTask']) => (line.task.way ? pathOf(line.task.way, line.system) : `/system/${line.system}`)
const count = (n: number) => (n === 1 ? 'one task' : `${n} tasks`)
const SHOWN = 4
/** A name within a sentence; what is written in capitals stays so. */
const uncapped = (name: string) => (/^[A-Z][a-z]/.test(name) ? name[0]!.toLowerCase() + name.slice(1) : name)
</script>

<template>
  <div class="fit">
    <ChoiceChips v-model="minutes" label="I have" :choices="choices" />
    <div v-if="fit" class="set" role="status">
      <p v-if="!fit.chosen.length" class="quiet">
        Nothing of today fits in {{ minutes }} minutes{{ fit.waits.length ? '' : '; nothing is due' }}.
      </p>
      <template v-else>
        <p>
          <strong>{{ count(fit.chosen.length) }} in {{ fit.minutes }} minutes</strong>
          <span v-if="fit.chosen.some((line) => isNow(line.task))" class="quiet small"
            >: what cannot wait is done, however long it takes.</span
          >
          <span v-else class="quiet small"> win the most days of margin. Any visit is a look-in too.</span>
        </p>
        <ol>
          <li v-for="line in fit.chosen" :key="line.system + line.task.code">
            <RouterLink class="row" :to="to(line)">
              <span
                >{{ line.task.name }} <span class="quiet small">{{ line.name }}</span></span
              >
              <span class="num small">{{ line.minutes }} min</span>
            </RouterLink>
          </li>
        </ol>
        <p v-if="fit.chosen.some((line) => line.last)" class="small quiet">What is ill is visited last.</p>
      </template>
      <p v-if="fit.waits.length" class="small quiet">
        Waits:
        {{
          fit.waits
            .slice(0, SHOWN)
            .map((line) => `${uncapped(line.task.name)} at ${line.name} (${line.task.safe.toLowerCase()})`)
            .join('; ')
        }}{{ fit.waits.length > SHOWN ? `; and ${fit.waits.length - SHOWN} more` : '' }}.
      </p>
    </div>
  </div>
</template>

<style scoped>
.fit,
.set {
  display: grid;
  gap: 8px;
}
.set {
  padding: 10px 12px;
  border-left: 4px solid var(--water);
  background: var(--water-wash);
}
ol {
  margin: 0;
  padding: 0;
  list-style: none;
}
.row {
  display: grid;
  grid-template-columns: 1fr auto;
  gap: 8px;
  align-items: center;
  min-height: var(--touch);
  color: inherit;
  text-decoration: none;
  border-bottom: 1px solid var(--line);
}
</style>

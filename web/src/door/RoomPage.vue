<script setup lang="ts">
/** A class at its room: who you are, which vessel, what to do there. Large words, and a drawing to find it by. */
import { useQueryClient } from '@tanstack/vue-query'
import { computed } from 'vue'
import { RouterLink } from 'vue-router'
import { api, ask, type Schemas } from '../api/client'
import { useRound } from '../api/queries'
import RadioChips from '../controls/RadioChips.vue'
import { askFirst } from '../parts/ask'
import LoadState from '../parts/LoadState.vue'
import { pickRecorder, recorderAt } from '../parts/recorder'
import TankDrawing from '../drawing/TankDrawing.vue'
import { describe } from '../drawing/describe'
import { inClass, loadSession } from './session'

const client = useQueryClient()
const round = useRound()
const place = computed(() => inClass.value?.place ?? '')
const children = computed(() => (inClass.value?.children ?? []).map((one) => ({ key: one.id, name: one.initials })))
const who = computed({
  get: () => recorderAt(place.value) ?? null,
  set: (id) => {
    const child = children.value.find((one) => one.key === id)
    if (child) pickRecorder(place.value, child.key, child.name)
  },
})
/** What children may do, by vessel; what stands an adult sees at once. */
const tasks = (at: number): Schemas['TodayTask'][] =>
  (round.data.value?.tasks ?? []).filter((one) => one.at === at && !one.task.adult)

function leave() {
  askFirst({
    title: 'Leave the class?',
    text: 'This tablet shows nothing more until somebody types the code again.',
    yes: 'Leave',
    no: 'Stay',
    then: async () => {
      await ask(api.DELETE('/api/session'))
      client.getQueryCache().clear()
      await loadSession()
    },
  })
}
</script>

<template>
  <LoadState v-if="!round.data.value" :error="round.error.value" @again="round.refetch()" />
  <div v-else class="room">
    <h1>{{ who ? 'What will you do?' : 'Who are you?' }}</h1>
    <RadioChips v-model="who" label="Who you are" :choices="children" />
    <ul v-if="who" class="vessels">
      <li v-for="(system, at) in round.data.value.systems" :key="system.id" class="card">
        <div class="tank"><TankDrawing :section="system.section" :label="describe(system)" /></div>
        <div class="says">
          <h2>{{ system.name }}</h2>
          <ul v-if="tasks(at).length" class="tasks">
            <li v-for="one in tasks(at).slice(0, 4)" :key="one.task.code">
              {{ one.task.child_does ?? one.task.name }}
            </li>
          </ul>
          <p v-else class="quiet">Nothing has to be done. You may look.</p>
          <RouterLink class="button main" :to="`/system/${system.id}/visit`" :aria-label="`Go to ${system.name}`"
            >Go</RouterLink
          >
        </div>
      </li>
    </ul>
    <p class="foot"><button class="button plain" type="button" @click="leave">Leave the class</button></p>
  </div>
</template>

<style scoped>
.room {
  display: grid;
  gap: 16px;
  font-size: 20px;
}
.vessels {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(min(420px, 100%), 1fr));
  gap: 16px;
}
.vessels > li {
  display: grid;
  grid-template-columns: minmax(120px, 200px) minmax(0, 1fr);
  gap: 16px;
  align-items: start;
}
.vessels h2 {
  font-size: 24px;
}
@media (max-width: 600px) {
  .vessels > li {
    grid-template-columns: 96px minmax(0, 1fr);
  }
}
.says {
  display: grid;
  gap: 10px;
  justify-items: start;
}
.tasks {
  display: grid;
  gap: 6px;
}
.tasks li {
  padding-left: 14px;
  border-left: 4px solid var(--water);
}
.button.main {
  min-height: 56px;
  min-width: 120px;
  font-size: 20px;
}
.foot {
  margin-top: 16px;
}
</style>

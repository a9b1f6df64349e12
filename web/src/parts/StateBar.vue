<script setup lang="ts">
/** One line under the head while something waits for a connection, or the clocks have to be looked at. */
import { busyWith, clockDoubt, clockIsRight, readAt } from '../api/client'
import { renewed } from '../door/installed'
import { dayAndTime } from './placeTime'
import { useKnowledge } from '../api/queries'
import { closed } from '../door/session'
import { waiting } from '../writes/queue'
import { refused } from '../writes/refused'
import { computed, watch } from 'vue'
import { RouterLink, useRoute } from 'vue-router'
import { useDanger } from '../round/danger'
import { notify } from './notice'
import { pressingTitle } from './title'

const knowledge = useKnowledge()
const route = useRoute()
/** Where it is in sight anyway it is not said once more. */
const { danger, putAway } = useDanger(
  (one) => route.name === 'round' || route.name === 'room' || route.params.id === one.system,
)
watch(danger, (now) => (pressingTitle.value = now ? `Act now, ${now.said}` : ''), { immediate: true })
/** Nothing moves under a hand that types: there the tab says it. */
const still = computed(() => ['visit', 'change', 'bench'].includes(String(route.name)))
watch(waiting, (now) => now || (busyWith.value = ''))

function right() {
  clockIsRight.value = true
  clockDoubt.value = ''
  notify('Said. Send what was refused once more.')
}
</script>

<template>
  <p v-if="waiting && !readAt" class="state" role="status">
    {{ busyWith || 'Not connected.' }}
    {{ waiting === 1 ? 'One entry is' : `${waiting} entries are` }} kept on this device, and sent as soon as possible.
  </p>
  <p v-if="readAt" class="state" role="status">
    Mopsel does not answer.
    <template v-if="waiting">
      {{ waiting === 1 ? 'One entry is' : `${waiting} entries are` }} kept on this device, and sent as soon as possible.
    </template>
    What you see was read on {{ dayAndTime(readAt) }}.
    <strong>What was done since is not shown: do nothing twice.</strong>
  </p>
  <div v-if="danger && !still" class="state pressing" role="status">
    <span
      ><strong>{{ danger.said }}.</strong> It cannot wait.</span
    >
    <RouterLink class="button" :to="`/system/${danger.system}`">Open it</RouterLink>
    <button class="button plain" type="button" @click="putAway(danger)">I know</button>
  </div>
  <div v-if="renewed" class="state" role="status">
    <span>A new version of Mopsel is here. What you typed is kept.</span>
    <button class="button" type="button" @click="renewed()">Load it</button>
  </div>
  <p v-if="refused.length && route.name !== 'kept'" class="state refused" role="alert">
    {{ refused.length === 1 ? 'One entry from this device was' : `${refused.length} entries from this device were` }}
    not saved. <RouterLink to="/kept">See why</RouterLink>
  </p>
  <div v-if="knowledge.error.value && !closed" class="state clock" role="alert">
    <span>What can be chosen on these pages could not be read.</span>
    <button class="button" type="button" @click="knowledge.refetch()">Try again</button>
  </div>
  <div v-if="clockDoubt" class="state clock" role="alert">
    <span>{{ clockDoubt }}</span>
    <button class="button" type="button" @click="right">The computer’s clock is right</button>
    <button class="button plain" type="button" @click="clockDoubt = ''">I set the clock</button>
  </div>
</template>

<style scoped>
.state {
  max-width: 1240px;
  margin: 0 auto;
  padding: 10px 24px;
  background: var(--watch-wash);
  border-left: 4px solid var(--watch);
}
.refused,
.pressing {
  background: var(--alarm-wash);
  border-color: var(--alarm);
}
.refused a {
  display: inline-flex;
  align-items: center;
  min-height: var(--touch);
  margin-left: 4px;
  font-weight: 700;
}
.clock,
.pressing {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 8px;
}
.clock span,
.pressing span {
  flex: 1 1 320px;
}
</style>

<script setup lang="ts">
/** What is being waited for, on every screen and every device. */
import { computed, watch, watchEffect } from 'vue'
import { RouterLink } from 'vue-router'
import { notify } from './notice'
import { afterWait, useTimers } from './timers'
import { pageTitle, pressingTitle } from './title'

const { timers, dismiss } = useTimers()
const over = computed(() => timers.value.filter((timer) => timer.left === 0))
/** The tab says so too, for it may not be the one in sight. */
watchEffect(() => {
  const first = over.value[0]
  const said = first ? `Over: ${first.label}` : pressingTitle.value
  document.title = said ? `${said} · ${pageTitle.value}` : pageTitle.value
})
/** Told once, and only of what was seen running here. */
const running = new Set<string>()
watch(timers, (now) => {
  for (const timer of now) {
    if (timer.left > 0) running.add(timer.id)
    else if (running.delete(timer.id))
      notify(`The wait is over: ${timer.label}${timer.system_name ? ` (${timer.system_name})` : ''}.`)
  }
})
const clock = (seconds: number) => `${Math.floor(seconds / 60)}:${String(seconds % 60).padStart(2, '0')}`
</script>

<template>
  <ul v-if="timers.length" class="timers" aria-label="Timers">
    <li v-for="timer in timers" :key="timer.id" :class="{ over: timer.left === 0 }">
      <svg viewBox="0 0 20 24" width="20" height="24" aria-hidden="true">
        <path class="water" :d="`M3 21h14v${-17 * (1 - timer.left / Math.max(1, timer.seconds))}H3z`" />
        <path class="ink" d="M3 4v17h14V4" />
      </svg>
      <strong class="num" :role="timer.left === 0 ? 'alert' : undefined">{{
        timer.left === 0 ? 'Over' : clock(timer.left)
      }}</strong>
      <span>
        {{ timer.label
        }}<template v-if="timer.system">
          ·
          <RouterLink :to="(timer.left === 0 && afterWait(timer)) || `/system/${timer.system}`">{{
            timer.system_name
          }}</RouterLink></template
        >
      </span>
      <button type="button" :aria-label="`Put the timer away: ${timer.label}`" @click="dismiss(timer.id)">×</button>
    </li>
  </ul>
</template>

<style scoped>
.timers {
  max-width: 1240px;
  margin: 0 auto;
  padding: 6px 24px 0;
  display: flex;
  flex-wrap: wrap;
  gap: 6px 12px;
}
li {
  display: flex;
  align-items: center;
  gap: 10px;
  padding-left: 10px;
  background: var(--water-wash);
  border-radius: 4px;
  max-width: 100%;
}
li.over {
  background: var(--alarm-wash);
  color: var(--ink);
}
strong {
  font-size: 19px;
  min-width: 3.2em;
}
.over strong {
  color: var(--alarm);
}
a {
  display: inline-flex;
  align-items: center;
  min-height: var(--touch);
  color: inherit;
}
.water {
  fill: var(--water-fill-2);
}
.ink {
  fill: none;
  stroke: currentColor;
  stroke-width: 1.6;
}
button {
  width: var(--touch);
  height: var(--touch);
  border: 0;
  background: none;
  cursor: pointer;
  font-size: 20px;
}
@media (max-width: 600px) {
  .timers {
    padding: 6px 12px 0;
  }
}
@media print {
  .timers {
    display: none;
  }
}
</style>

<script setup lang="ts">
/** What comes if nothing is added: for each thing a strip of three weeks with the days on which it leaves its band. */
import { computed } from 'vue'
import type { Schemas, SystemView } from '../api/client'

const props = defineProps<{ view: SystemView }>()
const DAYS = 21
const today = computed(() => Date.parse(`${props.view.today}T12:00Z`))
const dayOf = (on: string) => Math.round((Date.parse(`${on}T12:00Z`) - today.value) / 86_400_000)
const place = (days: number) => (100 * Math.min(DAYS, Math.max(0, days))) / DAYS
const stripOf = ({ leaves }: Schemas['Outlook']) => {
  if (!leaves) return null
  const [from, on] = [dayOf(leaves.earliest), dayOf(leaves.on)]
  const to = leaves.latest == null ? DAYS : dayOf(leaves.latest)
  return {
    from: place(from),
    width: Math.max(1.5, place(to) - place(from)),
    on: on <= DAYS ? place(on) : null,
    near: on <= 3,
    open: leaves.latest == null || to > DAYS,
  }
}
const rows = computed(() => props.view.outlook.map((one) => ({ one, strip: stripOf(one) })))
</script>

<template>
  <ul>
    <li v-for="{ one, strip } in rows" :key="one.of">
      <strong>{{ one.name }}</strong>
      <div class="strip" :class="{ unknown: !one.points.length }" aria-hidden="true">
        <span v-for="week in [7, 14]" :key="week" class="week" :style="{ left: `${place(week)}%` }"></span>
        <template v-if="strip">
          <span
            class="range"
            :class="{ near: strip.near, open: strip.open }"
            :style="{ left: `${strip.from}%`, width: `${strip.width}%` }"
          ></span>
          <span
            v-if="strip.on !== null"
            class="on"
            :class="{ near: strip.near }"
            :style="{ left: `${strip.on}%` }"
          ></span>
        </template>
      </div>
      <p>
        {{ one.said }} <span class="small quiet">{{ one.sure }}</span>
      </p>
    </li>
    <li class="axis small quiet" aria-hidden="true">
      <span></span>
      <div><span>today</span><span>a week</span><span>two</span><span>three</span></div>
    </li>
  </ul>
</template>

<style scoped>
ul {
  margin: 0;
  padding: 0;
  list-style: none;
}
li {
  display: grid;
  grid-template-columns: 116px minmax(120px, 300px) minmax(0, 1fr);
  gap: 4px 20px;
  align-items: center;
  padding: 8px 0;
  border-bottom: 1px solid var(--line);
}
.strip {
  position: relative;
  height: 20px;
  border-bottom: 1.5px solid var(--ink-2);
}
.unknown {
  border-bottom-style: dotted;
}
.week {
  position: absolute;
  bottom: 0;
  height: 6px;
  border-left: 1px solid var(--ink-2);
}
.range {
  position: absolute;
  bottom: 1px;
  height: 9px;
  background: var(--watch-wash);
  border: 1.5px solid var(--watch);
}
.range.open {
  border-right-style: dashed;
}
.range.near {
  background: var(--alarm-wash);
  border-color: var(--alarm);
}
.on {
  position: absolute;
  bottom: 0;
  width: 3px;
  height: 19px;
  margin-left: -1px;
  background: var(--watch);
}
.on.near {
  background: var(--alarm);
}
.axis {
  padding: 0;
  border: 0;
}
.axis div {
  display: grid;
  grid-template-columns: repeat(3, 1fr) auto;
}
@media (max-width: 700px) {
  li {
    grid-template-columns: minmax(0, 1fr);
  }
  .axis span:first-child:empty {
    display: none;
  }
}
</style>

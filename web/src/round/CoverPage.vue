<script setup lang="ts">
/** Before a closure: what is done on the last day, who comes when and for what, and what will not hold. Prints as the
 * sheet for whoever covers. */
import { useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import { RouterLink, useRoute } from 'vue-router'
import { api, ask } from '../api/client'
import LoadState from '../parts/LoadState.vue'
import { lastPicked } from '../parts/recorder'
import { useRouteId } from '../parts/routeId'

const id = useRouteId()
const route = useRoute()
const from = computed(() => (typeof route.query.from === 'string' ? route.query.from : null))
const query = useQuery({
  queryKey: ['cover', id, from, lastPicked],
  queryFn: () =>
    ask(
      api.GET('/api/places/{id}/cover', {
        params: { path: { id: id.value }, query: from.value ? { from: from.value } : {} },
      }),
    ),
})
const view = computed(() => query.data.value)
const plan = computed(() => view.value?.plan)
const others = computed(() => view.value?.closures.filter((one) => one.from !== plan.value?.closed.from) ?? [])
/** What is done on a day, at each system that is seen to. */
const onDay = (on: string) =>
  (plan.value?.systems ?? []).flatMap((system) => {
    const visit = system.cover.visits.find((one) => one.on === on)
    return visit ? [{ ...visit, id: system.id, name: system.name }] : []
  })
const print = () => window.print()
</script>

<template>
  <LoadState v-if="!view" :error="query.error.value" @again="query.refetch()" />
  <article v-else class="cover">
    <header>
      <h1>{{ view.name }}: cover plan</h1>
      <p v-if="plan" class="span">
        <strong v-if="plan.closed.name">{{ plan.closed.name }}, </strong>closed {{ plan.closed.said }}
      </p>
      <p class="small quiet">Reckoned on {{ view.made }}; it follows what is recorded until then.</p>
    </header>
    <template v-if="plan">
      <p class="told">{{ plan.told }}</p>
      <div class="plan" :class="{ both: plan.days.length }">
        <section aria-labelledby="before-head">
          <h2 id="before-head">{{ plan.last_open === 'today' ? 'Now' : 'On the last day' }}: {{ plan.last_open }}</h2>
          <div class="systems">
            <article v-for="system in plan.systems" :key="system.id" class="system" :aria-label="system.name">
              <h3>
                <RouterLink :to="`/system/${system.id}`">{{ system.name }}</RouterLink>
              </h3>
              <ul class="ticks">
                <li v-for="(line, n) in system.cover.before" :key="n">
                  <span class="box" aria-hidden="true"></span>{{ line }}
                </li>
              </ul>
              <p v-for="line in system.cover.wont" :key="line" class="wont">
                <strong>Will not hold:</strong> {{ line }}
              </p>
              <p v-if="system.cover.unseen" class="small">{{ system.cover.unseen }}</p>
              <p class="small quiet">{{ system.cover.after }}</p>
            </article>
          </div>
        </section>
        <section v-if="plan.days.length" aria-labelledby="days-head" class="days">
          <h2 id="days-head">For whoever covers</h2>
          <article v-for="day in plan.days" :key="day.on" class="day" :aria-label="day.said">
            <h3>{{ day.said }}</h3>
            <ol>
              <li v-for="visit in onDay(day.on)" :key="visit.id">
                <strong>{{ visit.name }}</strong> <span v-if="visit.adult" class="mark">adult only</span>
                <ul class="ticks">
                  <li v-for="(step, n) in visit.steps" :key="n">
                    <span class="box" aria-hidden="true"></span>{{ step }}
                  </li>
                </ul>
              </li>
            </ol>
            <p class="sign">Done by <span class="rule"></span> at <span class="rule short"></span></p>
          </article>
          <p class="small quiet">
            If something is amiss (a leak, no sound, plants that hang down), touch nothing on the mains: call who looks
            after it.
          </p>
        </section>
      </div>
      <button class="button print" type="button" @click="print">Print the sheet</button>
    </template>
    <p v-else-if="view.none" class="told">{{ view.none }}</p>
    <p v-else-if="view.closures.length" class="quiet">Pick a closure below.</p>
    <p v-else class="quiet">
      No closure is to come. Add one in the <RouterLink to="/set-up">set-up</RouterLink>, at the place.
    </p>
    <nav v-if="others.length" aria-label="Other closures" class="others">
      <h2>Other closures</h2>
      <RouterLink
        v-for="one in others"
        :key="one.from"
        class="button plain"
        :to="{ path: `/cover/${view.place}`, query: { from: one.from } }"
      >
        {{ one.name ? `${one.name}, ` : '' }}{{ one.said }}
      </RouterLink>
    </nav>
  </article>
</template>

<style scoped>
.cover {
  display: grid;
  gap: 20px;
  max-width: 1100px;
}
.span {
  font-size: 21px;
}
.told {
  font-size: 24px;
  font-weight: 650;
}
.plan {
  display: grid;
  gap: 24px 32px;
  align-items: start;
}
@media screen and (min-width: 900px) {
  .plan.both {
    grid-template-columns: minmax(0, 1fr) minmax(0, 1fr);
  }
}
section,
.system,
.day {
  display: grid;
  gap: 10px;
  align-content: start;
}
.systems {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(min(300px, 100%), 1fr));
  gap: 16px;
}
.system,
.day {
  padding: 14px 16px;
  border: 1px solid var(--line);
  border-radius: 4px;
  background: var(--sheet);
}
h3 {
  margin: 0;
  font-size: 18px;
}
h3 a {
  display: inline-flex;
  align-items: center;
  min-height: var(--touch);
}
.ticks {
  display: grid;
  gap: 6px;
  margin: 0;
  padding: 0;
  list-style: none;
}
.ticks li {
  display: grid;
  grid-template-columns: 22px 1fr;
  gap: 8px;
}
.box {
  width: 16px;
  height: 16px;
  margin-top: 3px;
  border: 1.5px solid var(--ink-2);
}
.wont {
  padding: 6px 10px;
  border-left: 4px solid var(--alarm);
  background: var(--alarm-wash);
}
.mark {
  padding: 1px 6px;
  border: 1px solid var(--line-2);
  border-radius: 4px;
  font-size: 14px;
}
.day ol {
  display: grid;
  gap: 12px;
  margin: 0;
  padding-left: 22px;
}
.sign {
  display: flex;
  gap: 8px;
  max-width: 420px;
  white-space: nowrap;
}
.rule {
  flex: 2;
  border-bottom: 1px solid var(--ink-2);
}
.rule.short {
  flex: 1;
}
.print {
  justify-self: start;
}
.others {
  display: grid;
  gap: 4px;
  justify-items: start;
}
@media print {
  .print,
  .others {
    display: none;
  }
  .system,
  .day {
    break-inside: avoid;
    border-color: #999;
  }
  .plan,
  .systems {
    display: block;
  }
  .system {
    margin-bottom: 10px;
  }
  .days {
    break-before: page;
  }
}
</style>

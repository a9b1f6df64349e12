<script setup lang="ts">
/** The report of a crop run: its stages on a strip, what it drank and was fed, the work, what ailed it, what it gave. */
import { useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import { RouterLink } from 'vue-router'
import { api, ask } from '../api/client'
import LoadState from '../parts/LoadState.vue'
import { lastPicked } from '../parts/recorder'
import { useRouteId } from '../parts/routeId'

const id = useRouteId()
const query = useQuery({
  queryKey: ['story', id, lastPicked],
  queryFn: () => ask(api.GET('/api/plantings/{id}/story', { params: { path: { id: id.value } } })),
})
const story = computed(() => query.data.value?.story)
const days = (count: number) => (count === 1 ? '1 day' : `${count} days`)
const widest = computed(() => Math.max(1, ...(story.value?.stages ?? []).map((stood) => stood.days)))
const print = () => window.print()
</script>

<template>
  <LoadState v-if="!story" :error="query.error.value" @again="query.refetch()" />
  <article v-else class="story">
    <header>
      <h1>{{ story.crop }}: report</h1>
      <p class="quiet">
        <RouterLink :to="`/system/${query.data.value!.system}`">{{ query.data.value!.system_name }}</RouterLink>,
        {{ /[-,]/.test(story.ports) ? 'ports' : 'port' }} {{ story.ports }}, {{ story.over ? 'over' : 'still growing' }}
      </p>
    </header>
    <p class="told">{{ story.told }}</p>
    <p v-if="query.data.value!.came">
      <RouterLink :to="`/planting/${query.data.value!.came.planting}`">{{ query.data.value!.came.said }}</RouterLink>
    </p>
    <section aria-labelledby="stages-head">
      <h2 id="stages-head">Stages</h2>
      <ol class="stages">
        <li v-for="stood in story.stages" :key="stood.stage + stood.from">
          <span
            >{{ stood.stage }} <span class="quiet small">since {{ stood.from }}</span></span
          >
          <span class="num">{{ days(stood.days) }}</span>
          <span class="bar" aria-hidden="true"
            ><span :style="{ width: `${(stood.days / widest) * 100}%` }"></span
          ></span>
        </li>
      </ol>
    </section>
    <section aria-labelledby="water-head">
      <h2 id="water-head">Water and feed</h2>
      <p>{{ story.water }}</p>
      <ul v-if="story.products.length">
        <li v-for="line in story.products" :key="line">{{ line }}</li>
      </ul>
      <p v-else class="quiet">The log names nothing that was fed or dosed.</p>
    </section>
    <section aria-labelledby="work-head">
      <h2 id="work-head">Work and cost</h2>
      <p>{{ story.work }}.</p>
      <p v-if="story.minutes">{{ story.minutes }}.</p>
      <p v-else class="quiet">Nobody timed a visit.</p>
      <ul v-if="story.cost.length">
        <li v-for="line in story.cost" :key="line">{{ line }}</li>
      </ul>
      <p v-else class="quiet">No product that was used has a price; write it on the product, under Set-up.</p>
    </section>
    <section aria-labelledby="cases-head">
      <h2 id="cases-head">What ailed the system</h2>
      <ul v-if="story.cases.length">
        <li v-for="line in story.cases" :key="line">{{ line }}</li>
      </ul>
      <p v-else class="quiet">Nothing that became a case.</p>
    </section>
    <section v-if="story.lost.length" aria-labelledby="lost-head">
      <h2 id="lost-head">What was lost</h2>
      <ul>
        <li v-for="line in story.lost" :key="line">{{ line }}</li>
      </ul>
    </section>
    <section aria-labelledby="gave-head">
      <h2 id="gave-head">What it gave</h2>
      <p>{{ story.harvest }}</p>
    </section>
    <section v-if="query.data.value!.went.length" aria-labelledby="went-head">
      <h2 id="went-head">Where it went on</h2>
      <ul>
        <li v-for="one in query.data.value!.went" :key="one.planting">
          <RouterLink :to="`/planting/${one.planting}`">{{ one.said }}</RouterLink>
        </li>
      </ul>
    </section>
    <section
      v-for="(chapter, n) in query.data.value!.before"
      :key="chapter.system"
      class="before"
      :aria-labelledby="`before-${n}`"
    >
      <h2 :id="`before-${n}`">Before, in {{ chapter.system_name }}</h2>
      <p>{{ chapter.story.told }}</p>
      <p>{{ chapter.story.water }}; {{ chapter.story.work }}.</p>
      <ul v-if="chapter.story.products.length">
        <li v-for="line in chapter.story.products" :key="line">{{ line }}</li>
      </ul>
      <template v-if="chapter.story.cases.length">
        <h3>What ailed it there</h3>
        <ul>
          <li v-for="line in chapter.story.cases" :key="line">{{ line }}</li>
        </ul>
      </template>
    </section>
    <p class="doing">
      <button class="button" type="button" @click="print">Print</button>
      <RouterLink class="button" :to="`/compare?of=planting:${id}`">Compare with another</RouterLink>
    </p>
  </article>
</template>

<style scoped>
.story {
  display: grid;
  gap: 24px;
  max-width: 680px;
}
header a {
  display: inline-flex;
  align-items: center;
  min-height: var(--touch);
}
.told {
  font-size: 21px;
  line-height: 1.35;
  font-weight: 600;
  text-wrap: balance;
}
section {
  display: grid;
  gap: 8px;
  break-inside: avoid;
}
.stages {
  display: grid;
  gap: 10px;
  margin: 0;
  padding: 0;
  list-style: none;
}
.stages li {
  display: grid;
  grid-template-columns: 1fr auto;
  gap: 2px 12px;
}
.bar {
  grid-column: 1 / -1;
  height: 8px;
  border: 1px solid var(--line);
  background: var(--sheet);
}
.bar span {
  display: block;
  height: 100%;
  background: var(--water);
}
.doing {
  display: flex;
  flex-wrap: wrap;
  gap: 10px;
}
@media print {
  .doing {
    display: none;
  }
}
</style>

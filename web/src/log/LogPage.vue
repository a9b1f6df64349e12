<script setup lang="ts">
/** The log over all systems, told day by day; what it is narrowed down by stands in the address. */
import { keepPreviousData, useInfiniteQuery } from '@tanstack/vue-query'
import { computed, defineAsyncComponent, onScopeDispose, ref, watch } from 'vue'
import { RouterLink, useRoute, useRouter } from 'vue-router'
import { api, ask, type Schemas } from '../api/client'
import LoadState from '../parts/LoadState.vue'
import { lastPicked } from '../parts/recorder'
import { daysOf, narrowed, queryOf, readAsked, writeAsked, type Asked } from './asked'
import LogDay from './LogDay.vue'
import LogFilters from './LogFilters.vue'

const LogAmend = defineAsyncComponent(() => import('./LogAmend.vue'))
const [route, router] = [useRoute(), useRouter()]
const asked = ref<Asked>(readAsked(route.query))
watch(
  () => route.query,
  (query) => {
    if (
      route.name === 'log' &&
      JSON.stringify(writeAsked(readAsked(query))) !== JSON.stringify(writeAsked(asked.value))
    )
      asked.value = readAsked(query)
  },
)
/** The address and the server are asked once the hand rests. */
const settled = ref<Asked>(asked.value)
const RESTS = 250
let resting: ReturnType<typeof setTimeout> | undefined
watch(asked, (now, before) => {
  clearTimeout(resting)
  const settle = () => {
    settled.value = now
    void router.replace({ query: writeAsked(now) })
  }
  if (now.words === before.words) settle()
  else resting = setTimeout(settle, RESTS)
})
onScopeDispose(() => clearTimeout(resting))
const query = useInfiniteQuery({
  queryKey: ['across', settled, lastPicked],
  queryFn: ({ pageParam, signal }) =>
    ask(
      api.GET('/api/log', {
        params: { query: { ...queryOf(settled.value), ...(pageParam ? { before: pageParam } : {}) } },
        signal,
      }),
    ),
  initialPageParam: '',
  getNextPageParam: (page: Schemas['LogAcross']) => page.next ?? undefined,
  placeholderData: keepPreviousData,
})
const threads = computed(() => query.data.value?.pages.flatMap((page) => page.threads) ?? [])
const days = computed(() => daysOf(threads.value))
const amending = ref<Schemas['AcrossThread'] | null>(null)
const clear = () => (asked.value = readAsked({}))
const print = () => window.print()
const count = computed(() =>
  query.hasNextPage.value
    ? `The newest ${threads.value.length} entries`
    : threads.value.length === 1
      ? 'One entry'
      : `${threads.value.length} entries`,
)
</script>

<template>
  <section class="log">
    <header>
      <h1>Log</h1>
      <div class="doing">
        <button v-if="narrowed(asked)" class="button plain" type="button" @click="clear">Show everything</button>
        <RouterLink class="button plain" to="/edits">Changes to the set-up</RouterLink>
        <button v-if="threads.length" class="button" type="button" @click="print">Print what is shown</button>
      </div>
    </header>
    <LogFilters v-model="asked" />
    <LoadState v-if="!query.data.value" :error="query.error.value" @again="query.refetch()" />
    <template v-else>
      <p class="small quiet" role="status">
        <template v-if="threads.length">{{ count }}{{ narrowed(settled) ? ' that fit' : '' }}.</template>
        <template v-else-if="narrowed(settled)">Nothing in the log fits all of that.</template>
        <template v-else
          >Nothing is recorded yet. <RouterLink to="/">Start with a visit from the round.</RouterLink></template
        >
      </p>
      <div class="days" :class="{ waits: query.isPlaceholderData.value }">
        <LogDay
          v-for="day in days"
          :key="day.on + day.said"
          :day="day"
          :words="settled.words"
          @amend="amending = $event"
        />
      </div>
      <button
        v-if="query.hasNextPage.value"
        class="button earlier"
        type="button"
        :disabled="query.isFetchingNextPage.value"
        @click="query.fetchNextPage()"
      >
        Earlier entries
      </button>
    </template>
    <LogAmend v-if="amending" :thread="amending" @close="amending = null" />
  </section>
</template>

<style scoped>
.log {
  display: grid;
  gap: 16px;
  min-width: 0;
}
header,
.doing {
  display: flex;
  flex-wrap: wrap;
  justify-content: space-between;
  align-items: center;
  gap: 8px;
}
.days {
  display: grid;
  gap: 12px;
  transition: opacity 0.15s;
}
.waits {
  opacity: 0.55;
}
.earlier {
  justify-self: start;
}
@media print {
  .doing,
  .earlier {
    display: none;
  }
  .log {
    display: block;
  }
}
</style>

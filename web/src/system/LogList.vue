<script setup lang="ts">
/** The log, newest first; what was amended stays in sight below what stands. */
import { useInfiniteQuery } from '@tanstack/vue-query'
import { may } from '../door/session'
import { computed, ref } from 'vue'
import { api, ask, type Schemas, type SystemView } from '../api/client'
import LoadState from '../parts/LoadState.vue'
import AmendSheet from './AmendSheet.vue'

const props = defineProps<{ view: SystemView }>()
const id = computed(() => props.view.card.id)
const log = useInfiniteQuery({
  queryKey: ['log', id],
  queryFn: ({ pageParam }) =>
    ask(
      api.GET('/api/systems/{id}/log', {
        params: { path: { id: id.value }, query: pageParam ? { before: pageParam, limit: 10 } : { limit: 10 } },
      }),
    ),
  initialPageParam: '',
  getNextPageParam: (page: Schemas['LogPage']) => page.next ?? undefined,
})
const threads = computed(() => log.data.value?.pages.flatMap((page) => page.threads) ?? [])
const amending = ref<Schemas['EntryView'] | null>(null)
</script>

<template>
  <LoadState v-if="!log.data.value" :error="log.error.value" @again="log.refetch()" />
  <p v-else-if="threads.length === 0" class="quiet">Nothing is recorded yet.</p>
  <ol v-else>
    <li v-for="thread in threads" :key="thread.head.id">
      <p class="who small">
        <strong>{{ thread.head.when }}</strong> {{ thread.head.by_name }}
      </p>
      <div class="what">
        <p
          v-for="(line, i) in thread.head.lines"
          :key="i"
          :class="{ withdrawn: thread.head.body.kind === 'withdrawn' }"
        >
          {{ line }}
        </p>
        <div v-for="old in thread.earlier" :key="old.id" class="earlier small">
          <p class="quiet">
            Amended: {{ thread.head.amends === old.id ? thread.head.reason : '' }} Before it said ({{ old.by_name }},
            {{ old.when }}):
          </p>
          <p v-for="(line, i) in old.lines" :key="i">{{ line }}</p>
        </div>
      </div>
      <button
        v-if="may('care', view.place.id)"
        class="button plain"
        type="button"
        :aria-label="`Amend the entry of ${thread.head.when}`"
        @click="amending = thread.head"
      >
        Amend
      </button>
    </li>
  </ol>
  <button
    v-if="log.hasNextPage.value"
    class="button"
    type="button"
    :disabled="log.isFetchingNextPage.value"
    @click="log.fetchNextPage()"
  >
    Earlier entries
  </button>
  <AmendSheet v-if="amending" :entry="amending" :view="view" @close="amending = null" />
</template>

<style scoped>
li {
  display: grid;
  grid-template-columns: 190px minmax(0, 1fr) auto;
  gap: 4px 16px;
  padding: 8px 0;
  border-bottom: 1px solid var(--line);
}
.button {
  align-self: start;
  min-height: var(--touch);
  padding-block: 2px;
}
.what {
  overflow-wrap: anywhere;
}
.earlier {
  margin-top: 6px;
  padding-left: 12px;
  border-left: 2px solid var(--line-2);
  color: var(--ink-2);
}
.earlier p:not(.quiet) {
  text-decoration: line-through;
}
.withdrawn {
  font-style: italic;
}
@media (max-width: 600px) {
  li {
    grid-template-columns: minmax(0, 1fr) auto;
  }
  .who {
    grid-column: 1;
  }
  .button {
    align-self: start;
    min-height: var(--touch);
    padding-block: 2px;
  }
  .what {
    grid-column: 1 / -1;
    grid-row: 2;
  }
}
</style>

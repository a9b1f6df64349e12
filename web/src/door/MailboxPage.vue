<script setup lang="ts">
/** The mailbox that stands in for a mail server in the demo. */
import { useQuery } from '@tanstack/vue-query'
import { RouterLink } from 'vue-router'
import { api, ask } from '../api/client'
import LoadState from '../parts/LoadState.vue'

const query = useQuery({
  queryKey: ['mailbox'],
  queryFn: () => ask(api.GET('/api/mailbox')),
  refetchInterval: 3_000,
  retry: false,
})
/** Lines, with what opens a page of this server as a link to it. */
const lines = (text: string) =>
  text.split('\n').map((line) => {
    const path = /^\s*https?:\/\/[^/\s]+(\/\S*)$/.exec(line)?.[1]
    return { line, path }
  })
</script>

<template>
  <section class="page">
    <p><RouterLink class="button plain" to="/people">Back to people and phones</RouterLink></p>
    <h1>The demo’s mailbox</h1>
    <p class="quiet">Mail from the demo comes here and goes nowhere else.</p>
    <LoadState v-if="!query.data.value" :error="query.error.value" @again="query.refetch()" />
    <p v-else-if="!query.data.value.length">No mail has come yet.</p>
    <article v-for="(letter, n) in query.data.value ?? []" v-else :key="(query.data.value?.length ?? 0) - n">
      <h2>{{ letter.subject }}</h2>
      <p class="small quiet">To {{ letter.to }}</p>
      <p class="text">
        <template v-for="(one, at) in lines(letter.text)" :key="at">
          <RouterLink v-if="one.path" :to="one.path">{{ one.line.trim() }}</RouterLink>
          <template v-else>{{ one.line }}</template>
          <br />
        </template>
      </p>
    </article>
  </section>
</template>

<style scoped>
.page {
  display: grid;
  gap: 16px;
  max-width: 760px;
}
article {
  display: grid;
  gap: 6px;
  padding: 14px 18px;
  border: 1px solid var(--line);
  background: var(--sheet);
  overflow-wrap: anywhere;
}
h2 {
  font-size: 18px;
}
</style>

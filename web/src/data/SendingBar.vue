<script setup lang="ts">
/** How far a file is: on its way, and then being imported. */
import { useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import { api, ask } from '../api/client'

const props = defineProps<{ share: number; what: string }>()
const health = useQuery({
  queryKey: ['busy'],
  queryFn: () => ask(api.GET('/healthz')),
  enabled: () => props.share >= 1,
  refetchInterval: 1000,
  gcTime: 0,
})
const said = computed(() => {
  if (props.share < 1) return `${Math.round(props.share * 100)} % sent`
  const busy = health.data.value?.busy
  const far = busy?.percent ?? null
  if (far !== null) return `Sent. ${far} % imported`
  return busy?.done ? `Sent. ${busy.done.toLocaleString('en-GB')} lines imported` : 'Sent. Importing'
})
</script>

<template>
  <div>
    <progress :value="share" max="1" :aria-label="`How far ${what} is sent`"></progress>
    <p class="small" role="status">{{ said }}</p>
  </div>
</template>

<style scoped>
progress {
  width: 100%;
  height: 14px;
  accent-color: var(--water);
}
</style>

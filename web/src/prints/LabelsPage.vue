<script setup lang="ts">
/** Labels for the vessels, to print and cut: each opens the visit of its system. */
import { useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import { RouterLink, useRoute } from 'vue-router'
import { api, ask } from '../api/client'
import { isHereOnly } from '../door/reach'
import LoadState from '../parts/LoadState.vue'
import { lastPicked } from '../parts/recorder'

const route = useRoute()
const places = computed(() => String(route.query.places ?? ''))
const origin = location.origin
const here = isHereOnly(origin)
const query = useQuery({
  queryKey: ['labels', places, lastPicked],
  queryFn: () =>
    ask(
      api.GET('/api/labels', { params: { query: { at: origin, ...(places.value ? { places: places.value } : {}) } } }),
    ),
})
const labels = computed(() => query.data.value)
const print = () => window.print()
</script>

<template>
  <LoadState v-if="!labels" :error="query.error.value" @again="query.refetch()" />
  <section v-else class="labels">
    <header class="screen">
      <h1>Labels</h1>
      <p>Print them, cut along the lines, and put each where its vessel stays dry. A camera opens the visit there.</p>
      <p v-if="here" class="note">
        These open on this computer only, for the address is {{ origin }}. Open this page under the address that phones
        use, then print.
      </p>
      <p v-if="!labels.length" class="quiet">
        No system stands here yet. <RouterLink to="/set-up">Set one up</RouterLink>
      </p>
      <button v-else class="button main" type="button" @click="print">
        {{ labels.length === 1 ? 'Print the label' : `Print these ${labels.length}` }}
      </button>
    </header>
    <ul>
      <li v-for="label in labels" :key="label.system">
        <svg
          :viewBox="`-4 -4 ${label.size + 8} ${label.size + 8}`"
          role="img"
          :aria-label="`QR code: ${label.opens}`"
          shape-rendering="crispEdges"
        >
          <rect x="-4" y="-4" :width="label.size + 8" :height="label.size + 8" fill="#fff" />
          <path :d="label.path" fill="#000" />
        </svg>
        <div>
          <strong>{{ label.name }}</strong>
          <span>{{ label.kind_name }}</span>
          <span>{{ label.place_name }}</span>
        </div>
      </li>
    </ul>
  </section>
</template>

<style scoped>
.labels,
header {
  display: grid;
  gap: 12px;
  justify-items: start;
}
.note {
  padding: 8px 14px;
  border-left: 4px solid var(--watch);
  background: var(--watch-wash);
}
ul {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(min(88mm, 100%), 88mm));
  gap: 0;
  width: 100%;
}
li {
  display: grid;
  grid-template-columns: minmax(0, 40mm) minmax(0, 1fr);
  align-items: center;
  gap: 3mm;
  width: 100%;
  max-width: 88mm;
  min-height: 50mm;
  padding: 3mm;
  border: 1px dashed #777;
  margin: 0 -1px -1px 0;
  background: #fff;
  color: #111;
  break-inside: avoid;
}
svg {
  width: 100%;
}
div {
  display: grid;
  gap: 1mm;
  min-width: 0;
  overflow-wrap: anywhere;
  font-size: 12px;
  line-height: 1.2;
  max-height: 44mm;
  overflow: hidden;
}
strong {
  font-size: 18px;
}
@media print {
  .screen {
    display: none;
  }
  ul {
    grid-template-columns: repeat(2, 88mm);
  }
  li {
    width: 88mm;
    height: 50mm;
  }
}
</style>

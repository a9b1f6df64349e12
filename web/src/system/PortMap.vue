<script setup lang="ts">
/** Which crop stands in which ports. */
import { portsOf, sayPorts } from '../setup/ports'
import { computed } from 'vue'
import { RouterLink } from 'vue-router'
import CarriesNote from './CarriesNote.vue'
import type { SystemView } from '../api/client'

const props = defineProps<{ view: SystemView }>()
const plantings = computed(() =>
  props.view.plantings
    .filter((p) => !p.archived)
    .flatMap((p) => (p.body.card === 'planting' ? [{ ...p.body, id: p.id }] : []))
    .sort((a, b) => parseInt(a.ports) - parseInt(b.ports)),
)
const earlier = computed(() =>
  props.view.plantings
    .filter((p) => p.archived)
    .flatMap((p) => (p.body.card === 'planting' ? [{ ...p.body, id: p.id }] : []))
    .sort((a, b) => b.planted_on.localeCompare(a.planted_on)),
)
const taken = computed(() => {
  const owner = new Map<number, number>()
  plantings.value.forEach((planting, index) => {
    for (const port of portsOf(planting.ports)) owner.set(port, index)
  })
  return owner
})
/** Ports in which root rot is open. */
const ill = computed(() => portsOf(props.view.case_ports ?? ''))
const day = (date: string) => new Date(`${date}T12:00`).toLocaleDateString('en-GB', { day: 'numeric', month: 'short' })
const marks = 'ABCDEFGHIJKLMNOPQRSTUVWXYZ'
</script>

<template>
  <div
    class="ports"
    role="img"
    :aria-label="`${taken.size} of ${view.system.ports} ports planted${ill.size ? `; root rot in ${sayPorts(ill)}` : ''}`"
  >
    <span
      v-for="n in view.system.ports"
      :key="n"
      class="port"
      :class="{ planted: taken.has(n), ill: ill.has(n) }"
      :title="ill.has(n) ? `Port ${n}: root rot` : `Port ${n}`"
      >{{ taken.has(n) ? marks[taken.get(n)! % 26] : '' }}</span
    >
  </div>
  <p v-if="ill.size" class="small case">Root rot in {{ ill.size === 1 ? 'port' : 'ports' }} {{ sayPorts(ill) }}.</p>
  <ul>
    <li v-for="(planting, i) in plantings" :key="planting.id">
      <strong>{{ marks[i % 26] }} {{ planting.crop }}</strong>
      <span class="quiet small"
        >{{ planting.stage }}, {{ planting.ports.match(/[-,]/) ? 'ports' : 'port' }} {{ planting.ports }}, since
        {{ day(planting.planted_on) }}</span
      >
      <RouterLink class="small" :to="`/planting/${planting.id}`"
        >Report<span class="hidden"> of {{ planting.crop }}</span></RouterLink
      >
    </li>
  </ul>
  <details v-if="earlier.length">
    <summary class="more">Earlier crops</summary>
    <ul>
      <li v-for="planting in earlier" :key="planting.id">
        <strong>{{ planting.crop }}</strong>
        <span class="quiet small">since {{ day(planting.planted_on) }}</span>
        <RouterLink class="small" :to="`/planting/${planting.id}`"
          >Report<span class="hidden"> of {{ planting.crop }}</span></RouterLink
        >
      </li>
    </ul>
  </details>
  <p v-if="plantings.length === 0" class="quiet">Nothing is planted yet, so there is no band to hold EC against.</p>
  <CarriesNote v-if="view.carries && !view.card.archived" :carries="view.carries" />
  <p v-if="view.ec_target?.warning" class="wrong">{{ view.ec_target.warning }}</p>
  <RouterLink class="button plain" :to="{ path: '/set-up', query: { system: view.card.id, part: 'plantings' } }">{{
    plantings.length ? 'Change plantings' : 'Sow or plant'
  }}</RouterLink>
</template>

<style scoped>
.ports {
  display: flex;
  flex-wrap: wrap;
  gap: 4px;
}
.port {
  width: 22px;
  height: 22px;
  border: 1.2px solid var(--line-2);
  border-radius: 50%;
  font-size: 12px;
  font-weight: 700;
  display: grid;
  place-items: center;
}
li {
  display: grid;
  margin-bottom: 6px;
}
.planted {
  background: var(--water-wash);
  border-color: var(--water);
}
.button {
  justify-self: start;
}
li a {
  display: inline-flex;
  align-items: center;
  justify-self: start;
  min-height: var(--touch);
}
.ports .port.ill {
  border-color: var(--alarm);
  background: var(--alarm-wash);
  border-width: 3px;
}
.case {
  color: var(--alarm);
  font-weight: 650;
}
</style>

<script setup lang="ts">
/** What stands on the bench of a place: cans and buckets, syringes, spoons and scales. */
import { computed } from 'vue'
import type { Schemas } from '../api/client'
import { useUnits } from '../api/units'
import NumberField from '../parts/NumberField.vue'

const props = defineProps<{ units: Schemas['UnitSystem']; wrong: (path: string) => string | undefined }>()
const containers = defineModel<Schemas['Container'][]>('containers', { required: true })
const tools = defineModel<Schemas['Tool'][]>('tools', { required: true })
const units = useUnits(computed(() => props.units))
const addCan = () =>
  (containers.value = [
    ...containers.value,
    { name: `Can ${containers.value.length + 1}`, holds: units.value.fromVolume(units.value.volume === 'L' ? 10 : 3) },
  ])
const addTool = () => (tools.value = [...tools.value, { name: '20 mL syringe', unit: 'ml', holds: 20, marked_each: 1 }])
const without = <T,>(list: T[], i: number) => list.filter((_, n) => n !== i)
const drop = (what: 'containers' | 'tools', i: number) =>
  what === 'containers' ? (containers.value = without(containers.value, i)) : (tools.value = without(tools.value, i))
</script>

<template>
  <details class="gear">
    <summary>Cans and measuring tools</summary>
    <p class="small quiet">Left empty, the bench plans with a usual set.</p>
    <ul>
      <li v-for="(can, i) in containers" :key="i" class="line can">
        <div class="field">
          <label :for="`can-${i}`">Can, bucket or bin</label>
          <input :id="`can-${i}`" v-model="can.name" required maxlength="80" autocomplete="off" />
          <p class="wrong">{{ wrong(`containers.${i}`) }}</p>
        </div>
        <NumberField
          :model-value="units.toVolume(can.holds)"
          label="Takes"
          :unit="units.volume"
          @update:model-value="can.holds = units.fromVolume($event ?? 0)"
        />
        <label class="tick stands"
          ><input v-model="can.stands" type="checkbox" /> A bin or barrel that is not carried</label
        >
        <button
          class="button plain remove"
          type="button"
          :aria-label="`Remove ${can.name}`"
          @click="drop('containers', i)"
        >
          ×
        </button>
      </li>
    </ul>
    <button class="button" type="button" @click="addCan">Add a can</button>
    <ul>
      <li v-for="(tool, i) in tools" :key="i" class="line">
        <div class="field">
          <label :for="`tool-${i}`">Tool</label>
          <input :id="`tool-${i}`" v-model="tool.name" required maxlength="80" autocomplete="off" />
          <p class="wrong">{{ wrong(`tools.${i}`) }}</p>
        </div>
        <div class="field">
          <label :for="`tool-unit-${i}`">In</label>
          <select :id="`tool-unit-${i}`" v-model="tool.unit">
            <option value="ml">mL</option>
            <option value="g">g</option>
          </select>
        </div>
        <NumberField :model-value="tool.holds" label="Holds" @update:model-value="tool.holds = $event ?? 0" />
        <NumberField
          :model-value="tool.marked_each"
          label="Marked each"
          @update:model-value="tool.marked_each = $event ?? 0"
        />
        <button class="button plain remove" type="button" :aria-label="`Remove ${tool.name}`" @click="drop('tools', i)">
          ×
        </button>
      </li>
    </ul>
    <button class="button" type="button" @click="addTool">Add a tool</button>
  </details>
</template>

<style scoped>
.gear[open] {
  display: grid;
  gap: 8px;
}
.line {
  display: grid;
  grid-template-columns: 2fr 84px 1fr 1fr auto;
  gap: 8px;
  align-items: start;
  padding: 8px 0;
  border-bottom: 1px solid var(--line);
}
.line.can {
  grid-template-columns: 2fr 1.2fr auto;
}
.stands {
  grid-row: 2;
  grid-column: 1 / -1;
}
.line .button {
  margin-top: 24px;
  font-size: 20px;
}
@media (max-width: 600px) {
  .line,
  .line.can {
    grid-template-columns: 1fr 1fr;
  }
  .stands {
    grid-row: auto;
  }
  .line .button {
    justify-self: start;
    margin-top: 0;
  }
}
</style>

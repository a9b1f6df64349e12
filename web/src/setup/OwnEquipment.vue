<script setup lang="ts">
/** What stands at a system beside the vessel: since when, whether a spare is at hand, how often it is serviced. */
import { computed } from 'vue'
import { newId, type Schemas } from '../api/client'
import { useKnowledge } from '../api/queries'
import ChoiceChips from '../controls/ChoiceChips.vue'
import DayField from '../controls/DayField.vue'
import NumberField from '../parts/NumberField.vue'

const props = defineProps<{ today: string; wrong: (path: string) => string | undefined }>()
const equipment = defineModel<Schemas['Equipment'][] | undefined>({ required: true })
type Piece = Schemas['Equipment']
type What = Piece['what']
const { data: knowledge } = useKnowledge()
const kinds = computed(() => knowledge.value?.equipment ?? [])
const all = computed(() => equipment.value ?? [])
const nameOf = (what: What) => kinds.value.find((kind) => kind.key === what)?.name ?? ''
const usual = (what: What) => kinds.value.find((kind) => kind.key === what)?.service_days
const put = (n: number, change: Partial<Piece>) =>
  (equipment.value = all.value.map((piece, i) => (i === n ? { ...piece, ...change } : piece)))
const remove = (n: number) => (equipment.value = all.value.filter((_, i) => i !== n))
function add(event: Event) {
  const picked = event.target as HTMLSelectElement
  if (picked.value) equipment.value = [...all.value, { id: newId(), what: picked.value as What, since: props.today }]
  picked.value = ''
}
const SPARES = [
  { key: 'yes', name: 'A spare is here' },
  { key: 'no', name: 'No spare' },
]
const spare = (piece: Piece) => (piece.spare == null ? null : piece.spare ? 'yes' : 'no')
const whole = (value: number | null) => (value === null ? null : Math.round(value))
</script>

<template>
  <div class="equipment">
    <p class="quiet small">
      List what can fail here. Mopsel reminds you of each service, and says how long roots last without it.
    </p>
    <fieldset v-for="(piece, n) in all" :key="piece.id" class="piece">
      <legend>{{ nameOf(piece.what) }}</legend>
      <div class="fields">
        <div class="field">
          <label :for="`piece-${piece.id}`">Name, where there are several</label>
          <input
            :id="`piece-${piece.id}`"
            :value="piece.name ?? ''"
            maxlength="80"
            autocomplete="off"
            @input="put(n, { name: ($event.target as HTMLInputElement).value.trim() || null })"
          />
          <p v-if="wrong(`equipment.${n}.name`)" class="wrong">{{ wrong(`equipment.${n}.name`) }}</p>
        </div>
        <DayField
          :model-value="piece.since ?? null"
          label="In use since"
          :wrong="wrong(`equipment.${n}.since`)"
          @update:model-value="put(n, { since: $event || null })"
        />
        <NumberField
          :model-value="piece.service_days ?? null"
          label="Serviced every"
          unit="days"
          :hint="`Left empty: ${usual(piece.what)} days`"
          :wrong="wrong(`equipment.${n}.service_days`)"
          @update:model-value="put(n, { service_days: whole($event) })"
        />
      </div>
      <div class="foot">
        <ChoiceChips
          :model-value="spare(piece)"
          :label="`A spare for it: ${nameOf(piece.what).toLowerCase()}`"
          :choices="SPARES"
          @update:model-value="put(n, { spare: $event == null ? null : $event === 'yes' })"
        />
        <button class="button plain" type="button" :aria-label="`Remove: ${nameOf(piece.what)}`" @click="remove(n)">
          Remove
        </button>
      </div>
    </fieldset>
    <div class="field">
      <label for="add-piece">Add a piece</label>
      <select id="add-piece" @change="add">
        <option value="">Pick what it is</option>
        <option v-for="kind in kinds" :key="kind.key" :value="kind.key">{{ kind.name }}</option>
      </select>
      <p v-if="wrong('equipment')" class="wrong">{{ wrong('equipment') }}</p>
    </div>
  </div>
</template>

<style scoped>
.equipment {
  display: grid;
  gap: 12px;
  justify-items: start;
  min-width: 0;
}
.piece {
  display: grid;
  gap: 12px;
  width: 100%;
  min-width: 0;
  margin: 0;
  padding: 0 0 12px;
  border: 0;
  border-bottom: 1px solid var(--line);
}
legend {
  padding: 0 0 6px;
  font-weight: 650;
}
.foot {
  display: flex;
  flex-wrap: wrap;
  align-items: end;
  gap: 8px 24px;
}
</style>

<script setup lang="ts">
/** What was really used, prefilled with the plan; one step into the log. */
import { amountUnit, ecRead, meterScale, readsEc, scaleName } from '../api/units'
import { computed, reactive, ref, watch } from 'vue'
import { ApiError, newId, type Schemas, type SystemView } from '../api/client'
import DoubtList from '../parts/DoubtList.vue'
import NumberField from '../parts/NumberField.vue'
import RecorderPick from '../parts/RecorderPick.vue'
import WhenField from '../parts/WhenField.vue'
import { recorderAt } from '../parts/recorder'
import { useStartTimer } from '../parts/timers'
import { useRecord } from '../system/record'
import { useDoubts } from '../writes/doubts'

const props = defineProps<{ plan: Schemas['Plan']; view: SystemView }>()
const startTimer = useStartTimer()
const emit = defineEmits<{ done: [] }>()
const { recordAndSay } = useRecord()
const used = reactive<Record<number, number | null>>({})
const ec = ref<number | null>(null)
const ph = ref<number | null>(null)
const keeps = ref<number | null>(null)
const when = ref<string | null>(null)
const timed = ref(true)
const busy = ref(false)
const failed = ref('')
const id = newId()
const by = computed(() => recorderAt(props.view.place.id))
watch(
  () => props.plan.doses.map((dose) => (dose.first == null ? dose.amount.value : null)),
  // What goes in only as far as it is needed is known afterwards.
  (now) => now.forEach((value, i) => (used[i] = value === null ? null : Number(value.toPrecision(4)))),
  { immediate: true },
)
const measures = computed(() => {
  const { measuring } = props.view.system
  const kind = props.plan.entry!.kind
  const mixed = ['change', 'premix'].includes(kind)
  return {
    ec: readsEc(measuring) && (mixed || (kind === 'visit' && !!props.plan.entry!.batch)),
    ph: measuring === 'meter' && mixed,
  }
})

/** Stirred into the water that is there: what is measured afterwards is the tank. */
const inTank = computed(() => props.plan.entry?.kind === 'visit' && !props.plan.entry.top_off)

/** The plan's entry with what was really used in place of what was planned. */
function body(): Schemas['Body'] {
  const entry = JSON.parse(JSON.stringify(props.plan.entry)) as Schemas['Body']
  const reading = ec.value === null ? null : ecRead(props.view, ec.value)
  const amount = (i: number, planned: Schemas['Amount']) => ({ ...planned, value: used[i] ?? 0 })
  if ((entry.kind === 'visit' || entry.kind === 'change' || entry.kind === 'premix') && entry.batch) {
    entry.batch.used = entry.batch.used
      .map((u, i) => ({ ...u, amount: amount(i, u.amount) }))
      .filter((u) => u.amount.value > 0)
    if (reading) entry.batch.ec = reading
  } else if (entry.kind === 'premix' && reading) entry.ec = reading
  if (entry.kind === 'visit' && entry.dosed) {
    // The dose is the last of the plan; one that was not poured after all is none.
    const poured = amount(props.plan.doses.length - 1, entry.dosed.dosed.amount)
    if (poured.value > 0) entry.dosed.dosed.amount = poured
    else delete entry.dosed
  }
  if (entry.kind === 'premix' && keeps.value !== null) entry.keeps_days = Math.round(keeps.value)
  if ((entry.kind === 'change' || entry.kind === 'premix') && ph.value !== null)
    entry.ph = { by: 'meter', value: ph.value }
  if (entry.kind === 'correction') entry.dosed.amount = amount(0, entry.dosed.amount)
  if (entry.kind === 'treatment') entry.amount_ml = used[0] ?? 0
  return entry
}

const { open: doubts, say } = useDoubts(
  computed(() => props.view.card.id),
  by,
  () => (props.plan.entry && (ec.value !== null || ph.value !== null) ? body() : null),
)
async function log() {
  const who = by.value
  if (!who) return (failed.value = 'Pick who is recording first.')
  const open = props.plan.doses.find((dose, i) => dose.first != null && used[i] == null)
  if (open) return (failed.value = `Enter how much ${open.name} you used, or 0.`)
  if (doubts.value.length) return (failed.value = 'Confirm or correct the number first.')
  busy.value = true
  failed.value = ''
  const system = props.view.card.id
  try {
    const entry = { id, body: body(), ...(when.value ? { at: when.value } : {}) }
    const came = await recordAndSay(system, who, entry, 'Logged, and the next dates have moved.')
    const wait = props.plan.steps.find((s) => s.wait?.what === 'remeasure')?.wait
    if (wait && came === 'recorded' && !when.value) void startTimer(system, wait)
    emit('done')
  } catch (error) {
    failed.value = error instanceof ApiError ? error.message : 'That could not be recorded; nothing was half-written.'
  } finally {
    busy.value = false
  }
}
</script>

<template>
  <section class="log" aria-labelledby="log-plan">
    <h2 id="log-plan">Log it</h2>
    <p class="quiet">What was really used, where it differs. What is logged teaches the next plan.</p>
    <div class="fields">
      <NumberField
        v-for="(dose, i) in plan.doses"
        :key="`${i} ${dose.product}`"
        :model-value="used[i] ?? null"
        :label="dose.name"
        :unit="amountUnit(dose.amount.unit)"
        @update:model-value="used[i] = $event"
      />
      <NumberField
        v-if="measures.ec"
        v-model="ec"
        :label="inTank ? 'EC of the tank, once mixed' : 'EC of the batch, once mixed'"
        :unit="scaleName(meterScale(view))"
        hint="Left empty if it was not measured"
      />
      <NumberField
        v-if="plan.entry?.kind === 'premix'"
        v-model="keeps"
        label="Keeps for"
        unit="days"
        hint="Left empty: 14, dark and lidded"
      />
      <NumberField v-if="measures.ph" v-model="ph" label="pH, once mixed" hint="Left empty if it was not measured" />
    </div>
    <WhenField v-model="when" v-model:ready="timed" :zone="view.place_body.zone" />
    <RecorderPick :place="view.place.id" :people="view.people" />
    <DoubtList :doubts="doubts" @said="say" />
    <p v-if="failed" class="wrong" role="alert">{{ failed }}</p>
    <button class="button main" type="button" :disabled="busy || !by || !timed" @click="log">Log what was done</button>
  </section>
</template>

<style scoped>
.log {
  display: grid;
  gap: 12px;
  padding-top: 16px;
  border-top: 2px solid var(--ink);
}
.button {
  justify-self: start;
  min-height: 52px;
}
</style>

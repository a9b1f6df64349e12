<script setup lang="ts">
/** Amending an entry: its values again, a reason, and the original stays in the log. */
import { computed, defineAsyncComponent, reactive, ref } from 'vue'
import { ApiError, newId, type Refusal, type Schemas, type SystemView, type Visit, sayRefusal } from '../api/client'
import { useRefresh } from '../api/queries'
import WhenField from '../parts/WhenField.vue'
import SheetDialog from '../parts/SheetDialog.vue'
import { notify } from '../parts/notice'
import { recorderAt } from '../parts/recorder'
import VisitMeasures from '../visit/VisitMeasures.vue'
import VisitLevel from '../visit/VisitLevel.vue'
import VisitTopOff from '../visit/VisitTopOff.vue'
import DoubtList from '../parts/DoubtList.vue'
import { useDoubts } from '../writes/doubts'
import AmendPoured from './AmendPoured.vue'
import AmendProducts from './AmendProducts.vue'
import { useRecord } from './record'

const props = defineProps<{ entry: Schemas['EntryView']; view: SystemView }>()
const emit = defineEmits<{ close: [] }>()
const open = computed({ get: () => true, set: () => emit('close') })
const refresh = useRefresh()
const { record } = useRecord()
const visit = reactive<Visit>(
  props.entry.body.kind === 'visit' ? structuredClone(JSON.parse(JSON.stringify(props.entry.body))) : {},
)
const isVisit = props.entry.body.kind === 'visit'
const poured = ref(JSON.parse(JSON.stringify(props.entry.body)) as Schemas['Body'])
const isPoured = ['change', 'correction', 'premix', 'treatment'].includes(props.entry.body.kind)
/** Loaded when it is wanted: mostly one number was wrong. */
const AmendRest = defineAsyncComponent(() => import('./AmendRest.vue'))
const more = ref(false)
/** As it would be recorded: what nothing of went in is not in it. */
const amended = (): Schemas['Body'] => {
  if (isVisit) {
    const dosed = visit.dosed && visit.dosed.dosed.amount.value > 0 ? visit.dosed : null
    const batch = visit.batch && { ...visit.batch, used: wentIn(visit.batch.used) }
    return { ...visit, batch, dosed, kind: 'visit' }
  }
  const now = poured.value
  if (!('batch' in now) || !now.batch) return now
  return { ...now, batch: { ...now.batch, used: wentIn(now.batch.used) } }
}
const wentIn = (used: Schemas['Used'][]) => used.filter((one) => one.amount.value > 0)
/** What was poured on a visit: its batch, and what moved the pH after that. */
const ACIDS: Schemas['ProductKind'][] = ['ph_up', 'ph_down']
const mixed = computed({
  get: () => visit.batch?.used ?? [],
  set: (used) => visit.batch && (visit.batch = { ...visit.batch, used }),
})
const dose = computed({
  get: () => (visit.dosed ? [visit.dosed.dosed] : []),
  set: ([dosed]) => visit.dosed && dosed && (visit.dosed = { ...visit.dosed, dosed }),
})
const { open: doubts, say } = useDoubts(
  computed(() => props.view.card.id),
  computed(() => recorderAt(props.view.place.id)),
  () => (isPoured ? amended() : null),
)
const wrong = (path: string) => {
  const found = faults.value.find((f) => f.field === `body.${path}` || f.field.startsWith(`body.${path}.`))
  return sayRefusal(found)
}
const reason = ref('')
const when = ref<string | null>(null)
const timed = ref(true)
const faults = ref<Refusal[]>([])
const failed = ref('')
const current = ref<Schemas['EntryView'] | null>(null)

async function send(body: Schemas['Body']) {
  const by = recorderAt(props.view.place.id)
  if (!by) return (failed.value = 'Pick who is recording first.')
  try {
    const came = await record(props.view.card.id, by, {
      id: newId(),
      at: when.value ?? props.entry.at,
      amends: props.entry.id,
      reason: reason.value,
      body,
    })
    notify(
      came === 'recorded'
        ? 'Amended. The original stays in sight in the log.'
        : 'Not connected. The amendment is kept on this device, and sent as soon as it is.',
    )
    emit('close')
  } catch (error) {
    if (!(error instanceof ApiError)) throw error
    faults.value = error.fields
    current.value = (error.problem.current as Schemas['EntryView'] | undefined) ?? null
    if (current.value) void refresh()
    failed.value = error.message
  }
}
</script>

<template>
  <SheetDialog v-model:open="open" title="Amend an entry">
    <form class="form" @submit.prevent="send(amended())">
      <slot></slot>
      <p class="quiet">{{ entry.when }}, {{ entry.by_name }}: {{ entry.lines.join('; ') }}</p>
      <template v-if="isVisit">
        <VisitLevel v-model="visit" past :view="view" :faults="faults" />
        <VisitMeasures v-model="visit" past :view="view" :faults="faults" />
        <VisitTopOff v-model="visit" past :view="view" :faults="faults" />
        <AmendProducts v-if="visit.batch" v-model="mixed" :wrong="wrong" />
        <AmendProducts v-if="visit.dosed" v-model="dose" :kinds="ACIDS" :wrong="wrong" />
        <div class="field">
          <label for="amend-note">Note</label>
          <textarea
            id="amend-note"
            :value="visit.note ?? ''"
            rows="2"
            maxlength="2000"
            @input="visit.note = ($event.target as HTMLTextAreaElement).value || null"
          ></textarea>
        </div>
      </template>
      <details v-if="isVisit" @toggle="more ||= ($event.target as HTMLDetailsElement).open">
        <summary>Everything else in this visit</summary>
        <AmendRest v-if="more" v-model="visit" :view="view" :faults="faults" :by="recorderAt(view.place.id)" />
      </details>
      <AmendPoured v-if="isPoured" v-model="poured" :view="view" :at="entry.at" :faults="faults" :wrong="wrong" />
      <DoubtList :doubts="doubts" @said="say" />
      <WhenField
        v-if="isVisit || isPoured"
        v-model="when"
        v-model:ready="timed"
        :zone="view.place_body.zone"
        :held="entry.at"
      />
      <div class="field">
        <label for="amend-reason">What was wrong</label>
        <input id="amend-reason" v-model="reason" required maxlength="2000" />
      </div>
      <div v-if="failed" class="wrong" role="alert">
        <p>{{ failed }}</p>
        <p v-if="current">
          {{ current.by_name }} made it: {{ current.lines.join('; ') }}. Close this sheet to amend that one.
        </p>
      </div>
      <div class="row">
        <button class="button" type="button" :disabled="!reason.trim()" @click="send({ kind: 'withdrawn' })">
          Withdraw the entry
        </button>
        <button
          v-if="isVisit || isPoured"
          class="button main"
          type="submit"
          :disabled="!timed || !reason.trim() || doubts.length > 0"
        >
          Amend it
        </button>
      </div>
    </form>
  </SheetDialog>
</template>

<style scoped>
.form {
  display: grid;
  gap: 16px;
}
.row {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
  justify-content: flex-end;
}
</style>

<script setup lang="ts">
/** One step of a change: what to do, the caution, what is asked here, and what follows from it. */
import { computed, reactive, ref } from 'vue'
import type { Schemas, SystemView, Visit } from '../api/client'
import { useChoices } from '../api/queries'
import { ecRead, meterScale, phByKit, scaleName, useKit, type Units } from '../api/units'
import ChoiceChips from '../controls/ChoiceChips.vue'
import TypedText from '../parts/TypedText.vue'
import NumberField from '../parts/NumberField.vue'
import { useStartTimer } from '../parts/timers'
import ChangeBatch from './ChangeBatch.vue'
import ChangeTreat from './ChangeTreat.vue'
import VisitRoots from '../visit/VisitRoots.vue'
import type { Changing } from './useChange'

const props = defineProps<{ step: Schemas['GuideStep']; change: Changing; view: SystemView; units: Units }>()
const startTimer = useStartTimer()
const emit = defineEmits<{ done: [leftOut?: string]; back: []; again: [] }>()
const run = computed(() => props.change.run.value)
const parts = computed(() => run.value.parts ?? {})
const key = computed(() => props.step.step)
const leaving = ref(false)
const why = ref('')
const busy = ref(false)

const temperature = (where: 'tank_temperature' | 'batch_temperature') =>
  computed<number | null>({
    get: () => (parts.value[where] == null ? null : props.units.toTemperature(parts.value[where]!)),
    set: (value) => props.change.parts({ [where]: value === null ? null : props.units.fromTemperature(value) }),
  })
const tank = temperature('tank_temperature')
const batch = temperature('batch_temperature')
const litres = (where: 'heel' | 'volume_after') =>
  computed<number | null>({
    get: () => (run.value[where] == null ? null : props.units.toVolume(run.value[where]!)),
    set: (value) => props.change.put({ [where]: value === null ? null : props.units.fromVolume(value) }),
  })
const meant = computed(() => {
  const litres = props.change.guide.value?.fill_to
  return litres == null ? '' : `Meant: ${props.units.toVolume(litres)} ${props.units.volume}`
})
const heel = litres('heel')
const after = litres('volume_after')
const reading = (where: 'ec' | 'heel_ec') =>
  computed<number | null>({
    get: () => run.value[where]?.value ?? null,
    set: (value) => props.change.put({ [where]: value === null ? null : ecRead(props.view, value) }),
  })
const ec = reading('ec')
const heelEc = reading('heel_ec')
const rinse = computed<number | null>({
  get: () => parts.value.rinse_ec?.value ?? null,
  set: (value) => props.change.parts({ rinse_ec: value === null ? null : ecRead(props.view, value) }),
})
const ph = computed<number | null>({
  get: () => (run.value.ph?.by === 'meter' ? run.value.ph.value : null),
  set: (value) => props.change.put({ ph: value === null ? null : { by: 'meter', value } }),
})
const water = computed<number | null>({
  get: () => (run.value.temperature == null ? null : props.units.toTemperature(run.value.temperature)),
  set: (value) => props.change.put({ temperature: value === null ? null : props.units.fromTemperature(value) }),
})
const kit = computed(() => phByKit(props.view.system.measuring))
const choices = useChoices()
const { bands, kitReading } = useKit()
const band = computed<number | null>({
  get: () => (run.value.ph?.by === 'kit' ? run.value.ph.low : null),
  set: (low) => props.change.put({ ph: kitReading(low) }),
})
const oldWater = computed({
  get: () => parts.value.old_water,
  set: (to) => props.change.parts({ old_water: to ?? null }),
})
/** The roots are looked at here as on a visit. */
const look = reactive({
  get roots() {
    return parts.value.roots ?? null
  },
  set roots(seen: Visit['roots']) {
    props.change.parts({ roots: seen ?? null })
  },
}) as Visit
const sanitisers = computed<Schemas['Sanitiser'][]>({
  get: () => parts.value.sanitisers ?? [],
  set: (now) => props.change.parts({ sanitisers: now }),
})
const shock = computed(() => key.value === 'temper' && props.step.tone === 'act')
const last = (subject: string) => {
  const found = props.view.last.find((v) => v.subject === subject)
  return found && `Last ${found.said}, ${found.when}`
}
/** What of the batch is not entered yet. */
const openDose = ref('')
const blocked = computed(() => props.change.faults.value.length > 0 || !!props.step.wants || !!openDose.value)
async function done() {
  busy.value = true
  emit('done')
  busy.value = false
}
function leave() {
  if (props.step.wants_a_reason && !leaving.value) return (leaving.value = true)
  if (props.step.wants_a_reason && !why.value.trim()) return
  emit('done', why.value.trim() || 'Not needed here.')
}
</script>

<template>
  <div class="sheet">
    <p class="do">{{ step.doing }}</p>
    <p v-if="step.caution && key !== 'bath' && key !== 'dose'" class="caution">
      <strong>Caution.</strong> {{ step.caution }}
    </p>
    <ChangeBatch
      v-if="key === 'prepare' && change.guide.value?.mixes"
      v-model:open="openDose"
      :change="change"
      :view="view"
      :units="units"
      :done="step.done"
    />
    <VisitRoots v-else-if="key === 'roots'" :model-value="look" :faults="[]" outside />
    <ChangeTreat
      v-else-if="key === 'bath' || key === 'dose'"
      :key="key"
      :what="key === 'bath' ? 'root_bath' : 'peroxide_dose'"
      :caution="step.caution ?? ''"
      :done="step.done"
      :change="change"
      :view="view"
      :units="units"
    />
    <div v-else-if="key === 'temper'" class="fields">
      <NumberField
        v-model="tank"
        label="Tank"
        :unit="units.temperature"
        :hint="last('temperature')"
        :wrong="change.fault('parts.tank_temperature')"
      />
      <NumberField
        v-model="batch"
        label="Fresh batch"
        :unit="units.temperature"
        :wrong="change.fault('parts.batch_temperature')"
      />
    </div>
    <div v-else-if="key === 'flush'" class="fields">
      <NumberField
        v-model="rinse"
        label="EC of the rinse water"
        :unit="scaleName(meterScale(view))"
        :wrong="change.fault('parts.rinse_ec')"
        hint="Left empty if not measured"
      />
    </div>
    <ChoiceChips
      v-else-if="key === 'drain'"
      v-model="oldWater"
      label="Where does the old water go?"
      :choices="choices<Schemas['OldWater']>('old_water')"
    />
    <div v-else-if="key === 'heel'" class="fields">
      <NumberField v-model="heel" label="Water left in the tank" :unit="units.volume" :wrong="change.fault('heel')" />
      <NumberField
        v-model="heelEc"
        label="Its EC, if measured"
        :unit="scaleName(meterScale(view))"
        :hint="last('ec')"
        :wrong="change.fault('heel_ec')"
      />
    </div>
    <div v-else-if="key === 'sanitise'" class="field">
      <ChoiceChips
        v-model="sanitisers"
        label="With what?"
        :choices="choices<Schemas['Sanitiser']>('sanitiser')"
        several
      />
      <p v-if="change.fault('parts.sanitisers')" class="refused" role="alert">{{ change.fault('parts.sanitisers') }}</p>
    </div>
    <div v-else-if="key === 'measure'" class="fields">
      <NumberField
        v-model="after"
        label="Water in the vessel"
        :unit="units.volume"
        :wrong="change.fault('volume_after')"
        :hint="meant"
      />
      <NumberField
        v-model="ec"
        label="EC"
        :unit="scaleName(meterScale(view))"
        :wrong="change.fault('ec')"
        hint="Left empty if not measured"
      />
      <NumberField v-if="!kit" v-model="ph" label="pH" :wrong="change.fault('ph')" hint="Left empty if not measured" />
      <NumberField v-model="water" label="Temperature" :unit="units.temperature" :wrong="change.fault('temperature')" />
      <ChoiceChips v-if="kit" v-model="band" label="pH by drop kit" :choices="bands" />
    </div>
    <p v-if="change.fault('parts.mixed')" class="refused" role="alert">{{ change.fault('parts.mixed') }}</p>
    <p v-if="step.finding" class="finding" :class="step.tone" aria-live="polite">{{ step.finding }}</p>
    <div v-if="shock" class="field">
      <label for="temper-why">Why it has to go in now</label>
      <TypedText
        id="temper-why"
        :model-value="parts.temper_reason"
        maxlength="2000"
        @update:model-value="change.parts({ temper_reason: $event ?? null })"
      />
    </div>
    <button v-if="step.wait" class="button" type="button" @click="startTimer(view.card.id, step.wait)">
      Start {{ step.wait.minutes }} minutes
    </button>
    <div v-if="leaving" class="field">
      <label for="leave-why">Why it is skipped; it stands in the log</label>
      <input id="leave-why" v-model="why" maxlength="2000" />
    </div>
    <p v-if="(openDose || step.wants) && !step.done" class="small quiet">
      Before it is done: {{ openDose || step.wants }}
    </p>
    <p v-if="step.left_out" class="small quiet">Skipped: {{ step.left_out }}</p>
    <slot></slot>
    <div class="turn">
      <button class="button" type="button" @click="emit('back')">Back</button>
      <button v-if="step.done" class="button" type="button" @click="emit('again')">Not done after all</button>
      <button v-else class="button plain" type="button" @click="leave">
        {{ leaving ? 'Skip it' : 'Skip' }}
      </button>
      <button class="button main" type="button" :disabled="busy || blocked" @click="done">
        {{ step.done ? 'Next' : 'Done' }}
      </button>
    </div>
  </div>
</template>

<style scoped>
.sheet {
  display: grid;
  gap: 14px;
}
.do {
  font-size: 20px;
  line-height: 1.4;
}
.caution,
.refused {
  border-left: 4px solid var(--alarm);
  padding: 8px 14px;
  background: var(--alarm-wash);
}
.caution strong {
  color: var(--alarm);
}
.finding {
  padding: 8px 14px;
  border-left: 4px solid var(--water);
  background: var(--water-wash);
  font-weight: 600;
}
.finding.watch {
  border-color: var(--watch);
  background: var(--watch-wash);
}
.finding.act {
  border-color: var(--alarm);
  background: var(--alarm-wash);
}
.sheet > .button {
  justify-self: start;
}
.turn {
  display: flex;
  justify-content: space-between;
  align-items: center;
  gap: 10px;
  padding-top: 8px;
}
.turn .button {
  min-height: 52px;
}
.turn .main {
  flex: 1;
  max-width: 240px;
}
@media (max-width: 900px) {
  /* The buttons stay at the bottom of the screen while what is above them comes and goes: a tap lands where it began. */
  .sheet {
    display: flex;
    flex-direction: column;
    min-height: calc(100dvh - 80px);
  }
  .sheet > .button {
    align-self: start;
  }
  .turn {
    margin-top: auto;
    position: sticky;
    bottom: 0;
    padding: 10px 0;
    background: var(--paper);
    border-top: 1px solid var(--line);
  }
}
</style>

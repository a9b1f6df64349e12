<script setup lang="ts">
/** The mixing bench: what for on one side, the plan on the other. Works for a system and for none. */
import { computed, ref, shallowRef, watch, watchEffect } from 'vue'
import { RouterLink } from 'vue-router'
import { useBenchFacts, usePlaces, useShelf, useSystem } from '../api/queries'
import { useUnits } from '../api/units'
import { sayRefusal, type Schemas } from '../api/client'
import TankDrawing from '../drawing/TankDrawing.vue'
import { describe } from '../drawing/describe'
import { recorderAt } from '../parts/recorder'
import BenchForm from './BenchForm.vue'
import LogPlan from './LogPlan.vue'
import { may } from '../door/session'
import PlanSheet from './PlanSheet.vue'
import { useBench, type BenchReader } from './useBench'

const { purposes, examples } = useBenchFacts()
const reader = shallowRef<BenchReader | null>(null)
const bench = useBench(() => reader.value, purposes)
const places = usePlaces()
const shelf = useShelf()
const systemId = computed(() => bench.system.value ?? '')
const system = useSystem(systemId)
const view = computed(() => (bench.system.value ? system.data.value : undefined))
const by = computed(() => recorderAt(view.value?.place.id))
const unitKey = computed(() => view.value?.units ?? ((bench.values.value.units ?? 'metric') as Schemas['UnitSystem']))
const units = useUnits(unitKey)
const scale = computed(() => view.value?.ec_scale ?? ((bench.values.value.scale ?? 'ms_cm') as Schemas['EcScale']))
const ready = computed(() => !bench.system.value || !!view.value)
watchEffect(() => {
  reader.value = ready.value
    ? {
        units: units.value,
        scale: scale.value,
        by: by.value,
        compensated: view.value?.meter?.compensated ?? true,
      }
    : null
})
const copied = ref(false)
async function share() {
  await navigator.clipboard?.writeText(location.href)
  copied.value = true
  setTimeout(() => (copied.value = false), 3000)
}
/** Still water that is to be filled: its line and its limit are drawn. */
const limited = computed(
  () =>
    view.value?.section.limit != null &&
    view.value.section.litres != null &&
    !!view.value.room &&
    ['top_off', 'put_right', 'change', 'fresh_fill'].includes(bench.purpose.value?.key ?? ''),
)
const print = () => window.print()
const logged = ref(false)
watch([() => bench.values.value.for, bench.system], () => (logged.value = false))
/** What was read before the pouring is no longer so: it is typed anew. */
function another() {
  const gone = ['from', 'to', 'litres', 'heel', 'heel_ec', 'ec', 'ph', 'kit', 'jar_amount', 'jar_litres']
  bench.set(Object.fromEntries(gone.map((key) => [key, null])))
  logged.value = false
}
const show = () => document.getElementById('plan')?.scrollIntoView()
</script>

<template>
  <header class="head">
    <h1>Bench</h1>
    <p class="quiet lead">
      <template v-if="view">
        For <RouterLink :to="`/system/${view.card.id}`">{{ view.system.name }}</RouterLink>, {{ view.place_body.name }}
      </template>
      <template v-else>A plain calculation, without a system: nothing is logged.</template>
    </p>
  </header>
  <div class="bench">
    <div class="asking">
      <BenchForm
        :bench="bench"
        :places="places.data.value ?? []"
        :shelf="shelf.data.value"
        :view="view"
        :units="units"
        :scale="scale"
      />
      <a v-if="bench.plan.value && !logged" class="foot" href="#plan" @click.prevent="show">
        <span>{{ bench.plan.value.answer }}</span> <strong>See the plan</strong>
      </a>
    </div>
    <div id="plan" class="result">
      <section v-if="logged" class="logged" role="status">
        <p><strong>Logged.</strong> The next plan starts from what stands there now.</p>
        <RouterLink v-if="view" class="button" :to="`/system/${view.card.id}`">To {{ view.system.name }}</RouterLink>
        <button class="button plain" type="button" @click="another">Plan another one</button>
      </section>
      <div v-if="limited && !logged" class="limited">
        <div class="tank"><TankDrawing :section="view!.section" :label="describe(view!)" lines /></div>
        <p class="small">
          <strong>Refill limit.</strong> It stands at about {{ units.toVolume(view!.section.litres!) }}
          {{ units.volume }}, and may rise to {{ units.toVolume(view!.room!.up_to) }} {{ units.volume }}.
        </p>
      </div>
      <div v-if="bench.failed.value && !logged" class="refused" role="alert">
        <h2>That cannot be made</h2>
        <p v-for="f in bench.faults.value" :key="f.field">{{ sayRefusal(f) }}</p>
        <p v-if="!bench.faults.value.length">{{ bench.failed.value }}</p>
      </div>
      <div v-else-if="!bench.purpose.value && !logged" class="empty">
        <p>Choose what it is for. How much of what, in which order and measured with what is worked out here.</p>
        <template v-if="!view">
          <p class="label">For example</p>
          <ul>
            <li v-for="{ name, asks } in examples()" :key="name">
              <RouterLink :to="{ path: '/bench', query: asks }">{{ name }}</RouterLink>
            </li>
          </ul>
        </template>
      </div>
      <p v-else-if="bench.missing.value.length && !bench.plan.value && !logged" class="empty">
        Fill in what is marked as wanted; the plan follows as you type.
      </p>
      <p v-else-if="bench.waiting.value && !logged" class="working quiet" role="status">Working it out…</p>
      <template v-else-if="bench.plan.value && !logged">
        <PlanSheet :plan="bench.plan.value" :system="bench.system.value" :where="view?.system.name" />
        <div class="doing">
          <button class="button" type="button" @click="print">Print on one page</button>
          <button class="button" type="button" @click="share">{{ copied ? 'Address copied' : 'Share' }}</button>
        </div>
        <LogPlan
          v-if="view && bench.plan.value.entry && may('care', view.place.id)"
          :key="bench.plan.value.title"
          :plan="bench.plan.value"
          :view="view"
          @done="logged = true"
        />
      </template>
      <p v-else-if="!logged" class="quiet" role="status">Working it out…</p>
    </div>
  </div>
</template>

<style scoped>
.head {
  display: flex;
  flex-wrap: wrap;
  align-items: baseline;
  gap: 4px 16px;
  margin-bottom: 16px;
}
.lead a {
  display: inline-flex;
  align-items: center;
  min-height: var(--touch);
  color: inherit;
  font-weight: 650;
}
.bench {
  display: grid;
  grid-template-columns: 360px minmax(0, 1fr);
  gap: 48px;
  align-items: start;
}
.result {
  display: grid;
  gap: 20px;
  min-width: 0;
}
.empty {
  padding: 32px 24px;
  border: 1.5px dashed var(--line-2);
  border-radius: 6px;
  color: var(--ink-2);
  max-width: 560px;
}
.empty a {
  display: inline-flex;
  align-items: center;
  min-height: var(--touch);
}
.limited {
  display: grid;
  grid-template-columns: 150px minmax(0, 1fr);
  gap: 8px 24px;
  align-items: end;
}
.refused {
  display: grid;
  gap: 8px;
  padding: 16px 20px;
  border-left: 4px solid var(--alarm);
  background: var(--alarm-wash);
  overflow-wrap: anywhere;
}
.logged {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 8px 12px;
  padding: 14px 18px;
  border-left: 4px solid var(--water);
  background: var(--water-wash);
}
.doing {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
}
.foot {
  display: none;
}
@media (max-width: 900px) {
  .foot {
    position: sticky;
    bottom: 0;
    display: flex;
    justify-content: space-between;
    align-items: center;
    gap: 12px;
    margin: 16px -16px 0;
    padding: 10px 16px;
    background: var(--sheet);
    border-top: 1px solid var(--line-2);
    color: var(--ink);
    text-decoration: none;
    line-height: 1.3;
  }
  .foot strong {
    white-space: nowrap;
    color: var(--water);
  }
  .bench {
    grid-template-columns: minmax(0, 1fr);
    gap: 24px;
  }
}
@media print {
  .foot,
  .limited,
  .head,
  .doing,
  .bench > :first-child,
  .result > :last-child:not(:first-child) {
    display: none;
  }
  .bench {
    display: block;
  }
}
</style>

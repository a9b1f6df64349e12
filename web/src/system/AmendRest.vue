<script setup lang="ts">
/** All else that a visit recorded, to be amended: what was looked at, done, picked and noticed. */
import type { Refusal, SystemView, Visit } from '../api/client'
import VisitGlass from '../visit/VisitGlass.vue'
import VisitJobs from '../visit/VisitJobs.vue'
import VisitLook from '../visit/VisitLook.vue'
import VisitRoots from '../visit/VisitRoots.vue'
import VisitRunOff from '../visit/VisitRunOff.vue'
import VisitSupply from '../visit/VisitSupply.vue'

defineProps<{ view: SystemView; faults: Refusal[]; by: string | undefined }>()
const visit = defineModel<Visit>({ required: true })
</script>

<template>
  <div class="rest">
    <label v-if="visit.all_fine" class="tick">
      <input
        type="checkbox"
        :checked="visit.all_fine"
        @change="visit.all_fine = ($event.target as HTMLInputElement).checked"
      />
      All was fine
    </label>
    <VisitLook v-model="visit" :view="view" :faults="faults" :child="false" :by="by" :told="null" />
    <VisitGlass v-model="visit" />
    <VisitRoots v-model="visit" :faults="faults" />
    <VisitSupply
      v-if="view.system.traits.top_off_reservoir && !view.system.drum_of"
      v-model="visit"
      :view="view"
      :faults="faults"
    />
    <VisitRunOff v-if="view.system.traits.to_waste" v-model="visit" :view="view" :faults="faults" />
    <VisitJobs v-model="visit" :view="view" :child="false" :faults="faults" />
  </div>
</template>

<style scoped>
.rest {
  display: grid;
  gap: 20px;
  padding-top: 8px;
}
.tick {
  display: flex;
  align-items: center;
  gap: 10px;
  min-height: var(--touch);
}
</style>

<script setup lang="ts">
/** How each open case stands now, and a case opened from what the signs come to. */
import { computed } from 'vue'
import type { Schemas, SystemView, Visit } from '../api/client'
import { useChoices, useKnowledge } from '../api/queries'
import ChoiceChips from '../controls/ChoiceChips.vue'

const props = defineProps<{
  view: SystemView
  child: boolean
  /** What is offered to be made a case of; left out where the open cases are asked about. */
  offer?: Schemas['Explanation'] | null
  asks?: boolean
}>()
const visit = defineModel<Visit>({ required: true })
const choices = useChoices()
const { data: knowledge } = useKnowledge()
type Outcome = Schemas['CaseOutcome']
const outcomes = computed(() => choices<Outcome>('case_outcome'))
const looks = computed(() => visit.value.cases ?? [])
/** Root rot has its own questions, at the roots. */
const open = computed(() => props.view.cases.filter((one) => one.open && one.key !== 'root_rot'))
const standing = (key: string) => looks.value.find((look) => look.cause === key)?.outcome ?? null
function say(key: string, outcome: Outcome | null) {
  const others = looks.value.filter((look) => look.cause !== key)
  const ports = visit.value.plants?.ports ?? null
  const learnt = learntOf(key)
  const look = { cause: key, outcome: outcome!, ...(ports ? { ports } : {}), ...(learnt ? { learnt } : {}) }
  visit.value.cases = outcome ? [...others, look] : others
}
const learntOf = (key: string) => looks.value.find((look) => look.cause === key)?.learnt ?? ''
function learn(key: string, learnt: string) {
  visit.value.cases = looks.value.map((look) => (look.cause === key ? { ...look, learnt: learnt || null } : look))
}
/** What a case can be made of, where it is likely enough and none is open. */
const offered = computed(() => {
  const likely = props.offer && props.offer.sure !== 'cannot_tell' ? [props.offer.causes[0], props.offer.besides] : []
  return likely
    .filter((cause) => !!cause)
    .filter((cause) => knowledge.value?.case_causes.some((one) => one.key === cause.key))
    .filter((cause) => !open.value.some((one) => one.key === cause.key))
})
</script>

<template>
  <div v-if="(asks && open.length) || offered.length" class="cases">
    <div v-for="one in asks ? open : []" :key="one.key" class="case">
      <p>
        <strong>{{ one.name }}</strong> <span class="quiet">{{ one.state }}</span>
      </p>
      <ChoiceChips
        :model-value="standing(one.key)"
        :label="`${one.name}: how does it stand?`"
        :choices="outcomes"
        @update:model-value="say(one.key, $event as Outcome | null)"
      />
      <p class="small quiet">{{ one.doing }}</p>
      <div v-if="standing(one.key)" class="field">
        <label :for="`learnt-${one.key}`">What was learnt from it, if anything</label>
        <input
          :id="`learnt-${one.key}`"
          :value="learntOf(one.key)"
          maxlength="2000"
          autocomplete="off"
          @input="learn(one.key, ($event.target as HTMLInputElement).value)"
        />
      </div>
    </div>
    <template v-if="!child">
      <label v-for="cause in offered" :key="cause.key" class="tick">
        <input
          type="checkbox"
          :checked="standing(cause.key) === 'opened'"
          @change="say(cause.key, ($event.target as HTMLInputElement).checked ? 'opened' : null)"
        />
        Make a case of it, with looks on dated days: {{ cause.name.toLowerCase() }}
      </label>
    </template>
  </div>
</template>

<style scoped>
.cases,
.case {
  display: grid;
  gap: 8px;
}
.case {
  padding: 10px 14px;
  border-left: 4px solid var(--watch);
  background: var(--watch-wash);
}
</style>

<script setup lang="ts">
/** The roots, by plain questions; the core makes the stage of the answers. */
import { computed } from 'vue'
import type { Refusal, Schemas, Visit } from '../api/client'
import { useChoices } from '../api/queries'
import TypedText from '../parts/TypedText.vue'
import YesNo from './YesNo.vue'
import { faultOf } from './useVisit'

defineProps<{ faults: Refusal[]; /** They hang outside already. */ outside?: boolean }>()

const visit = defineModel<Visit>({ required: true })
type Answer = keyof Schemas['RootAnswers']
const choices = useChoices()
const questions = computed(() => choices<Answer>('root_question'))
const answers = computed(() => visit.value.roots?.answers)
const sound = computed(() => !!answers.value && !Object.values(answers.value).some(Boolean))
function answer(key: Answer, yes: boolean | null | undefined) {
  visit.value.roots = { ...visit.value.roots, answers: { ...answers.value, [key]: yes === true } }
}
function clear() {
  visit.value.roots = sound.value ? null : { answers: {} }
}
</script>

<template>
  <div class="part">
    <p v-if="!outside" class="quiet">Lift the lid. Touch nothing else until hands are washed.</p>
    <button class="chip all" type="button" :aria-pressed="sound" @click="clear">
      White to cream, firm, separate: sound
    </button>
    <YesNo
      v-for="{ key, name } in questions"
      :key="key"
      :question="name"
      yes="Yes"
      no="No"
      :model-value="answers ? (answers[key] ?? false) : null"
      @update:model-value="answer(key, $event)"
    />
    <div v-if="visit.roots && !sound" class="field">
      <label for="root-ports">In which ports? (as in 1-3, 7)</label>
      <TypedText
        id="root-ports"
        :model-value="visit.roots.ports"
        @update:model-value="visit.roots = { ...visit.roots, ports: $event ?? null }"
      />
      <p class="wrong">{{ faultOf(faults, 'roots') }}</p>
    </div>
  </div>
</template>

<style scoped>
.part {
  display: grid;
  gap: 12px;
}
.all {
  justify-self: start;
}
</style>

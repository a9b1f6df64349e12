<script setup lang="ts">
/** The roots, by plain questions; the core makes the stage of the answers. */
import { computed } from 'vue'
import type { Refusal, Schemas, Visit } from '../api/client'
import { useChoices } from '../api/queries'
import RootsDrawing from '../plants/RootsDrawing.vue'
import TypedText from '../parts/TypedText.vue'
import YesNo from './YesNo.vue'
import { faultOf } from './useVisit'

defineProps<{ faults: Refusal[]; /** They hang outside already. */ outside?: boolean }>()

const visit = defineModel<Visit>({ required: true })
type Answer = keyof Schemas['RootAnswers']
const choices = useChoices()
const questions = computed(() => choices<Answer>('root_question'))
/** What each answer looks like. */
const STAGE: Record<Answer, 0 | 1 | 2 | 3> = {
  matted_or_foul: 3,
  slime_or_browning: 2,
  stick_together: 1,
  tan_tint_rinses: 0,
}
const hint = (key: string) => choices('root_hint').find((one) => one.key === key)?.name ?? ''
const answers = computed(() => visit.value.roots?.answers)
/** Each sign was looked for, and none was there. */
const SOUND = { matted_or_foul: false, slime_or_browning: false, stick_together: false }
const sound = computed(() => Object.keys(SOUND).every((key) => answers.value?.[key as Answer] === false))
/** Some sign was seen: then it can be said where. */
const seen = computed(() => Object.values(answers.value ?? {}).some((yes) => yes))
/** Each answer is for its own question; the same one once more takes it back. */
function answer(key: Answer, yes: boolean | null | undefined) {
  const given = { ...answers.value }
  if (typeof yes === 'boolean') given[key] = yes
  else delete given[key]
  visit.value.roots = Object.keys(given).length ? { ...visit.value.roots, answers: given } : null
}
function clear() {
  visit.value.roots = sound.value ? null : { answers: { ...SOUND } }
}
</script>

<template>
  <div class="part">
    <p v-if="!outside" class="quiet">{{ hint('lift') }}</p>
    <button class="chip all" type="button" :aria-pressed="sound" @click="clear">
      <RootsDrawing :stage="0" />
      White to cream, firm, separate: sound
    </button>
    <div v-for="{ key, name } in questions" :key="key" class="question">
      <RootsDrawing :stage="STAGE[key]" :tan="key === 'tan_tint_rinses'" />
      <div>
        <YesNo
          :question="name"
          yes="Yes"
          no="No"
          :model-value="answers?.[key] ?? null"
          @update:model-value="answer(key, $event)"
        />
        <p class="small quiet">{{ hint(key) }}</p>
      </div>
    </div>
    <div v-if="visit.roots && seen" class="field">
      <label for="root-ports">In which ports? (as in 1-3, 7)</label>
      <TypedText
        id="root-ports"
        :model-value="visit.roots.ports"
        @update:model-value="visit.roots = { ...visit.roots, ports: $event ?? null }"
      />
    </div>
    <!-- What is not answered yet is no mistake; ports that are not there are. -->
    <p v-if="visit.roots" :class="seen ? 'wrong' : 'quiet'" role="status">{{ faultOf(faults, 'roots') }}</p>
  </div>
</template>

<style scoped>
.part {
  display: grid;
  gap: 12px;
}
.all {
  display: flex;
  align-items: center;
  gap: 10px;
  justify-self: start;
}
.question {
  display: grid;
  grid-template-columns: auto minmax(0, 1fr);
  gap: 4px 12px;
  align-items: start;
  padding-top: 10px;
  border-top: 1px solid var(--line);
}
</style>

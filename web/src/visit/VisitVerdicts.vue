<script setup lang="ts">
/** Verdicts on what was typed; each can be overruled with a reason, and that is kept. */
import { reactive } from 'vue'
import type { Verdict, Visit } from '../api/client'
import VerdictCard from '../system/VerdictCard.vue'

defineProps<{ verdicts: Verdict[] }>()
const visit = defineModel<Visit>({ required: true })
const open = reactive<Record<string, boolean>>({})
function overrule(subject: string, reason: string) {
  const now = { ...visit.value.overruled }
  if (reason.trim()) now[subject] = reason
  else delete now[subject]
  visit.value.overruled = now
}
</script>

<template>
  <div class="verdicts" aria-live="polite">
    <div v-for="verdict in verdicts" :key="verdict.subject">
      <VerdictCard :verdict="verdict" />
      <template v-if="verdict.tone !== 'fine'">
        <div v-if="open[verdict.subject] || visit.overruled?.[verdict.subject]" class="field over">
          <label :for="`over-${verdict.subject}`">I see it otherwise, because</label>
          <input
            :id="`over-${verdict.subject}`"
            :value="visit.overruled?.[verdict.subject] ?? ''"
            maxlength="2000"
            @input="overrule(verdict.subject, ($event.target as HTMLInputElement).value)"
          />
        </div>
        <button v-else class="button plain" type="button" @click="open[verdict.subject] = true">
          I see it otherwise
        </button>
      </template>
    </div>
  </div>
</template>

<style scoped>
.verdicts {
  display: grid;
  gap: 10px;
}
.over {
  padding: 8px 0;
}
</style>

<script setup lang="ts">
/** The end of the visit: a note, and what stays open. */
import { computed } from 'vue'
import type { Visit } from '../api/client'
import type { Step } from './steps'

const props = defineProps<{ steps: Step[] }>()
const visit = defineModel<Visit>({ required: true })
const open = computed(() => props.steps.filter((s) => s.due && !s.said && s.key !== 'look'))
</script>

<template>
  <div class="field">
    <label for="note">Anything else worth knowing</label>
    <textarea
      id="note"
      :value="visit.note ?? ''"
      rows="3"
      maxlength="2000"
      @input="visit.note = ($event.target as HTMLTextAreaElement).value || null"
    ></textarea>
  </div>
  <p v-if="open.length" class="quiet">
    Due and not done on this visit: {{ open.map((s) => s.name.toLowerCase()).join(', ') }}. They stay on the round.
  </p>
</template>

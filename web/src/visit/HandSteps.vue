<script setup lang="ts">
/** How a check goes by hand: its steps, ticked one by one while they are done. The last tick is the check's. */
import { computed, ref, watch } from 'vue'
import type { Schemas } from '../api/client'
import { handsKey } from './hands'

const props = defineProps<{ of: Schemas['CheckHands']; name: string; system: string; today: string; done: boolean }>()
const emit = defineEmits<{ all: [] }>()
/** What was ticked outlives a reload and a walk to another system, and no day: until then, or until the visit is closed. */
const key = computed(() => handsKey(props.system, props.of.check))
function read() {
  const [day, ...steps] = (sessionStorage.getItem(key.value) ?? '').split(' ').filter(Boolean)
  return new Set(day === props.today ? steps : [])
}
const ticked = ref(read())
watch(key, () => (ticked.value = read()))
const isDone = (step: string) => props.done || ticked.value.has(step)
const left = computed(() => props.of.steps.filter((step) => !isDone(step.key)).length)
function keep(now: Set<string>) {
  ticked.value = now
  if (now.size) sessionStorage.setItem(key.value, [props.today, ...now].join(' '))
  else sessionStorage.removeItem(key.value)
}
function turn(step: string) {
  const now = new Set(ticked.value)
  if (!now.delete(step)) now.add(step)
  keep(now)
  if (props.of.steps.every((one) => now.has(one.key))) emit('all')
}
watch(
  () => props.done,
  (now, before) => before && !now && keep(new Set()),
)
</script>

<template>
  <ol :aria-label="`${name}, step by step`">
    <li v-for="(step, n) in of.steps" :key="step.key">
      <label :class="{ ticked: isDone(step.key) }">
        <input type="checkbox" :checked="isDone(step.key)" :disabled="done" @change="turn(step.key)" />
        <span
          ><span class="num quiet">{{ n + 1 }}.</span> {{ step.said }}</span
        >
      </label>
    </li>
  </ol>
  <p v-if="!done && left < of.steps.length" class="small quiet" role="status">
    {{ left === 1 ? 'One step' : `${left} steps` }} left.
  </p>
</template>

<style scoped>
ol {
  display: grid;
  margin: 0;
  padding: 0;
  list-style: none;
}
label {
  display: grid;
  grid-template-columns: 28px minmax(0, 1fr);
  gap: 10px;
  align-items: start;
  padding: 10px 0;
  min-height: var(--touch);
  cursor: pointer;
}
.ticked {
  color: var(--ink-2);
}
input {
  width: 22px;
  height: 22px;
  margin: 0;
}
</style>

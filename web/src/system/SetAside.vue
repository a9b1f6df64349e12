<script setup lang="ts">
/** Advice that is not followed is set aside with a reason; it comes back with the next finding of its kind. */
import { nextTick, ref, useId } from 'vue'
import { ApiError, newId, type Schemas, type SystemView } from '../api/client'
import { recorderAt } from '../parts/recorder'
import { useRecord } from './record'

const props = defineProps<{ view: SystemView; subject: Schemas['Subject']; finding: string }>()
const { recordAndSay } = useRecord()
const id = useId()
const open = ref(false)
const why = ref('')
const busy = ref(false)
const failed = ref('')
const field = ref<HTMLInputElement>()
async function turn() {
  open.value = !open.value
  await nextTick()
  field.value?.focus()
}
async function save() {
  const by = recorderAt(props.view.place.id)
  if (!by) return (failed.value = 'Pick who is recording first, beside the log.')
  if (!why.value.trim()) return (failed.value = 'Say why, in a few words.')
  busy.value = true
  failed.value = ''
  try {
    const body = { kind: 'visit' as const, overruled: { [props.subject]: why.value.trim() } }
    await recordAndSay(props.view.card.id, by, { id: newId(), body }, 'Set aside, until it is found again.')
    open.value = false
  } catch (error) {
    failed.value = error instanceof ApiError ? error.message : 'That could not be recorded.'
  } finally {
    busy.value = false
  }
}
</script>

<template>
  <button v-if="!open" class="button plain" type="button" :aria-label="`Set aside: ${finding}`" @click="turn">
    Set aside
  </button>
  <form v-else class="aside" @submit.prevent="save">
    <div class="field">
      <label :for="id">Why it is set aside; it stands in the log</label>
      <input :id="id" ref="field" v-model="why" maxlength="2000" />
    </div>
    <p v-if="failed" class="wrong" role="alert">{{ failed }}</p>
    <div class="doing">
      <button class="button main" type="submit" :disabled="busy">Set aside</button>
      <button class="button" type="button" @click="turn">Leave it standing</button>
    </div>
  </form>
</template>

<style scoped>
.aside {
  display: grid;
  gap: 8px;
  padding: 8px 0;
}
.doing {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
}
</style>

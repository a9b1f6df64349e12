<script setup lang="ts">
/** A case opened by hand, without an answer that leads to it. */
import { computed, ref } from 'vue'
import { ApiError, newId, type SystemView, sayRefusal } from '../api/client'
import { useKnowledge } from '../api/queries'
import PickList from '../controls/PickList.vue'
import SheetDialog from '../parts/SheetDialog.vue'
import { recorderAt } from '../parts/recorder'
import { useRecord } from '../system/record'

const props = defineProps<{ view: SystemView }>()
const { recordAndSay } = useRecord()
const { data: knowledge } = useKnowledge()
const open = ref(false)
const cause = ref<string | null>(null)
const ports = ref('')
const busy = ref(false)
const failed = ref('')
const causes = computed(() =>
  (knowledge.value?.case_causes ?? []).filter(
    ({ key }) => !props.view.cases.some((one) => one.open && one.key === key),
  ),
)
function begin() {
  ;[cause.value, ports.value, failed.value, open.value] = [null, '', '', true]
}
async function save() {
  const by = recorderAt(props.view.place.id)
  if (!by) return (failed.value = 'Pick who is recording first, beside the log.')
  if (!cause.value) return (failed.value = 'Pick what the case is about.')
  busy.value = true
  failed.value = ''
  try {
    const look = { cause: cause.value, outcome: 'opened' as const, ports: ports.value.trim() || null }
    const entry = { id: newId(), body: { kind: 'visit' as const, cases: [look] } }
    await recordAndSay(props.view.card.id, by, entry, 'A case is open, with looks on dated days.')
    open.value = false
  } catch (error) {
    failed.value =
      error instanceof ApiError ? (sayRefusal(error.fields[0]) ?? error.message) : 'That could not be recorded.'
  } finally {
    busy.value = false
  }
}
</script>

<template>
  <button class="button plain" type="button" @click="begin">Open a case</button>
  <SheetDialog v-model:open="open" title="Open a case">
    <form class="form" @submit.prevent="save">
      <p class="quiet">
        When you know what ails them. When you do not, say what you see on a visit, and the likeliest cause is named
        there. Root rot is a case by itself, once a look at the roots finds it.
      </p>
      <PickList v-model="cause" label="What it is" :choices="causes" none="Not picked yet" />
      <div class="field">
        <label for="case-ports">In which ports (as in 1-3, 7; left empty: not known)</label>
        <input id="case-ports" v-model="ports" autocomplete="off" maxlength="200" />
      </div>
      <p v-if="failed" class="wrong" role="alert">{{ failed }}</p>
      <button class="button main" type="submit" :disabled="busy">Open the case</button>
    </form>
  </SheetDialog>
</template>

<style scoped>
.form {
  display: grid;
  gap: 12px;
}
.plain {
  justify-self: start;
}
</style>

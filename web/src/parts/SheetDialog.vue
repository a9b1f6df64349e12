<script setup lang="ts">
/** A sheet over the page, with focus kept inside and Escape to close. */
import Dialog from 'primevue/dialog'
import { ref } from 'vue'

defineProps<{ title: string }>()
const inside = ref<HTMLElement>()
/** The first field has the focus: what a sheet is opened for is typed at once. */
async function shown() {
  // After the library has given it to its own head.
  await new Promise((on) => setTimeout(on, 60))
  const field = inside.value?.querySelector<HTMLElement>('input:not([type=checkbox]), select, textarea, input')
  field?.focus()
}
const open = defineModel<boolean>('open', { required: true })
</script>

<template>
  <Dialog v-model:visible="open" modal :header="title" :draggable="false" @show="shown">
    <div ref="inside"><slot /></div>
  </Dialog>
</template>

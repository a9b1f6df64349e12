<script setup lang="ts">
/** A sheet over the page, with focus kept inside and Escape to close. */
import Dialog from 'primevue/dialog'
import { ref, watch } from 'vue'
import { askFirst } from './ask'

const props = defineProps<{ title: string; /** Nothing in it has to be saved. */ free?: boolean }>()
const inside = ref<HTMLElement>()
const active = () => document.activeElement
const fields = 'input:not([type=checkbox]), [role=combobox], select, textarea, input'
/** Whenever the library gives the focus, once it has opened or again, it gives it to what asks for it. */
function asksForFocus(field: Element | null | undefined) {
  if (!field?.matches(fields)) return
  inside.value?.querySelectorAll('[autofocus]').forEach((other) => other.removeAttribute('autofocus'))
  field.setAttribute('autofocus', '')
}
/** The first field has the focus: what a sheet is opened for is typed at once. */
async function shown() {
  asksForFocus(inside.value?.querySelector(fields))
  // What is in the sheet may come a moment later.
  await new Promise((on) => setTimeout(on, 60))
  // Whoever is typing already, on a slow device, is not moved to another field.
  const at = active()
  if (at && inside.value?.contains(at) && at.matches(fields)) return
  inside.value?.querySelector<HTMLElement>(fields)?.focus()
}
const open = defineModel<boolean>('open', { required: true })
/** What was typed here is lost with it: that is asked about. */
const typed = ref(false)
watch(open, () => (typed.value = false))
function leave(to: boolean) {
  if (to || !typed.value || props.free) return (open.value = to)
  askFirst({
    title: 'Close without saving?',
    text: 'What was typed here is not kept.',
    yes: 'Close it',
    no: 'Go on typing',
    then: () => (open.value = false),
  })
}
</script>

<template>
  <Dialog :visible="open" modal :header="title" :draggable="false" @show="shown" @update:visible="leave">
    <div ref="inside" @focusin="asksForFocus(active())" @input="typed = true" @change="typed = true">
      <slot />
    </div>
  </Dialog>
</template>

<script setup lang="ts">
/** A sheet over the page, with focus kept inside and Escape to close. */
import Dialog from 'primevue/dialog'

defineProps<{ title: string }>()
const open = defineModel<boolean>('open', { required: true })
</script>

<template>
  <Dialog
    v-model:visible="open"
    modal
    :header="title"
    :draggable="false"
    :pt="{
      mask: { class: 'p-mask' },
      root: { class: 'p-sheet' },
      header: { class: 'p-sheet-head' },
      content: { class: 'p-sheet-body' },
      pcCloseButton: { root: { class: 'p-close', 'aria-label': 'Close' } },
    }"
  >
    <slot />
  </Dialog>
</template>

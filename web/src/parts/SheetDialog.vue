<script setup lang="ts">
/** A sheet over the page, with focus kept inside and Escape to close. */
import Dialog from 'primevue/dialog'

defineProps<{ title: string }>()
const open = defineModel<boolean>('open', { required: true })
</script>

<template>
  <Dialog v-model:visible="open" modal :header="title" :draggable="false">
    <slot />
  </Dialog>
</template>

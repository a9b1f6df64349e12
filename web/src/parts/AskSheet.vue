<script setup lang="ts">
/** The question in front of the page; what was asked for is done after a yes, and only then. */
import ConfirmDialog from 'primevue/confirmdialog'
import { useConfirm } from 'primevue/useconfirm'
import { nextTick, watch } from 'vue'
import { asking } from './ask'

const confirm = useConfirm()
watch(
  asking,
  async (question) => {
    if (!question) return
    await nextTick()
    confirm.require({
      header: question.title,
      message: question.text,
      acceptLabel: question.yes,
      rejectLabel: question.no,
      defaultFocus: 'reject',
      accept: () => void question.then(),
      onHide: () => (asking.value = null),
    })
  },
  { immediate: true },
)
</script>

<template>
  <ConfirmDialog :draggable="false" />
</template>

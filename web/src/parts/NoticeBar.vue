<script setup lang="ts">
import Toast from 'primevue/toast'
import { useToast } from 'primevue/usetoast'
import { nextTick, onMounted, watch } from 'vue'
import { ApiError } from '../api/client'
import { notices, notify, type Notice } from './notice'

const toast = useToast()
function show(list: Notice[]) {
  const notice = list[0]
  if (!notice) return
  toast.removeAllGroups()
  toast.add({ summary: notice.text, detail: notice, life: notice.undo ? 12_000 : 5_000 })
}
watch(notices, show)
/** The first one was there before this bar was loaded; the library shows it once it listens. */
onMounted(() => void nextTick(() => show(notices.value)))

async function undo(message: { detail?: { undo?: () => Promise<void> } }, close: () => void) {
  close()
  try {
    await message.detail?.undo?.()
    notify('Taken back. An entry that was made stays in the log as withdrawn.')
  } catch (error) {
    notify(error instanceof ApiError ? error.message : 'That could not be taken back.')
  }
}
</script>

<template>
  <Toast>
    <template #container="{ message, closeCallback }">
      <div class="notice" role="status">
        <span>{{ message.summary }}</span>
        <button v-if="message.detail?.undo" class="undo" type="button" @click="undo(message, closeCallback)">
          Undo
        </button>
        <button class="undo" type="button" aria-label="Close the notice" @click="closeCallback">×</button>
      </div>
    </template>
  </Toast>
</template>

<style scoped>
.notice {
  display: flex;
  align-items: center;
  gap: 8px;
  padding: 6px 8px 6px 18px;
  background: var(--ink);
  color: var(--paper);
  border-radius: 6px;
  box-shadow: var(--shadow);
}
.notice span {
  flex: 1;
}
.undo {
  min-width: var(--touch);
  min-height: var(--touch);
  border: 0;
  background: none;
  color: inherit;
  font-weight: 700;
  text-decoration: underline;
  cursor: pointer;
}
</style>

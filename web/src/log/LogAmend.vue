<script setup lang="ts">
/** Amends an entry that was found in the log: its system is fetched first, for its units and its people. */
import { computed } from 'vue'
import type { Schemas } from '../api/client'
import { useSystem } from '../api/queries'
import LoadState from '../parts/LoadState.vue'
import RecorderPick from '../parts/RecorderPick.vue'
import SheetDialog from '../parts/SheetDialog.vue'
import AmendSheet from '../system/AmendSheet.vue'

const props = defineProps<{ thread: Schemas['AcrossThread'] }>()
const emit = defineEmits<{ close: [] }>()
const query = useSystem(computed(() => props.thread.system))
const view = computed(() => query.data.value)
const open = computed({ get: () => true, set: () => emit('close') })
</script>

<template>
  <AmendSheet v-if="view" :entry="thread.head" :view="view" @close="emit('close')">
    <RecorderPick :place="view.place.id" :people="view.people" />
  </AmendSheet>
  <SheetDialog v-else v-model:open="open" title="Amend an entry">
    <LoadState :error="query.error.value" @again="query.refetch()" />
  </SheetDialog>
</template>

<script setup lang="ts">
/** A picture of the plants, taken or chosen on this device: made smaller here, encoded anew by the server. */
import { ref } from 'vue'
import { useQueryClient } from '@tanstack/vue-query'
import FileUpload, { type FileUploadSelectEvent } from 'primevue/fileupload'
import { ApiError, newId, type Schemas } from '../api/client'
import { notify } from '../parts/notice'
import { smaller } from './smaller'

const props = defineProps<{ system: string; by: string | undefined; ports?: string | null }>()
const client = useQueryClient()
const busy = ref(false)
const failed = ref('')
const MOST = 16 * 1024 * 1024

async function send(file: File) {
  failed.value = ''
  if (!props.by) return (failed.value = 'Pick who is recording first.')
  busy.value = true
  try {
    const body = await smaller(file)
    if (body.size > MOST) throw new ApiError({ detail: 'That picture is larger than 16 MB. Choose a smaller one.' })
    const query = new URLSearchParams({ picture: newId(), ...(props.ports ? { ports: props.ports } : {}) })
    const answer = await fetch(`/api/systems/${props.system}/pictures?${query}`, {
      method: 'POST',
      headers: { 'Content-Type': body.type.startsWith('image/') ? body.type : 'image/jpeg', 'Mopsel-Person': props.by },
      body,
    })
    if (!answer.ok) throw new ApiError((await answer.json()) as Schemas['Problem'])
    await client.invalidateQueries({ queryKey: ['pictures', props.system] })
    notify('The picture is kept.')
  } catch (error) {
    failed.value =
      error instanceof ApiError ? error.message : 'The picture could not be sent: no connection. Take it again later.'
  } finally {
    busy.value = false
  }
}
function chosen({ files }: FileUploadSelectEvent) {
  const [file] = files as File[]
  if (file) void send(file)
}
</script>

<template>
  <div class="add">
    <FileUpload
      mode="basic"
      accept="image/*"
      custom-upload
      auto
      :choose-label="busy ? 'Sending…' : 'Add a picture'"
      :disabled="busy"
      @select="chosen"
    />
    <p v-if="failed" class="wrong" role="alert">{{ failed }}</p>
  </div>
</template>

<style scoped>
.add {
  display: grid;
  gap: 4px;
  justify-items: start;
}
</style>

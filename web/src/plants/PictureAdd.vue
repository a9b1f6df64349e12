<script setup lang="ts">
/** A picture of the plants, taken or chosen on this device: made smaller here, encoded anew by the server. */
import { ref, shallowRef } from 'vue'
import { useQueryClient } from '@tanstack/vue-query'
import FileUpload, { type FileUploadSelectEvent } from 'primevue/fileupload'
import { api, ApiError, as, ask, newId } from '../api/client'
import { notify } from '../parts/notice'
import { smaller } from './smaller'
import { readAnew } from '../writes/anew'

const props = defineProps<{ system: string; by: string | undefined; ports?: string | null }>()
const client = useQueryClient()
const busy = ref(false)
const failed = ref('')
const MOST = 16 * 1024 * 1024

/** What could not be sent: a camera's picture may stand nowhere else. */
const unsent = shallowRef<File | null>(null)

async function send(file: File) {
  failed.value = ''
  unsent.value = file
  if (!props.by) return (failed.value = 'Pick who is recording first.')
  busy.value = true
  try {
    const body = await smaller(file)
    if (body.size > MOST) throw new ApiError({ detail: 'That picture is larger than 16 MB. Choose a smaller one.' })
    await ask(
      api.POST('/api/systems/{id}/pictures', {
        params: {
          path: { id: props.system },
          query: { picture: newId(), ...(props.ports ? { ports: props.ports } : {}) },
          header: as(props.by),
        },
        headers: { 'Content-Type': body.type.startsWith('image/') ? body.type : 'image/jpeg' },
        body: body as unknown as string,
        bodySerializer: (bytes: unknown) => bytes as Blob,
      }),
    )
    await readAnew(client, { queryKey: ['pictures', props.system] })
    unsent.value = null
    notify('The picture is kept.')
  } catch (error) {
    failed.value =
      error instanceof ApiError && !error.offline
        ? error.message
        : 'The picture could not be sent: no connection. It waits here while this page stays open.'
    if (error instanceof ApiError && !error.offline) unsent.value = null
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
    <button v-if="unsent && failed" class="button plain" type="button" :disabled="busy" @click="send(unsent)">
      Send the picture again
    </button>
  </div>
</template>

<style scoped>
.add {
  display: grid;
  gap: 4px;
  justify-items: start;
}
</style>

<script setup lang="ts">
/** A tablet joins a class: by the code on the board, or by the address that its camera read. */
import { useQueryClient } from '@tanstack/vue-query'
import { onMounted, ref } from 'vue'
import { useRouter } from 'vue-router'
import { api, ApiError, ask, sayRefusal } from '../api/client'
import { setSession } from './session'

const client = useQueryClient()
const router = useRouter()
const code = ref(location.hash.slice(1))
const wrong = ref('')
const busy = ref(false)

async function join() {
  if (busy.value) return
  busy.value = true
  wrong.value = ''
  try {
    setSession(await ask(api.POST('/api/session/join', { body: { code: code.value } })))
    void client.resetQueries()
    await router.replace('/room')
  } catch (error) {
    if (!(error instanceof ApiError)) throw error
    wrong.value = sayRefusal(error.fields[0]) ?? error.message
  } finally {
    busy.value = false
  }
}
onMounted(() => {
  if (code.value) void join()
})
</script>

<template>
  <section class="door">
    <h1>Join the class</h1>
    <form class="form" @submit.prevent="join">
      <div class="field">
        <label for="class-code">The code on the board</label>
        <input
          id="class-code"
          v-model="code"
          class="code"
          autocomplete="off"
          autocapitalize="characters"
          spellcheck="false"
          maxlength="12"
          required
          :aria-invalid="wrong ? true : undefined"
          aria-describedby="class-code-says"
        />
        <p id="class-code-says">
          <span v-if="wrong" class="wrong" role="alert">{{ wrong }}</span>
        </p>
      </div>
      <button class="button main" type="submit" :disabled="busy">Join</button>
    </form>
  </section>
</template>

<style scoped>
.door {
  display: grid;
  gap: 16px;
  max-width: 420px;
  margin: 32px auto 0;
}
.form {
  display: grid;
  gap: 14px;
}
.code {
  font-size: 28px;
  letter-spacing: 0.2em;
  text-transform: uppercase;
}
</style>

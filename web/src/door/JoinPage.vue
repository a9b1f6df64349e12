<script setup lang="ts">
/** A tablet joins a class: by the code on the board, or by the address that its camera read. */
import { useQueryClient } from '@tanstack/vue-query'
import { onMounted, ref } from 'vue'
import { useRouter } from 'vue-router'
import { api, ask } from '../api/client'
import { setSession } from './session'
import { useSend } from './useSend'

const client = useQueryClient()
const router = useRouter()
const code = ref(location.hash.slice(1))
const { busy, rest, send } = useSend([])

const join = () =>
  send(async () => {
    setSession(await ask(api.POST('/api/session/join', { body: { code: code.value } })))
    void client.resetQueries()
    await router.replace('/room')
  })
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
          :aria-invalid="rest.length ? true : undefined"
          aria-describedby="class-code-says"
        />
        <p id="class-code-says">
          <span v-if="rest.length" class="wrong" role="alert">{{ rest[0] }}</span>
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

<script setup lang="ts">
/** The link in a letter that asks whether letters are wanted: it is said by a tap, never by opening alone. */
import { ref } from 'vue'
import { RouterLink, useRoute } from 'vue-router'
import { api, ask } from '../api/client'
import { useSend } from './useSend'

const route = useRoute()
const token = route.hash.slice(1)
const done = ref(false)
const { send, busy, rest } = useSend([])
const yes = () =>
  send(async () => {
    await ask(api.POST('/api/reminders/yes', { body: { token } }))
    done.value = true
  })
</script>

<template>
  <section class="page">
    <h1>Reminders by mail</h1>
    <template v-if="done">
      <p>From now on Mopsel sends you reminders. You can stop them at any time under People and phones.</p>
      <p><RouterLink class="button" to="/">To the round</RouterLink></p>
    </template>
    <template v-else>
      <p>Should Mopsel send reminders to the address where you got this link?</p>
      <p v-if="rest.length" class="wrong" role="alert">
        {{ rest[0] }} A link works for seven days. You can ask for another under People and phones.
      </p>
      <p>
        <button class="button main" type="button" :disabled="busy || !token" @click="yes">Yes, send reminders</button>
      </p>
      <p class="quiet">If you did not ask for reminders, close this page. No mail will come.</p>
    </template>
  </section>
</template>

<style scoped>
.page {
  display: grid;
  gap: 16px;
  max-width: 560px;
}
</style>

<script setup lang="ts">
/** Signing in. What was open, and what was typed in it, is there again afterwards. */
import { useQueryClient } from '@tanstack/vue-query'
import { computed, onMounted, ref } from 'vue'
import { RouterLink } from 'vue-router'
import { api, ask } from '../api/client'
import { waiting } from '../writes/queue'
import { session, setSession } from './session'
import PasswordField from './PasswordField.vue'
import { useSend } from './useSend'

const client = useQueryClient()
const name = ref('')
const password = ref('')
const { busy, rest, send } = useSend([])
const first = computed(() => session.value && !session.value.any_account)
const field = ref<HTMLInputElement>()
onMounted(() => field.value?.focus())

const signIn = () =>
  send(async () => {
    setSession(await ask(api.POST('/api/session', { body: { name: name.value, password: password.value } })))
    // Nothing that somebody else read on this device is shown to them.
    void client.resetQueries()
  })
</script>

<template>
  <section v-if="first" class="door">
    <h1>Nobody can sign in yet</h1>
    <p>
      Mopsel showed a link when it was started. Open that link once and make your account. Then you let the others in.
    </p>
    <p class="quiet small">The link is good for seven days. Starting Mopsel again shows a new one.</p>
  </section>
  <section v-else class="door">
    <h1>Sign in</h1>
    <p v-if="waiting" class="kept">What you typed is kept on this device. It is sent after you sign in.</p>
    <form class="form" @submit.prevent="signIn">
      <div class="field">
        <label for="door-name">Name</label>
        <input
          id="door-name"
          ref="field"
          v-model="name"
          autocomplete="username"
          autocapitalize="words"
          maxlength="80"
          required
        />
      </div>
      <PasswordField v-model="password" name="door-password" :wrong="rest[0] ?? ''" />
      <button class="button main" type="submit" :disabled="busy">{{ busy ? 'Signing in' : 'Sign in' }}</button>
    </form>
    <p><RouterLink class="button" to="/class-in">Join a class with a code</RouterLink></p>
    <p class="small quiet">Forgotten? A caretaker makes you a new link under <em>People and phones</em>.</p>
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
.kept {
  padding: 8px 14px;
  border-left: 4px solid var(--water);
  background: var(--sheet);
}
</style>

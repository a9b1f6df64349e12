<script setup lang="ts">
/** The devices on which one is signed in; another password; signing out. */
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { api, ApiError, ask } from '../api/client'
import { notify } from '../parts/notice'
import { dayAndTime } from '../parts/placeTime'
import { waiting } from '../writes/queue'
import PasswordField from './PasswordField.vue'
import { useSend } from './useSend'
import { account, loadSession, setSession } from './session'

const client = useQueryClient()
const query = useQuery({ queryKey: ['devices'], queryFn: () => ask(api.GET('/api/session/devices')) })
const devices = computed(() => query.data.value ?? [])
const changing = ref(false)
const before = ref('')
const password = ref('')
const { fault, rest, send } = useSend(['before', 'password'])

async function doing(what: () => Promise<unknown>) {
  try {
    await what()
    await query.refetch()
  } catch (error) {
    notify(error instanceof ApiError ? error.message : String(error))
  }
}
const end = (id: string) => doing(() => ask(api.DELETE('/api/session/devices/{id}', { params: { path: { id } } })))
const endOthers = () => doing(() => ask(api.DELETE('/api/session/devices')))
const signOut = () =>
  doing(async () => {
    await ask(api.DELETE('/api/session'))
    client.getQueryCache().clear()
    await loadSession()
  })
const choose = () =>
  send(async () => {
    const body = { before: before.value, password: password.value }
    setSession(await ask(api.PUT('/api/session/password', { body })))
    ;[before.value, password.value, changing.value] = ['', '', false]
    notify('Your password is changed. Other devices are signed out.')
    await query.refetch()
  })
</script>

<template>
  <section v-if="account" aria-label="Your devices">
    <h2>Where you are signed in</h2>
    <ul>
      <li v-for="one in devices" :key="one.id">
        <span>
          <strong>{{ one.this ? 'This device' : one.device }}</strong>
          <span class="small quiet"> since {{ dayAndTime(one.began) }}</span>
        </span>
        <button
          v-if="!one.this"
          class="button plain"
          type="button"
          :aria-label="`Sign out: ${one.device}, since ${dayAndTime(one.began)}`"
          @click="end(one.id)"
        >
          Sign out there
        </button>
      </li>
    </ul>
    <p v-if="waiting" class="small">
      Something you typed here has not been sent yet. It stays on this device until you sign in again.
    </p>
    <div class="doing">
      <button class="button" type="button" @click="signOut">Sign out</button>
      <button v-if="devices.length > 1" class="button" type="button" @click="endOthers">
        Sign out everywhere else
      </button>
      <button v-if="!changing" class="button" type="button" @click="changing = true">Change my password</button>
    </div>
    <form v-if="changing" class="form" @submit.prevent="choose">
      <input class="hidden" aria-hidden="true" tabindex="-1" autocomplete="username" :value="account.name" readonly />
      <PasswordField v-model="before" name="password-before" label="Your password now" :wrong="fault('before')" />
      <PasswordField
        v-model="password"
        name="password-next"
        label="The new one"
        hint="At least 10 characters."
        :wrong="fault('password')"
        chosen
      />
      <p v-for="says in rest" :key="says" class="wrong" role="alert">{{ says }}</p>
      <div class="doing">
        <button class="button main" type="submit">Change it</button>
        <button class="button plain" type="button" @click="changing = false">Cancel</button>
      </div>
    </form>
  </section>
</template>

<style scoped>
section {
  display: grid;
  gap: 10px;
  border-top: 2px solid var(--ink);
  padding-top: 12px;
}
li {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  justify-content: space-between;
  min-height: var(--touch);
  border-bottom: 1px solid var(--line);
}
.doing {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
}
.form {
  display: grid;
  gap: 14px;
  max-width: 420px;
}
</style>

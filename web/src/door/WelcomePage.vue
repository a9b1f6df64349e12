<script setup lang="ts">
/** What a link leads to: choosing a password, or making the first account. */
import { useQueryClient } from '@tanstack/vue-query'
import { onMounted, ref, watch } from 'vue'
import { useRouter } from 'vue-router'
import { api, ApiError, ask, newId, type Schemas } from '../api/client'
import { notify } from '../parts/notice'
import { dayAndTime } from '../parts/placeTime'
import { calledSo } from './adults'
import PasswordField from './PasswordField.vue'
import { setSession } from './session'
import { roleOf } from './roles'
import { useSend } from './useSend'
import WhoAtPlaces from './WhoAtPlaces.vue'

const client = useQueryClient()
const router = useRouter()
const token = location.hash.slice(1)
const link = ref<Schemas['LinkView']>()
const failed = ref('')
const name = ref('')
const password = ref('')
const people = ref<string[]>([])
const { busy, fault, rest, send } = useSend(['name', 'password'])

onMounted(async () => {
  try {
    link.value = await ask(api.POST('/api/session/link', { body: { token } }))
  } catch (error) {
    failed.value = error instanceof ApiError ? error.message : String(error)
  }
})
watch(name, (called) => {
  const same = calledSo(link.value?.people ?? [], called)
  if (same.length) people.value = same
})

const id = newId()
const choose = () =>
  send(async () => {
    const first = link.value?.first ? { name: name.value, id, people: people.value } : {}
    const now = await ask(api.POST('/api/session/redeem', { body: { token, password: password.value, ...first } }))
    setSession(now)
    void client.resetQueries()
    notify(`Welcome, ${now.account?.name ?? ''}. You are signed in on this device.`)
    await router.replace('/')
  })
</script>

<template>
  <section class="door">
    <template v-if="link">
      <h1>{{ link.first ? 'Make your account' : `Welcome, ${link.name}` }}</h1>
      <p v-if="link.first">It is the first one: it sees every place, and lets the others in.</p>
      <ul v-else class="at">
        <li v-for="one in link.people" :key="one.person">{{ roleOf(one.role).you }} {{ one.place_name }}.</li>
      </ul>
      <form class="form" @submit.prevent="choose">
        <div v-if="link.first" class="field">
          <label for="welcome-name">Your name</label>
          <input id="welcome-name" v-model="name" autocomplete="username" maxlength="60" required />
          <p v-if="fault('name')" class="wrong" role="alert">{{ fault('name') }}</p>
        </div>
        <input
          v-else
          class="hidden"
          aria-hidden="true"
          tabindex="-1"
          autocomplete="username"
          :value="link.name"
          readonly
        />
        <WhoAtPlaces
          v-if="link.first"
          v-model="people"
          :people="link.people"
          name="welcome"
          says="Who you are at each place"
        />
        <PasswordField
          v-model="password"
          name="welcome-password"
          label="Choose a password"
          hint="At least 10 characters. Four words in a row are easy to keep."
          :wrong="fault('password')"
          chosen
        />
        <p v-for="says in rest" :key="says" class="wrong" role="alert">{{ says }}</p>
        <button class="button main" type="submit" :disabled="busy">
          {{ link.first ? 'Make the account' : 'Choose it, and sign in' }}
        </button>
      </form>
      <p class="small quiet">This link works once, until {{ dayAndTime(link.ends) }}.</p>
    </template>
    <template v-else-if="failed">
      <h1>This link does not work</h1>
      <p>{{ failed }}</p>
    </template>
    <p v-else class="quiet">One moment.</p>
  </section>
</template>

<style scoped>
.door {
  display: grid;
  gap: 16px;
  max-width: 460px;
  margin: 24px auto 0;
}
.form {
  display: grid;
  gap: 14px;
}
.at {
  display: grid;
  gap: 4px;
}
</style>

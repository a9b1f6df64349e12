<script setup lang="ts">
/** What a link leads to: choosing a password, or making the first account. */
import { useQueryClient } from '@tanstack/vue-query'
import { computed, onMounted, ref, watch } from 'vue'
import { useRouter } from 'vue-router'
import { api, ApiError, ask, newId, sayRefusal, type Schemas } from '../api/client'
import { notify } from '../parts/notice'
import { dayAndTime } from '../parts/placeTime'
import { calledSo } from './adults'
import PasswordField from './PasswordField.vue'
import { setSession } from './session'
import WhoAtPlaces from './WhoAtPlaces.vue'

const client = useQueryClient()
const router = useRouter()
const token = location.hash.slice(1)
const link = ref<Schemas['LinkView']>()
const failed = ref('')
const faults = ref<Schemas['Refusal'][]>([])
const name = ref('')
const password = ref('')
const people = ref<string[]>([])
const busy = ref(false)
const fault = (field: string) => sayRefusal(faults.value.find((one) => one.field === field)) ?? ''
const rest = computed(() => faults.value.filter((one) => !['name', 'password'].includes(one.field)).map(sayRefusal))

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
async function choose() {
  if (busy.value) return
  busy.value = true
  faults.value = []
  const first = link.value?.first ? { name: name.value, id, people: people.value } : {}
  try {
    const now = await ask(api.POST('/api/session/redeem', { body: { token, password: password.value, ...first } }))
    setSession(now)
    // Nothing that somebody else read on this device is shown to them.
    void client.resetQueries()
    notify(`Welcome, ${now.account?.name ?? ''}. You are signed in on this device.`)
    await router.replace('/')
  } catch (error) {
    if (!(error instanceof ApiError)) throw error
    faults.value = error.fields
    if (!error.fields.length) failed.value = error.message
  } finally {
    busy.value = false
  }
}
const ROLE: Record<string, string> = {
  caretaker: 'You look after',
  helper: 'You help at',
  reader: 'You see',
  service: 'You come on service to',
}
</script>

<template>
  <section class="door">
    <template v-if="link">
      <h1>{{ link.first ? 'Make your account' : `Welcome, ${link.name}` }}</h1>
      <p v-if="link.first">It is the first one: it sees every place, and lets the others in.</p>
      <ul v-else class="at">
        <li v-for="one in link.people" :key="one.person">{{ ROLE[one.role] ?? 'You are at' }} {{ one.place_name }}.</li>
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
          says="Who you are, where"
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
        <p v-if="failed" class="wrong" role="alert">{{ failed }}</p>
        <button class="button main" type="submit" :disabled="busy">
          {{ link.first ? 'Make the account' : 'Choose it, and sign in' }}
        </button>
      </form>
      <p class="small quiet">This link works once, until {{ dayAndTime(link.ends) }}.</p>
    </template>
    <template v-else-if="failed">
      <h1>This link does not open anything</h1>
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

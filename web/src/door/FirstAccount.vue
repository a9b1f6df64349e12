<script setup lang="ts">
/** From one computer to several people: the first account. */
import { useQueryClient } from '@tanstack/vue-query'
import { computed, ref, watch } from 'vue'
import { api, ask, newId } from '../api/client'
import { usePlaces } from '../api/queries'
import { lastName, recorderAt } from '../parts/recorder'
import { notify } from '../parts/notice'
import { adultsOf, calledSo } from './adults'
import PasswordField from './PasswordField.vue'
import { setSession } from './session'
import { useSend } from './useSend'
import WhoAtPlaces from './WhoAtPlaces.vue'

const client = useQueryClient()
const places = usePlaces()
const adults = computed(() => adultsOf(places.data.value ?? []))
const name = ref(lastName.value)
const password = ref('')
const people = ref<string[]>([])
const { busy, fault, rest, send } = useSend(['name', 'password'])
// Whoever records on this computer is most likely the one who sits at it.
watch(
  adults,
  (all) => {
    if (!people.value.length)
      people.value = all.filter((one) => recorderAt(one.place) === one.person).map((one) => one.person)
  },
  { immediate: true },
)
watch(name, (called) => {
  const same = calledSo(adults.value, called)
  if (same.length) people.value = same
})
const id = newId()
const make = () =>
  send(async () => {
    const body = { id, name: name.value, password: password.value, people: people.value }
    setSession(await ask(api.POST('/api/session/first', { body })))
    void client.resetQueries()
    notify('Your account is made, and you are signed in.')
  })
</script>

<template>
  <section class="card form">
    <h2>Let others in</h2>
    <p>
      Make your own account first. After that, everybody signs in. To use phones and tablets too, start Mopsel with
      <code>mopsel serve --lan</code>.
    </p>
    <form class="form" @submit.prevent="make">
      <div class="field">
        <label for="first-name">Your name</label>
        <input id="first-name" v-model="name" autocomplete="username" maxlength="60" required />
        <p v-if="fault('name')" class="wrong" role="alert">{{ fault('name') }}</p>
      </div>
      <PasswordField
        v-model="password"
        name="first-password"
        label="Choose a password"
        hint="At least 10 characters. Four words in a row are easy to keep."
        :wrong="fault('password')"
        chosen
      />
      <WhoAtPlaces v-model="people" :people="adults" name="first" says="Who you are at each place" />
      <p v-for="says in rest" :key="says" class="wrong" role="alert">{{ says }}</p>
      <button class="button main" type="submit" :disabled="busy">Make my account</button>
    </form>
  </section>
</template>

<style scoped>
.form {
  display: grid;
  gap: 14px;
  max-width: 520px;
}
</style>

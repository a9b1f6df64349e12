<script setup lang="ts">
/** An account: its name, and whom it is at which place. */
import { ref } from 'vue'
import { api, ask, newId, type Schemas } from '../api/client'
import { account as own } from './session'
import { useSend } from './useSend'
import WhoAtPlaces, { type Somebody } from './WhoAtPlaces.vue'

const props = defineProps<{ people: Somebody[]; account?: Schemas['AccountView'] }>()
const emit = defineEmits<{ done: [account: Schemas['AccountView']] }>()
const name = ref(props.account?.name ?? '')
const owner = ref(props.account?.owner ?? false)
const people = ref(props.account?.people.map((one) => one.person) ?? [])
const id = props.account?.id ?? newId()
const { busy, fault, rest, send } = useSend(['name'])
// Somebody who is added is most often one of the people who are there.
function called(chosen: string[]) {
  people.value = chosen
  const last = props.people.find((one) => one.person === chosen[chosen.length - 1])
  if (!name.value && last) name.value = last.name
}
const keep = () =>
  send(async () => {
    const body = { version: props.account?.version ?? 0, name: name.value, owner: owner.value, people: people.value }
    emit('done', await ask(api.PUT('/api/accounts/{id}', { params: { path: { id } }, body })))
  })
</script>

<template>
  <form class="form" @submit.prevent="keep">
    <WhoAtPlaces
      :model-value="people"
      :people="props.people"
      name="account"
      says="Who they are at each place"
      @update:model-value="called"
    />
    <p v-if="!props.people.length" class="quiet">
      Everybody at your places has an account already. To add somebody else, add them to a place under Set-up first.
    </p>
    <div class="field">
      <label for="account-name">Signs in as</label>
      <input id="account-name" v-model="name" maxlength="60" required autocomplete="off" />
      <p v-if="fault('name')" class="wrong" role="alert">{{ fault('name') }}</p>
    </div>
    <label v-if="own?.owner" class="tick"
      ><input v-model="owner" type="checkbox" /> Looks after everything, at every place</label
    >
    <p v-for="says in rest" :key="says" class="wrong" role="alert">{{ says }}</p>
    <button class="button main" type="submit" :disabled="busy">{{ account ? 'Save' : 'Let them in' }}</button>
  </form>
</template>

<style scoped>
.form {
  display: grid;
  gap: 14px;
}
</style>

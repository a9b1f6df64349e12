<script setup lang="ts">
/** An account: its name, and whom it is at which place. */
import { computed, ref } from 'vue'
import { api, ApiError, ask, newId, sayRefusal, type Schemas } from '../api/client'
import { account as own } from './session'
import WhoAtPlaces, { type Somebody } from './WhoAtPlaces.vue'

const props = defineProps<{ people: Somebody[]; account?: Schemas['AccountView'] }>()
const emit = defineEmits<{ done: [account: Schemas['AccountView']] }>()
const name = ref(props.account?.name ?? '')
const owner = ref(props.account?.owner ?? false)
const people = ref(props.account?.people.map((one) => one.person) ?? [])
const faults = ref<Schemas['Refusal'][]>([])
const failed = ref('')
const busy = ref(false)
const id = props.account?.id ?? newId()
const fault = (field: string) => sayRefusal(faults.value.find((one) => one.field === field)) ?? ''
const rest = computed(() => faults.value.filter((one) => one.field !== 'name').map(sayRefusal))
// Somebody who is added is most often one of the people who are there.
function called(chosen: string[]) {
  people.value = chosen
  const last = props.people.find((one) => one.person === chosen[chosen.length - 1])
  if (!name.value && last) name.value = last.name
}
async function send() {
  if (busy.value) return
  busy.value = true
  faults.value = []
  failed.value = ''
  const body = { version: props.account?.version ?? 0, name: name.value, owner: owner.value, people: people.value }
  try {
    emit('done', await ask(api.PUT('/api/accounts/{id}', { params: { path: { id } }, body })))
  } catch (error) {
    if (!(error instanceof ApiError)) throw error
    faults.value = error.fields
    if (!error.fields.length) failed.value = error.message
  } finally {
    busy.value = false
  }
}
</script>

<template>
  <form class="form" @submit.prevent="send">
    <WhoAtPlaces
      :model-value="people"
      :people="people.length || props.people.length ? props.people : []"
      name="account"
      says="Who they are, where"
      @update:model-value="called"
    />
    <p v-if="!props.people.length" class="quiet">
      Everybody at your places has an account. Add a person to a place under Set-up first.
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
    <p v-if="failed" class="wrong" role="alert">{{ failed }}</p>
    <button class="button main" type="submit" :disabled="busy">{{ account ? 'Save' : 'Let them in' }}</button>
  </form>
</template>

<style scoped>
.form {
  display: grid;
  gap: 14px;
}
</style>

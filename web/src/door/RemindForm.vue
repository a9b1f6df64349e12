<script setup lang="ts">
/** What somebody is told by mail, and when: off until they wish it, and nothing before their address said yes. */
import { useQuery } from '@tanstack/vue-query'
import { ref, watch } from 'vue'
import { RouterLink } from 'vue-router'
import { api, ask, type Schemas } from '../api/client'
import { lastPicked } from '../parts/recorder'
import TimeField from './TimeField.vue'
import { useSend } from './useSend'

type Wish = Schemas['ReminderWish']
const query = useQuery({
  queryKey: ['reminder', lastPicked],
  queryFn: () => ask(api.GET('/api/reminders')),
  retry: false,
})
const wish = ref<Wish>({ address: '', digest: '07:00:00', urgent: true, quiet_from: '21:00:00', quiet_to: '07:00:00' })
watch(
  () => query.data.value,
  (now) => {
    if (now?.wish) wish.value = { ...now.wish }
  },
  { immediate: true },
)
const { send, busy, rest, fault } = useSend(['address'])
const keep = () =>
  send(async () => {
    await ask(api.PUT('/api/reminders', { body: wish.value }))
    await query.refetch()
  })
const end = () =>
  send(async () => {
    await ask(api.DELETE('/api/reminders'))
    await query.refetch()
  })
</script>

<template>
  <section v-if="query.data.value?.sends" class="remind" aria-labelledby="remind-head">
    <h2 id="remind-head">Reminders by mail</h2>
    <p v-if="query.data.value.wish && !query.data.value.confirmed" class="state" role="status">
      A mail is on its way to {{ query.data.value.wish.address }}. Open the link in it to start the reminders.
      <RouterLink v-if="query.data.value.stand_in" to="/mailbox">Look into the demo’s mailbox</RouterLink>
    </p>
    <p v-else-if="query.data.value.wish" class="quiet">
      Mopsel sends reminders to {{ query.data.value.wish.address }}.
      <RouterLink v-if="query.data.value.stand_in" to="/mailbox">Look into the demo’s mailbox</RouterLink>
    </p>
    <p v-else class="quiet">
      Mopsel can send you mail: the day’s list each morning, and a message when something cannot wait.
    </p>
    <form @submit.prevent="keep">
      <div class="field">
        <label for="remind-address">Your mail address</label>
        <input id="remind-address" v-model.trim="wish.address" type="email" autocomplete="email" required />
        <p v-if="fault('address')" class="wrong">{{ fault('address') }}</p>
      </div>
      <label class="tick">
        <input
          type="checkbox"
          :checked="wish.digest != null"
          @change="wish.digest = ($event.target as HTMLInputElement).checked ? '07:00:00' : null"
        />
        The day’s list, if anything is due
      </label>
      <TimeField v-if="wish.digest != null" id="remind-digest" v-model="wish.digest" label="Sent at" />
      <label class="tick"><input v-model="wish.urgent" type="checkbox" /> A message when something cannot wait</label>
      <div v-if="wish.urgent" class="span">
        <TimeField id="remind-from" v-model="wish.quiet_from" label="Quiet from" />
        <TimeField id="remind-to" v-model="wish.quiet_to" label="until" />
      </div>
      <p v-if="wish.urgent" class="small quiet">During these hours Mopsel writes only if people are in danger.</p>
      <p v-for="said in rest" :key="said" class="wrong" role="alert">{{ said }}</p>
      <p class="doing">
        <button class="button main" type="submit" :disabled="busy">
          {{ query.data.value.wish ? 'Save' : 'Send me reminders' }}
        </button>
        <button v-if="query.data.value.wish" class="button plain" type="button" :disabled="busy" @click="end">
          Stop the reminders
        </button>
      </p>
    </form>
  </section>
</template>

<style scoped>
.remind,
form {
  display: grid;
  gap: 12px;
  justify-items: start;
}
.state {
  padding: 10px 14px;
  border-left: 4px solid var(--watch);
  background: var(--watch-wash);
}
.span,
.doing {
  display: flex;
  flex-wrap: wrap;
  gap: 12px;
}
.field {
  min-width: min(320px, 100%);
}
.span :deep(.field) {
  min-width: 140px;
}
</style>

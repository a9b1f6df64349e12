<script setup lang="ts">
/** What somebody is told by mail, and when: off until they wish it, and nothing before their address said yes. */
import { useQuery } from '@tanstack/vue-query'
import { ref, watch } from 'vue'
import { RouterLink } from 'vue-router'
import { api, ask, type Schemas } from '../api/client'
import { lastPicked } from '../parts/recorder'
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
/** A time as a field shows it. */
const shown = (time: string | null | undefined) => time?.slice(0, 5) ?? ''
const timed = (typed: string) => `${typed}:00`
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
      A letter is on its way to {{ query.data.value.wish.address }}. Open the link in it: then the reminders begin.
      <RouterLink v-if="query.data.value.stand_in" to="/mailbox">Look into the demo’s mailbox</RouterLink>
    </p>
    <p v-else-if="query.data.value.wish" class="quiet">
      Mopsel writes to {{ query.data.value.wish.address }}.
      <RouterLink v-if="query.data.value.stand_in" to="/mailbox">Look into the demo’s mailbox</RouterLink>
    </p>
    <p v-else class="quiet">Mopsel can write to you: a list in the morning, and a word when something cannot wait.</p>
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
        The day’s list, where anything is due
      </label>
      <div v-if="wish.digest != null" class="field">
        <label for="remind-digest">Sent at</label>
        <input
          id="remind-digest"
          type="time"
          required
          :value="shown(wish.digest)"
          @change="wish.digest = timed(($event.target as HTMLInputElement).value)"
        />
      </div>
      <label class="tick"><input v-model="wish.urgent" type="checkbox" /> A word when something cannot wait</label>
      <div v-if="wish.urgent" class="span">
        <div class="field">
          <label for="remind-from">Quiet from</label>
          <input
            id="remind-from"
            type="time"
            required
            :value="shown(wish.quiet_from)"
            @change="wish.quiet_from = timed(($event.target as HTMLInputElement).value)"
          />
        </div>
        <div class="field">
          <label for="remind-to">until</label>
          <input
            id="remind-to"
            type="time"
            required
            :value="shown(wish.quiet_to)"
            @change="wish.quiet_to = timed(($event.target as HTMLInputElement).value)"
          />
        </div>
      </div>
      <p v-if="wish.urgent" class="small quiet">In between only a danger to people is told.</p>
      <p v-for="said in rest" :key="said" class="wrong" role="alert">{{ said }}</p>
      <p class="doing">
        <button class="button main" type="submit" :disabled="busy">
          {{ query.data.value.wish ? 'Save' : 'Write to me' }}
        </button>
        <button v-if="query.data.value.wish" class="button plain" type="button" :disabled="busy" @click="end">
          No more letters
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
.span .field {
  min-width: 140px;
}
</style>

<script setup lang="ts">
/** What files and loggers brought: each of them can be taken back whole. */
import { useQuery } from '@tanstack/vue-query'
import { ref } from 'vue'
import { api, ApiError, ask, type Schemas } from '../api/client'
import { useRefresh } from '../api/queries'
import { notify } from '../parts/notice'
import { dayAndTime } from '../parts/placeTime'
import SheetDialog from '../parts/SheetDialog.vue'
import { counted } from './send'

type Delivery = Schemas['DeliveryView']
const refresh = useRefresh()
const query = useQuery({
  queryKey: ['deliveries'],
  queryFn: () => ask(api.GET('/api/readings/deliveries')),
})
const open = ref(false)
const taking = ref<Delivery | null>(null)
const reason = ref('')
const wrong = ref('')
function begin(delivery: Delivery) {
  taking.value = delivery
  reason.value = ''
  wrong.value = ''
  open.value = true
}
async function take() {
  if (!taking.value) return
  try {
    await ask(
      api.POST('/api/readings/deliveries/{id}/take-back', {
        params: { path: { id: taking.value.id } },
        body: { reason: reason.value },
      }),
    )
    open.value = false
    notify(`Taken back: ${taking.value.source}.`)
    void refresh()
  } catch (error) {
    wrong.value = error instanceof ApiError ? error.message : 'It could not be taken back. Try again.'
  }
}
</script>

<template>
  <section v-if="query.data.value?.length" class="deliveries" aria-labelledby="came-head">
    <h2 id="came-head">What files and loggers brought</h2>
    <ul>
      <li v-for="one in query.data.value" :key="one.id" :class="{ back: one.taken_back }">
        <p>
          <strong>{{ one.source }}</strong>
          <span class="small quiet"
            >{{ counted(one.readings, 'line', 'lines') }}, {{ dayAndTime(one.recorded) }}, {{ one.by }}</span
          >
          <span v-if="one.taken_back" class="small"
            >Taken back on {{ dayAndTime(one.taken_back) }}: {{ one.reason }}</span
          >
        </p>
        <button v-if="!one.taken_back" class="button plain" type="button" @click="begin(one)">
          Take back<span class="hidden"> {{ one.source }}</span>
        </button>
      </li>
    </ul>
    <SheetDialog v-model:open="open" title="Take it back">
      <form class="take" @submit.prevent="take">
        <p>
          {{ counted(taking?.readings ?? 0, 'line', 'lines') }} of {{ taking?.source }} are taken out, and what was
          judged by them is judged anew. Visits are withdrawn and stay in the log with your reason. What another file
          brought as well goes with them; bring that one again.
        </p>
        <div class="field">
          <label for="take-reason">Why</label>
          <input id="take-reason" v-model="reason" type="text" maxlength="500" :aria-invalid="!!wrong" />
          <p v-if="wrong" class="wrong" role="alert">{{ wrong }}</p>
        </div>
        <button class="button main" type="submit" :disabled="!reason.trim()">Take it back</button>
      </form>
    </SheetDialog>
  </section>
</template>

<style scoped>
.deliveries {
  display: grid;
  gap: 10px;
  padding-top: 10px;
  border-top: 3px solid var(--water);
}
ul {
  margin: 0;
  padding: 0;
  list-style: none;
}
li {
  display: flex;
  gap: 14px;
  justify-content: space-between;
  align-items: center;
  padding: 8px 0;
  border-top: 1px solid var(--line);
}
li p {
  display: grid;
  overflow-wrap: anywhere;
}
.back strong {
  text-decoration: line-through;
  font-weight: 500;
}
li button {
  white-space: nowrap;
}
.take {
  display: grid;
  gap: 14px;
}
</style>

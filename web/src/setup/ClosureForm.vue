<script setup lang="ts">
/** The closures of a place: picked on a month's sheet, or read from a calendar file and looked over first. */
import DatePicker from 'primevue/datepicker'
import FileUpload, { type FileUploadSelectEvent } from 'primevue/fileupload'
import { computed, reactive, ref } from 'vue'
import { api, ApiError, ask, nowThere, type CardView, type Schemas } from '../api/client'
import { clockAt } from '../parts/placeTime'
import FailNote from './FailNote.vue'
import { useCard } from './cards'

const props = defineProps<{ card: CardView }>()
const emit = defineEmits<{ done: [] }>()
const { edit, fault, failed, current, yours, busy } = useCard()
type Closure = Schemas['Closure']
const body = props.card.body.card === 'place' ? props.card.body : null
const closures = reactive<Closure[]>((body?.closures ?? []).map((closure) => ({ ...closure })))
const sorted = computed(() => [...closures].sort((a, b) => a.from.localeCompare(b.from)))
const two = (part: number) => String(part).padStart(2, '0')
const write = (date: Date) => `${date.getFullYear()}-${two(date.getMonth() + 1)}-${two(date.getDate())}`
const said = (day: string) =>
  new Date(`${day}T12:00`).toLocaleDateString('en-GB', {
    weekday: 'short',
    day: 'numeric',
    month: 'short',
    year: 'numeric',
  })
/** As the clock of the place has it: what is over is no closure to come. */
const today = new Date(`${clockAt(body?.zone ?? 'UTC', nowThere()).day}T12:00:00`)
const picked = ref<(Date | null)[] | null>(null)
const name = ref('')
const first = computed(() => picked.value?.[0] ?? null)
const last = computed(() => picked.value?.[1] ?? first.value)
function add() {
  if (!first.value || !last.value) return
  closures.push({ name: name.value.trim() || null, from: write(first.value), to: write(last.value) })
  ;[picked.value, name.value] = [null, '']
}
const remove = (closure: Closure) => closures.splice(closures.indexOf(closure), 1)

const read = ref<Schemas['ClosuresRead'] | null>(null)
const unread = ref('')
const reading = ref(false)
async function fromFile({ files }: FileUploadSelectEvent) {
  const [file] = files as File[]
  if (!file) return
  ;[read.value, unread.value] = [null, '']
  reading.value = true
  try {
    read.value = await ask(
      api.POST('/api/closures/read', {
        body: file as unknown as string,
        bodySerializer: (raw) => raw as unknown as BodyInit,
        headers: { 'Content-Type': 'text/calendar' },
      }),
    )
  } catch (error) {
    unread.value = error instanceof ApiError ? error.message : 'The file could not be read.'
  } finally {
    reading.value = false
  }
}
const known = (closure: Closure) => closures.some((one) => one.from === closure.from && one.to === closure.to)
const fresh = computed(() => (read.value?.closures ?? []).filter((closure) => !known(closure)))
function take() {
  closures.push(...fresh.value.map((closure) => ({ ...closure })))
  read.value = null
}
async function save() {
  if (!body) return
  if (await edit(props.card, { ...body, closures: sorted.value })) emit('done')
}
</script>

<template>
  <form class="form" @submit.prevent="save">
    <p class="quiet">
      Holidays, term breaks and single days, besides the weekdays on which nobody comes. What is due moves around them.
    </p>
    <ul v-if="sorted.length" class="list">
      <li v-for="closure in sorted" :key="closure.from + closure.to">
        <span>
          <strong>{{ closure.name || 'Closed' }}</strong>
          {{ said(closure.from) }}<template v-if="closure.to !== closure.from"> to {{ said(closure.to) }}</template>
        </span>
        <button
          class="button plain"
          type="button"
          :aria-label="`Remove: ${closure.name || said(closure.from)}`"
          @click="remove(closure)"
        >
          Remove
        </button>
      </li>
    </ul>
    <p v-else class="quiet">None yet.</p>
    <fieldset class="sheet">
      <legend>Add one: tap its first day, then its last</legend>
      <DatePicker
        v-model="picked"
        inline
        selection-mode="range"
        :min-date="today"
        :aria-label="'Days of the closure'"
      />
      <div class="field">
        <label for="closure-name">What it is called, if anything</label>
        <input id="closure-name" v-model="name" maxlength="80" autocomplete="off" />
      </div>
      <p v-if="first" class="small" role="status">
        {{ said(write(first)) }}<template v-if="last && last !== first"> to {{ said(write(last)) }}</template>
      </p>
      <button class="button" type="button" :disabled="!first" @click="add">Add this closure</button>
    </fieldset>
    <fieldset class="sheet">
      <legend>Or from a calendar file (.ics)</legend>
      <FileUpload
        mode="basic"
        accept=".ics,text/calendar"
        custom-upload
        auto
        :choose-label="reading ? 'Reading…' : 'Choose a calendar file'"
        :disabled="reading"
        @select="fromFile"
      />
      <p v-if="unread" class="wrong" role="alert">{{ unread }}</p>
      <div v-if="read" class="read" role="status">
        <p v-if="fresh.length">
          {{ fresh.length === 1 ? 'One closure' : `${fresh.length} closures` }} that
          {{ fresh.length === 1 ? 'is' : 'are' }} not here yet:
        </p>
        <p v-else>No closure in it that is not here already.</p>
        <ul v-if="fresh.length">
          <li v-for="closure in fresh.slice(0, 12)" :key="closure.from + closure.to">
            {{ closure.name }}: {{ said(closure.from)
            }}<template v-if="closure.to !== closure.from"> to {{ said(closure.to) }}</template>
          </li>
          <li v-if="fresh.length > 12" class="quiet">and {{ fresh.length - 12 }} more</li>
        </ul>
        <p v-if="read.past" class="small quiet">{{ read.past }} that are over are left out.</p>
        <details v-if="read.left_out.length">
          <summary class="more">{{ read.left_out.length }} left out: why</summary>
          <ul>
            <li v-for="(one, n) in read.left_out" :key="n">{{ one.what }}: {{ one.why }}.</li>
          </ul>
        </details>
        <button v-if="fresh.length" class="button" type="button" @click="take">
          Add {{ fresh.length === 1 ? 'it' : 'them' }}
        </button>
      </div>
    </fieldset>
    <p v-if="fault('closures')" class="wrong" role="alert">{{ fault('closures') }}</p>
    <FailNote :failed="failed" :current="current" :yours="yours" />
    <button class="button main" type="submit" :disabled="busy">Save</button>
  </form>
</template>

<style scoped>
.form,
.sheet,
.read {
  display: grid;
  gap: 12px;
  min-width: 0;
}
.sheet {
  margin: 0;
  padding: 12px 14px;
  border: 1px solid var(--line-2);
  border-radius: 4px;
}
.sheet :deep(.p-calendar) {
  width: 100%;
  max-width: 360px;
  padding: 0;
  border: 0;
  box-shadow: none;
}
@media (max-width: 600px) {
  .sheet {
    padding: 8px 6px;
  }
}
legend {
  font-weight: 600;
  padding: 0 4px;
}
.list li {
  display: flex;
  justify-content: space-between;
  align-items: center;
  gap: 12px;
  border-bottom: 1px solid var(--line);
}
.list span {
  overflow-wrap: anywhere;
}
</style>

<script setup lang="ts">
/** Everything to do here on a strip of days, in the order of the core: dangers, then least margin first; with one tap where one is enough. */
import { computed, defineAsyncComponent, ref } from 'vue'
import { RouterLink } from 'vue-router'
import { ApiError, newId, type Schemas, type SystemView, type Task } from '../api/client'
import { may } from '../door/session'
import StandMark from '../parts/StandMark.vue'
import { useChoices } from '../api/queries'
import { notify } from '../parts/notice'
import { recorderAt } from '../parts/recorder'
import { isNow } from '../parts/rank'
import { canPutOff } from './putOff'
import { useRecord } from './record'
import { pathOf } from './way'

const PutOffSheet = defineAsyncComponent(() => import('./PutOffSheet.vue'))
const props = defineProps<{ view: SystemView }>()
const { recordAndSay } = useRecord()
const cares = computed(() => may('care', props.view.place.id))
const all = ref(false)
const SHOWN = 6
const shown = computed(() => (all.value ? props.view.tasks : props.view.tasks.slice(0, SHOWN)))
const busy = ref('')
const putting = ref<Task>()
const off = ref(false)
function notToday(task: Task) {
  putting.value = task
  off.value = true
}
async function putOff(chosen: Schemas['PutOff'][], said: string) {
  const by = recorderAt(props.view.place.id)
  if (!by) return notify('Pick who is recording first, beside the log.')
  try {
    const entry = { id: newId(), body: { kind: 'visit' as const, put_off: chosen } }
    await recordAndSay(props.view.card.id, by, entry, said)
  } catch (error) {
    notify(error instanceof ApiError ? error.message : 'That could not be recorded.')
  }
}

/** What was amiss was seen put right: that part, and no other. */
async function mended(one: NonNullable<Task['mended']>[number]) {
  const by = recorderAt(props.view.place.id)
  if (!by) return notify('Pick who is recording first, beside the log.')
  busy.value = one.part
  try {
    const visit = { kind: 'visit' as const, running: { [one.part]: true } }
    await recordAndSay(props.view.card.id, by, { id: newId(), body: visit }, `${one.say}.`)
  } catch (error) {
    notify(error instanceof ApiError ? error.message : 'That could not be recorded.')
  } finally {
    busy.value = ''
  }
}

/** What the meshes held is said with the tick: the days between two rinses follow from it. */
const meshes = useChoices()
async function tick(task: Task, found?: Schemas['Meshes']) {
  const by = recorderAt(props.view.place.id)
  if (!by) return notify('Pick who is recording first, beside the log.')
  busy.value = task.code
  const id = newId()
  const system = props.view.card.id
  try {
    const visit = task.sound
      ? task.sound
      : task.check === 'look_in'
        ? { all_fine: true }
        : task.rule
          ? { rules: [{ rule: task.rule, name: task.name }] }
          : { done: [task.check!], ...(found ? { meshes: found } : {}) }
    const entry = { id, body: { kind: 'visit' as const, ...visit } }
    await recordAndSay(system, by, entry, `${task.name}: done. The next date has moved.`)
  } catch (error) {
    notify(error instanceof ApiError ? error.message : 'That could not be recorded.')
  } finally {
    busy.value = ''
  }
}
</script>

<template>
  <ol>
    <li
      v-for="task in shown"
      :key="task.code"
      :class="[task.urgency, task.rank, { wide: (task.claim && task.one_tap) || task.check === 'filters' }]"
    >
      <div class="words">
        <p class="name">{{ task.name }} <span v-if="task.adult" class="adult small">adult only</span></p>
        <p v-if="isNow(task) || task.days_late >= 0" class="do">{{ task.doing }}</p>
        <p v-if="task.claim && task.one_tap" class="small">{{ task.claim }}</p>
        <p class="small quiet">{{ task.reason }}</p>
        <p class="small marks">
          <StandMark v-if="isNow(task)" :task="task" :title="task.safe_why">{{ task.safe }}</StandMark>
          <template v-else>
            <StandMark :task="task" />
            <span class="quiet" :title="task.safe_why">{{ task.safe }}</span>
          </template>
        </p>
      </div>
      <div v-if="cares" class="ways">
        <RouterLink
          v-if="task.way && !view.card.archived"
          class="button plain done"
          :to="pathOf(task.way, view.card.id)"
          :aria-label="`${task.name}: ${task.way.name.toLowerCase()}`"
          >{{ task.way.name }}</RouterLink
        >
        <button
          v-for="one in view.card.archived ? [] : (task.mended ?? [])"
          :key="one.part"
          class="button done"
          type="button"
          :disabled="busy === one.part"
          @click="mended(one)"
        >
          {{ one.say }}
        </button>
        <span
          v-if="task.check === 'filters' && task.days_late >= -1 && !view.card.archived"
          class="found"
          role="group"
          :aria-label="`${task.name}: done, and what was in them`"
        >
          <span class="small">Rinsed. They were:</span>
          <button
            v-for="one in meshes<Schemas['Meshes']>('meshes')"
            :key="one.key"
            class="button done"
            type="button"
            :disabled="busy === task.code"
            @click="tick(task, one.key)"
          >
            {{ one.name }}
          </button>
        </span>
        <button
          v-else-if="task.one_tap && task.days_late >= -1 && !view.card.archived"
          class="button done"
          type="button"
          :disabled="busy === task.code"
          :aria-label="task.claim ? `${task.name}: all sound` : `${task.name}: done`"
          @click="tick(task)"
        >
          {{ task.claim ? 'All sound' : 'Done' }}
        </button>
        <button
          v-if="canPutOff(task) && !view.card.archived"
          class="button plain done"
          type="button"
          :aria-label="`${task.name}: not today`"
          @click="notToday(task)"
        >
          Not today
        </button>
      </div>
    </li>
  </ol>
  <PutOffSheet
    v-if="putting"
    v-model:open="off"
    :system="view.card.id"
    :place="view.place.id"
    :today="view.today"
    :task="putting"
    @chosen="putOff"
  />
  <button v-if="view.tasks.length > SHOWN" class="button plain" type="button" @click="all = !all">
    {{ all ? 'Show fewer' : `Show all ${view.tasks.length}` }}
  </button>
</template>

<style scoped>
li {
  display: flex;
  gap: 12px;
  align-items: center;
  justify-content: space-between;
  padding: 8px 0 8px 12px;
  border-bottom: 1px solid var(--line);
  border-left: 4px solid var(--line);
}
.hand {
  border-left-color: var(--alarm);
}
.eye {
  border-left-color: var(--watch);
}
li.people {
  background: var(--alarm-wash);
}
li.people,
li.hours {
  display: grid;
  justify-content: start;
  padding-right: 12px;
}
li.wide {
  display: grid;
  gap: 4px;
}
li.wide .ways {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
  align-items: center;
  flex-direction: row-reverse;
  justify-content: start;
}
.found {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 8px;
}
li.people .ways,
li.hours .ways {
  justify-items: start;
}
.name {
  font-weight: 650;
}
.do {
  max-width: 44em;
  font-weight: 600;
}
.adult {
  border: 1px solid var(--line-2);
  border-radius: 3px;
  padding: 0 6px;
  font-weight: 600;
  color: var(--ink-2);
  white-space: nowrap;
}
.marks {
  display: flex;
  flex-wrap: wrap;
  gap: 0 16px;
}
.ways {
  display: grid;
  flex: none;
  justify-items: end;
}
.ways .button {
  white-space: nowrap;
}
</style>

<script setup lang="ts">
/** A visit on paper: what is due at one system, step by step, what is seen, and lines for the numbers. It is typed back as a
 * visit, in the same order. */
import { computed } from 'vue'
import { RouterLink } from 'vue-router'
import { useQuery } from '@tanstack/vue-query'
import { api, ask } from '../api/client'
import { useSystem } from '../api/queries'
import LoadState from '../parts/LoadState.vue'
import { lastPicked } from '../parts/recorder'
import RecorderPick from '../parts/RecorderPick.vue'
import { useRouteId } from '../parts/routeId'
import { useRecording } from '../parts/useRecording'
import { dayName } from '../system/putOff'
import SheetNumbers from './SheetNumbers.vue'

const id = useRouteId()
const query = useSystem(id)
const view = computed(() => query.data.value)
useRecording(view)
/** What stands on it is the core's: no amount that would be of another day, and no step that is not for whoever asks. */
const paper = useQuery({
  queryKey: ['paper', id, lastPicked],
  queryFn: () => ask(api.GET('/api/systems/{id}/sheet', { params: { path: { id: id.value } } })),
})
const sheet = computed(() => paper.data.value)
const print = () => window.print()
</script>

<template>
  <LoadState
    v-if="!view || !sheet"
    :error="query.error.value ?? paper.error.value"
    @again="(query.refetch(), paper.refetch())"
  />
  <article v-else class="sheet">
    <header>
      <h1>{{ view.system.name }}: visit</h1>
      <p>{{ view.kind_name }}, {{ view.place_body.name }}</p>
      <p class="small quiet">What is due as of {{ dayName(sheet.today) }}.</p>
      <p class="who">
        <span>Date <span class="rule"></span></span><span>Time <span class="rule"></span></span
        ><span>Who <span class="rule"></span></span>
      </p>
    </header>
    <div class="screen">
      <RecorderPick :place="view.place.id" :people="view.people" />
      <button class="button main" type="button" @click="print">Print the sheet</button>
      <RouterLink class="button" :to="`/system/${id}/visit`">Type it in</RouterLink>
    </div>
    <p v-if="view.danger" class="danger">{{ view.danger }}</p>
    <p v-if="view.suspect_why" class="suspect">{{ view.suspect_why }}</p>
    <section aria-labelledby="seen-head">
      <h2 id="seen-head">Look and listen</h2>
      <ul class="asked">
        <li v-for="part in view.runs" :key="part.key">
          <span>{{ part.question }}</span>
          <span class="answer"><span class="box" aria-hidden="true"></span>{{ part.yes }}</span>
          <span class="answer"><span class="box" aria-hidden="true"></span>{{ part.no }}</span>
        </li>
        <li>
          <span>The plants?</span>
          <span class="answer"><span class="box" aria-hidden="true"></span>As they should be</span>
          <span class="answer"><span class="box" aria-hidden="true"></span>Not: what, and where, below</span>
        </li>
      </ul>
    </section>
    <section aria-labelledby="numbers-head">
      <h2 id="numbers-head">Numbers, before anything is added</h2>
      <SheetNumbers :view="view" />
    </section>
    <section aria-labelledby="due-head">
      <h2 id="due-head">What is due</h2>
      <p v-if="!sheet.due.length" class="quiet">Nothing besides looking and reading.</p>
      <ul class="jobs">
        <li v-for="task in sheet.due" :key="task.code">
          <span class="box" aria-hidden="true"></span>
          <div>
            <strong>{{ task.name }}</strong>
            <span v-if="task.days_late > 0" class="small late"
              >&nbsp;late by {{ task.days_late }} {{ task.days_late === 1 ? 'day' : 'days' }}</span
            >
            <p v-if="!task.steps.length" class="small">{{ task.said }}</p>
            <ol v-else>
              <li v-for="step in task.steps" :key="step">
                <span class="box small-box" aria-hidden="true"></span>{{ step }}
              </li>
            </ol>
          </div>
        </li>
      </ul>
    </section>
    <section v-if="sheet.later.length" aria-labelledby="later-head">
      <h2 id="later-head">Not due yet, and may be done along with it</h2>
      <ul class="later">
        <li v-for="task in sheet.later" :key="task.code">
          <span class="box" aria-hidden="true"></span>{{ task.name }}
        </li>
      </ul>
    </section>
    <section aria-labelledby="note-head" class="note">
      <h2 id="note-head">What else was seen or done</h2>
      <span v-for="n in 4" :key="n" class="rule"></span>
    </section>
    <p class="small quiet">
      A leak, no sound, or a smell of burning: touch nothing on the mains, and call who looks after it.
    </p>
  </article>
</template>

<style scoped>
.sheet,
section {
  display: grid;
  gap: 10px;
}
.sheet {
  gap: 20px;
  max-width: 820px;
}
header {
  display: grid;
  gap: 4px;
}
.who,
.screen {
  display: flex;
  flex-wrap: wrap;
  gap: 10px 20px;
  align-items: center;
}
.who > span {
  display: flex;
  gap: 6px;
  align-items: end;
}
.rule {
  display: block;
  min-width: 130px;
  height: 30px;
  border-bottom: 1px solid var(--ink-2);
}
.suspect {
  padding: 8px 12px;
  border-left: 4px solid var(--watch);
  background: var(--watch-wash);
}
ul,
ol {
  margin: 0;
  padding: 0;
  list-style: none;
}
h2 {
  padding-top: 8px;
  border-top: 3px solid var(--water);
}
.box {
  flex: none;
  width: 18px;
  height: 18px;
  margin-top: 2px;
  border: 1.5px solid var(--ink-2);
}
.small-box {
  width: 14px;
  height: 14px;
  margin-top: 4px;
}
.asked li {
  display: grid;
  grid-template-columns: minmax(0, 1.4fr) minmax(0, 1fr) minmax(0, 1fr);
  gap: 4px 12px;
  padding: 7px 0;
  border-bottom: 1px solid var(--line);
}
.answer {
  display: flex;
  gap: 8px;
}
.jobs {
  display: grid;
  gap: 12px;
}
.jobs > li,
.jobs ol > li,
.later li {
  display: flex;
  gap: 10px;
  break-inside: avoid;
}
.jobs ol {
  display: grid;
  gap: 3px;
  margin-top: 4px;
}
.late {
  font-weight: 650;
}
.later {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(min(230px, 100%), 1fr));
  gap: 8px 16px;
}
.note .rule {
  width: 100%;
}
@media (max-width: 600px) {
  .asked li {
    grid-template-columns: minmax(0, 1fr) minmax(0, 1fr);
  }
  .asked li > :first-child {
    grid-column: 1 / -1;
  }
}
@media print {
  .screen {
    display: none;
  }
  .sheet {
    gap: 14px;
    max-width: none;
  }
  section {
    break-inside: auto;
  }
  h2 {
    break-after: avoid;
  }
  .asked li,
  .note {
    break-inside: avoid;
  }
}
</style>

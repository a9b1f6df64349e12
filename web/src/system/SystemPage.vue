<script setup lang="ts">
import { computed } from 'vue'
import { RouterLink, useRouter } from 'vue-router'
import { useSystem } from '../api/queries'
import TankDrawing from '../drawing/TankDrawing.vue'
import { describe } from '../drawing/describe'
import CaseList from '../plants/CaseList.vue'
import CaseOpen from '../plants/CaseOpen.vue'
import PictureList from '../plants/PictureList.vue'
import ExplanationCard from '../plants/ExplanationCard.vue'
import { may } from '../door/session'
import LoadState from '../parts/LoadState.vue'
import RecorderPick from '../parts/RecorderPick.vue'
import { useRecording } from '../parts/useRecording'
import { useRouteId } from '../parts/routeId'
import { useShortcuts } from '../parts/shortcuts'
import KeptTable from './KeptTable.vue'
import LogList from './LogList.vue'
import EquipmentList from './EquipmentList.vue'
import OffNote from './OffNote.vue'
import OutlookList from './OutlookList.vue'
import PortMap from './PortMap.vue'
import TopOffNote from './TopOffNote.vue'
import SetAside from './SetAside.vue'
import RiskList from './RiskList.vue'
import TaskList from './TaskList.vue'
import TrendLine from './TrendLine.vue'
import { pathOf } from './way'
import VerdictCard from './VerdictCard.vue'

const router = useRouter()
const id = useRouteId()
const query = useSystem(id)
const view = computed(() => query.data.value)
const pressing = computed(() => view.value?.verdicts.filter((v) => v.verdict.tone !== 'fine') ?? [])
/** What is explained at length is not said twice. */
const findings = computed(() =>
  pressing.value.filter((v) => !(view.value?.explanation && v.verdict.subject === 'plants')),
)
/** What is treated already is explained behind a tap: its case says what is next. */
const followed = computed(() =>
  view.value?.cases.some((one) => one.open && one.key === view.value?.explanation?.causes[0]?.key),
)
const seen = computed(() => pressing.value.find((v) => v.verdict.subject === 'plants'))
const { who, child } = useRecording(view)
const here = computed(() => view.value?.place.id)
const cares = computed(() => may('care', here.value))
/** The bench and the change open on what this system most likely needs. */
const likely = (to: 'bench' | 'change') => {
  const way = view.value?.tasks.find((task) => task.way?.to === to && task.standing !== 'later')?.way
  return pathOf(way ?? { to, name: '', ...(to === 'bench' ? { part: 'top_off' } : {}) }, id.value)
}
useShortcuts({ v: { says: 'Visit this system', run: () => router.push(`/system/${id.value}/visit`) } })
</script>

<template>
  <LoadState v-if="!view" :error="query.error.value" @again="query.refetch()" />
  <template v-else>
    <header class="head">
      <div>
        <h1>{{ view.system.name }}</h1>
        <p class="quiet">
          {{ view.kind_name }}, {{ view.place_body.name }}<span v-if="view.card.archived"> (archived)</span>
        </p>
      </div>
      <div class="doing">
        <RouterLink v-if="may('set_up', here)" class="button" :to="{ path: '/set-up', query: { system: id } }"
          >Edit</RouterLink
        >
        <template v-if="!view.card.archived">
          <RouterLink class="button" :to="likely('bench')">Bench</RouterLink>
          <RouterLink v-if="may('change', here)" class="button" :to="likely('change')">Change the water</RouterLink>
        </template>
        <RouterLink v-if="cares && !view.card.archived" class="button main" :to="`/system/${id}/visit`"
          >Start a visit</RouterLink
        >
      </div>
    </header>
    <p v-if="view.suspect_why" class="suspect">{{ view.suspect_why }}</p>
    <div class="page" :class="{ calm: !pressing.length && !view.cases.length }">
      <section class="state" aria-label="State">
        <TankDrawing :section="view.section" :label="describe(view)" lines />
        <dl class="values">
          <div v-for="value in view.last" :key="value.subject">
            <dt class="small quiet">{{ value.name }}</dt>
            <dd class="num">
              <span v-if="value.value.startsWith('about ')" class="about">about</span
              >{{ value.value.replace(/^about /, '') }}
            </dd>
            <dd class="small quiet">
              {{ value.when }}<template v-if="value.origin">, {{ value.origin }}</template>
            </dd>
          </div>
        </dl>
        <p v-if="view.last.length === 0" class="quiet">Nothing is measured yet. The first visit sets the ground.</p>
        <p v-if="view.drinking" class="small quiet">
          It {{ view.drinking.said }},
          <template v-if="view.drinking.intervals"
            >from {{ view.drinking.intervals }}
            {{ view.drinking.intervals === 1 ? 'interval' : 'intervals' }}.</template
          >
          <template v-else>by what the timer is set to.</template>
        </p>
        <p v-if="view.section.limit != null && view.room" class="small limit">
          <strong>Refill limit.</strong> {{ view.room.reason }}
        </p>
        <TopOffNote v-if="view.top_off" :advice="view.top_off" :view="view" />
      </section>
      <section class="due" aria-labelledby="due-head">
        <h2 id="due-head">What is due</h2>
        <TaskList :view="view" />
        <OffNote v-if="cares && !view.card.archived" :view="view" />
        <RouterLink v-if="!view.card.archived" class="button plain" :to="`/sheet/${id}`"
          >A sheet to write on at the tank</RouterLink
        >
        <RiskList v-if="view.risks.length" :risks="view.risks" class="guard" />
      </section>
      <section v-if="pressing.length || view.cases.length" class="findings" aria-label="Findings">
        <template v-if="view.cases.length">
          <h2>Cases</h2>
          <CaseList :view="view" />
        </template>
        <h2 v-if="pressing.length || view.explanation" id="find-head">What the last visits found</h2>
        <p v-if="view.explanation && seen" class="small quiet">{{ seen.verdict.finding }}, seen {{ seen.when }}.</p>
        <component :is="followed ? 'details' : 'div'" v-if="view.explanation">
          <summary v-if="followed" class="more">Why it is taken for that: {{ view.explanation.answer }}</summary>
          <ExplanationCard :told="view.explanation" :system="id" :child="child">
            <template #look="{ look }">
              <RouterLink class="button" :to="pathOf(look.way, id)">{{ look.way.name }}</RouterLink>
            </template>
          </ExplanationCard>
        </component>
        <SetAside
          v-if="cares && view.explanation && seen && !child"
          :view="view"
          subject="plants"
          :finding="seen.verdict.finding"
        />
        <div v-for="item in findings" :key="item.verdict.subject">
          <VerdictCard :verdict="item.verdict" :when="item.when" />
          <SetAside
            v-if="cares && !child && !item.verdict.stays"
            :view="view"
            :subject="item.verdict.subject"
            :finding="item.verdict.finding"
          />
        </div>
      </section>
      <section v-if="view.outlook.length" class="comes" aria-labelledby="comes-head">
        <h2 id="comes-head">What comes, if nothing is added</h2>
        <OutlookList :view="view" />
      </section>
      <section class="trends" aria-labelledby="trend-head">
        <div class="log-head">
          <h2 id="trend-head">Ten weeks</h2>
          <RouterLink class="button plain" :to="`/trends/${id}`">Trends in full</RouterLink>
        </div>
        <p v-if="view.deeds.length" class="small quiet key">
          Upright lines: what was done. Whole: a reservoir change; dotted: pH corrected; dashed red: a treatment.
        </p>
        <TrendLine v-for="trend in view.trends" :key="trend.quantity" :trend="trend" :view="view" />
      </section>
      <section class="grow" aria-labelledby="grow-head">
        <h2 id="grow-head">What grows here</h2>
        <PortMap :view="view" />
        <CaseOpen v-if="cares && !child && !view.card.archived" :view="view" />
        <template v-if="view.equipment?.length">
          <h2>Equipment</h2>
          <EquipmentList :view="view" />
        </template>
      </section>
      <section class="shots" aria-labelledby="shots-head">
        <h2 id="shots-head">Pictures</h2>
        <PictureList :view="view" :by="cares ? who : undefined" :child="child || !cares" />
      </section>
      <section class="log" aria-labelledby="log-head">
        <div class="log-head">
          <h2 id="log-head">Log</h2>
          <RouterLink class="button plain" :to="{ path: '/log', query: { system: id } }">Find in it</RouterLink>
          <RecorderPick v-if="cares" :place="view.place.id" :people="view.people" />
        </div>
        <KeptTable v-if="view.kept.length" :kept="view.kept" />
        <LogList :view="view" />
      </section>
    </div>
  </template>
</template>

<style scoped>
.head {
  display: flex;
  flex-wrap: wrap;
  justify-content: space-between;
  gap: 12px;
  margin-bottom: 20px;
}
.doing {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 8px;
}
.suspect {
  max-width: 900px;
  margin-bottom: 20px;
  padding: 10px 14px;
  border-left: 4px solid var(--watch);
  background: var(--watch-wash);
}
.page {
  display: grid;
  grid-template-columns: minmax(240px, 320px) minmax(0, 1fr) minmax(0, 1fr);
  grid-template-areas: 'state due findings' 'grow due findings' 'comes comes comes' 'trends trends trends' 'shots shots shots' 'log log log';
  grid-template-rows: auto 1fr;
  gap: 32px;
  align-items: start;
}
.page.calm {
  grid-template-areas: 'state due due' 'grow due due' 'comes comes comes' 'trends trends trends' 'shots shots shots' 'log log log';
}
.state {
  grid-area: state;
}
.due {
  grid-area: due;
}
.findings {
  grid-area: findings;
}
.page > section {
  display: grid;
  gap: 12px;
  min-width: 0;
}
.state {
  background: var(--sheet);
  border: 1px solid var(--line);
  border-radius: 4px;
  padding: 20px;
}
.values {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 12px;
}
.values .num {
  font-size: 23px;
  line-height: 1.15;
}
.values .about {
  font-size: 15px;
  font-weight: 400;
  margin-right: 5px;
}
.guard {
  margin-top: 20px;
}
.limit {
  border-left: 4px solid var(--alarm);
  padding-left: 10px;
}
.page > .comes {
  grid-area: comes;
}
.trends {
  grid-area: trends;
  grid-template-columns: 1fr 1fr;
  gap: 20px 40px;
}
.trends .key,
.trends h2 {
  grid-column: 1 / -1;
}
.shots {
  grid-area: shots;
}
.log {
  grid-area: log;
}
.log-head {
  display: flex;
  flex-wrap: wrap;
  grid-column: 1 / -1;
  gap: 8px 16px;
  align-items: center;
}
.log-head > :nth-child(3) {
  margin-left: auto;
}
.due > .button {
  justify-self: start;
}
.grow {
  grid-area: grow;
}
@media (max-width: 1000px) {
  .page {
    grid-template-columns: minmax(0, 1fr);
  }
  /* On a phone what is due comes before the picture. */
  .page,
  .page.calm {
    grid-template-areas: 'due' 'findings' 'state' 'comes' 'grow' 'trends' 'shots' 'log';
    grid-template-rows: none;
  }
  .page.calm {
    grid-template-areas: 'due' 'state' 'comes' 'grow' 'trends' 'shots' 'log';
  }
  .page > section,
  .page > .trends {
    grid-template-columns: minmax(0, 1fr);
  }
}
@media (max-width: 600px) {
  .doing {
    display: grid;
    grid-template-columns: repeat(auto-fit, minmax(96px, auto));
    width: 100%;
  }
  .doing .button {
    white-space: nowrap;
  }
  .doing .main {
    grid-column: 1 / -1;
    order: -1;
    min-height: 52px;
  }
}
</style>

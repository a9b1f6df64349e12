import { watch } from 'vue'
import { createRouter, createWebHistory } from 'vue-router'
import { inClass } from './door/session'
import { notify } from './parts/notice'
import { pageTitle } from './parts/title'
import RoundView from './round/RoundView.vue'

/** The pages that are used at the tank. */
const systemPage = () => import('./system/SystemPage.vue')
const visitPage = () => import('./visit/VisitPage.vue')
const changePage = () => import('./change/ChangePage.vue')

/** Brings along what is needed where there may be no connection, once there is nothing better to do. */
export function bringAlong() {
  const parts = [
    () => import('./parts/NoticeBar.vue'),
    () => import('./parts/AskSheet.vue'),
    () => import('./kept/KeptPage.vue'),
    systemPage,
    visitPage,
    changePage,
    () => import('./round/HerePage.vue'),
  ]
  const next = () =>
    void parts
      .shift()?.()
      .then(later, () => {})
  const later = () => (window.requestIdleCallback ? window.requestIdleCallback(next) : setTimeout(next, 200))
  later()
}

export const router = createRouter({
  history: createWebHistory(),
  routes: [
    { path: '/', name: 'round', component: RoundView, meta: { title: 'Round' } },
    {
      path: '/system/:id',
      name: 'system',
      component: systemPage,
      meta: { title: 'System' },
    },
    {
      path: '/system/:id/visit',
      name: 'visit',
      component: visitPage,
      meta: { title: 'Visit', class: true, act: 'care' },
    },
    {
      path: '/system/:id/change',
      name: 'change',
      component: changePage,
      meta: { title: 'Change', act: 'change' },
    },
    {
      path: '/planting/:id',
      name: 'story',
      component: () => import('./plants/StoryPage.vue'),
      meta: { title: 'Report of a crop' },
    },
    {
      path: '/cover/:id',
      name: 'cover',
      component: () => import('./round/CoverPage.vue'),
      meta: { title: 'Cover plan' },
    },
    {
      path: '/class/:place?',
      name: 'class',
      component: () => import('./class/ClassPage.vue'),
      meta: { title: 'A week of the class' },
    },
    {
      path: '/compare',
      name: 'compare',
      component: () => import('./compare/ComparePage.vue'),
      meta: { title: 'Compare' },
    },
    {
      path: '/trends/:id',
      name: 'trends',
      component: () => import('./trends/TrendsPage.vue'),
      meta: { title: 'Trends' },
    },
    { path: '/data', name: 'data', component: () => import('./data/DataPage.vue'), meta: { title: 'Your data' } },
    {
      path: '/data/readings',
      name: 'readings',
      component: () => import('./data/ReadingsPage.vue'),
      meta: { title: 'Readings from a file' },
    },
    { path: '/log', name: 'log', component: () => import('./log/LogPage.vue'), meta: { title: 'Log' } },
    {
      path: '/sheet/:id',
      name: 'sheet',
      component: () => import('./prints/VisitSheet.vue'),
      meta: { title: 'Visit sheet' },
    },
    {
      path: '/labels',
      name: 'labels',
      component: () => import('./prints/LabelsPage.vue'),
      meta: { title: 'Labels' },
    },
    {
      path: '/outing',
      name: 'outing',
      component: () => import('./outing/OutingPage.vue'),
      meta: { title: 'The round, stop by stop' },
    },
    {
      path: '/weeks/:place?',
      name: 'weeks',
      component: () => import('./weeks/WeeksPage.vue'),
      meta: { title: 'Weeks ahead' },
    },
    {
      path: '/here/:place',
      name: 'here',
      component: () => import('./round/HerePage.vue'),
      meta: { title: 'Here', act: 'care' },
    },
    { path: '/bench', name: 'bench', component: () => import('./bench/BenchPage.vue'), meta: { title: 'Bench' } },
    { path: '/set-up', name: 'setup', component: () => import('./setup/SetupPage.vue'), meta: { title: 'Set-up' } },
    {
      path: '/edits/:place?',
      name: 'edits',
      component: () => import('./setup/EditsPage.vue'),
      meta: { title: 'Changes to the set-up' },
    },
    {
      path: '/welcome',
      name: 'welcome',
      component: () => import('./door/WelcomePage.vue'),
      meta: { title: 'Welcome', open: true },
    },
    {
      path: '/remind',
      name: 'remind',
      component: () => import('./door/RemindPage.vue'),
      meta: { title: 'Reminders by mail', open: true },
    },
    {
      path: '/mailbox',
      name: 'mailbox',
      component: () => import('./door/MailboxPage.vue'),
      meta: { title: 'The demo’s mailbox' },
    },
    {
      path: '/class-in',
      name: 'class-in',
      component: () => import('./door/JoinPage.vue'),
      meta: { title: 'Join the class', open: true },
    },
    {
      path: '/room',
      name: 'room',
      component: () => import('./door/RoomPage.vue'),
      meta: { title: 'Our room', class: true },
    },
    {
      path: '/people',
      name: 'people',
      component: () => import('./door/PeoplePage.vue'),
      meta: { title: 'People and phones' },
    },
    { path: '/kept', name: 'kept', component: () => import('./kept/KeptPage.vue'), meta: { title: 'Not saved' } },
    {
      path: '/notices',
      name: 'notices',
      component: () => import('./parts/NoticesPage.vue'),
      meta: { title: 'What Mopsel is made of' },
    },
    { path: '/:rest(.*)', name: 'lost', component: () => import('./parts/LostPage.vue'), meta: { title: 'Not here' } },
  ],
  scrollBehavior: (to, from, saved) => saved ?? (to.path === from.path ? {} : { top: 0 }),
})

// On a device of a class there is its room, and the visits in it.
router.beforeEach((to) => (!inClass.value || to.meta.class || to.meta.open ? true : { path: '/room', replace: true }))
watch(inClass, (now) => {
  const here = router.currentRoute.value
  if (now && !here.meta.class && !here.meta.open) void router.replace('/room')
  if (!now && here.name === 'room') void router.replace('/')
})

router.onError((error: Error) => {
  if (/import|preload|fetch/i.test(error.message))
    notify('Not connected: that page could not be loaded. What was typed is kept; try again in a moment.')
})
router.afterEach((to) => {
  pageTitle.value = `${String(to.meta.title)} · Mopsel`
})

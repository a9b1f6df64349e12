import { createRouter, createWebHistory } from 'vue-router'
import RoundView from './round/RoundView.vue'

export const router = createRouter({
  history: createWebHistory(),
  routes: [
    { path: '/', name: 'round', component: RoundView, meta: { title: 'Round' } },
    {
      path: '/system/:id',
      name: 'system',
      component: () => import('./system/SystemPage.vue'),
      meta: { title: 'System' },
    },
    {
      path: '/system/:id/visit',
      name: 'visit',
      component: () => import('./visit/VisitPage.vue'),
      meta: { title: 'Visit' },
    },
    {
      path: '/system/:id/change',
      name: 'change',
      component: () => import('./change/ChangePage.vue'),
      meta: { title: 'Change' },
    },
    { path: '/bench', name: 'bench', component: () => import('./bench/BenchPage.vue'), meta: { title: 'Bench' } },
    { path: '/set-up', name: 'setup', component: () => import('./setup/SetupPage.vue'), meta: { title: 'Set-up' } },
    { path: '/:rest(.*)', name: 'lost', component: () => import('./parts/LostPage.vue'), meta: { title: 'Not here' } },
  ],
  scrollBehavior: (to, from, saved) => saved ?? (to.path === from.path ? {} : { top: 0 }),
})

router.afterEach((to) => {
  document.title = `${String(to.meta.title)} · Mopsel`
})

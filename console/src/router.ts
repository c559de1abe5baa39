import { createRouter, createWebHistory } from 'vue-router'

import ScreenPage from './pages/ScreenPage.vue'

export const FIRST_RULE = 'operating_income / revenue > 15%'

export const router = createRouter({
  history: createWebHistory(),
  routes: [
    { path: '/', redirect: '/screens' },
    { path: '/screens', name: 'screens', component: ScreenPage, meta: { title: 'Screens' } },
    { path: '/:rest(.*)*', redirect: '/screens' },
  ],
})

router.afterEach((to) => {
  document.title = `${String(to.meta.title)} · Wise Ledger`
})

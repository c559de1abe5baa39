import type { Component } from 'vue'
import { createRouter, createWebHistory, type RouteRecordRaw } from 'vue-router'

import { today, upTo } from './time/days'

/** A page, fetched when somebody first goes to it. */
function page(
  path: string,
  name: string,
  title: string,
  component: () => Promise<Component>,
): RouteRecordRaw {
  return { path, name, component, meta: { title } }
}

export const router = createRouter({
  history: createWebHistory(),
  async scrollBehavior(to, from, saved) {
    if (saved) await tallEnough(saved.top)
    if (saved) return saved
    return to.path === from.path ? false : { top: 0 }
  },
  routes: [
    { path: '/', redirect: '/screens' },
    page('/screens', 'screens', 'Screens', () => import('./screens/ScreenPage.vue')),
    page('/companies', 'companies', 'Companies', () => import('./companies/CompaniesPage.vue')),
    page('/companies/:id', 'company', 'Company', () => import('./companies/CompanyPage.vue')),
    page(
      '/directories/:kind(venues|securities|listings)',
      'directory',
      'Directories',
      () => import('./companies/DirectoryPage.vue'),
    ),
    page('/lists', 'lists', 'Lists', () => import('./lists/ListsPage.vue')),
    page('/catalogue', 'catalogue', 'Catalogue', () => import('./catalogue/CataloguePage.vue')),
    page('/catalogue/:code', 'item', 'Item', () => import('./catalogue/ItemPage.vue')),
    page(
      '/statements',
      'statements',
      'Statements',
      () => import('./statements/StatementsPage.vue'),
    ),
    page('/market', 'market', 'Market', () => import('./market/MarketPage.vue')),
    page('/estimates', 'estimates', 'Estimates', () => import('./market/EstimatesPage.vue')),
    page('/calendar', 'calendar', 'Calendar', () => import('./market/CalendarPage.vue')),
    page('/series', 'series', 'Series', () => import('./series/SeriesPage.vue')),
    page('/measures/:name?', 'measures', 'Measures', () => import('./measures/MeasuresPage.vue')),
    page('/panels', 'panels', 'Panels', () => import('./panels/PanelsPage.vue')),
    page('/collect', 'collect', 'Collect', () => import('./collect/CollectPage.vue')),
    page('/runs/:id(\\d+)', 'run', 'Run', () => import('./collect/RunPage.vue')),
    page('/tokens', 'tokens', 'Tokens', () => import('./tokens/TokensPage.vue')),
    page('/quality', 'quality', 'Quality', () => import('./quality/QualityPage.vue')),
    page('/match', 'match', 'Match', () => import('./matching/MatchPage.vue')),
    { path: '/:rest(.*)*', redirect: '/screens' },
  ],
})

/**
 * The stamp goes along with every way of moving, and where none was set today is written down: a
 * link keeps its sense.
 */
router.beforeEach((to, from) => {
  const day = upTo(today(), to.query.known_on ?? from.query.known_on)
  if (to.query.known_on === day) return true
  return {
    path: to.path,
    query: { ...to.query, known_on: day },
    hash: to.hash,
    replace: from.path === to.path,
  }
})

router.afterEach((to) => {
  document.title = `${String(to.meta.title)} · Wise Ledger`
})

/** The place where one was comes back as soon as there is enough on the page again to be there. */
function tallEnough(top: number): Promise<void> {
  return new Promise((done) => {
    const until = performance.now() + 3000
    const look = (): void => {
      const tall = document.documentElement.scrollHeight >= top + innerHeight
      if (tall || performance.now() > until) done()
      else requestAnimationFrame(look)
    }
    look()
  })
}

import { createRouter, createWebHistory } from 'vue-router'

import CollectPage from './pages/CollectPage.vue'
import CompaniesPage from './pages/CompaniesPage.vue'
import CompanyPage from './pages/CompanyPage.vue'
import DirectoryPage from './pages/DirectoryPage.vue'
import ListsPage from './pages/ListsPage.vue'
import MatchPage from './pages/MatchPage.vue'
import RunPage from './pages/RunPage.vue'
import CataloguePage from './pages/CataloguePage.vue'
import ItemPage from './pages/ItemPage.vue'
import QualityPage from './pages/QualityPage.vue'
import ScreenPage from './pages/ScreenPage.vue'
import StatementsPage from './pages/StatementsPage.vue'

export const FIRST_RULE = 'operating_income / revenue > 15%'

export const router = createRouter({
  history: createWebHistory(),
  routes: [
    { path: '/', redirect: '/screens' },
    { path: '/screens', name: 'screens', component: ScreenPage, meta: { title: 'Screens' } },
    { path: '/companies', name: 'companies', component: CompaniesPage, meta: { title: 'Companies' } },
    { path: '/companies/:id', name: 'company', component: CompanyPage, meta: { title: 'Company' } },
    { path: '/directories/:kind(venues|securities|listings)', name: 'directory', component: DirectoryPage, meta: { title: 'Directories' } },
    { path: '/lists', name: 'lists', component: ListsPage, meta: { title: 'Lists' } },
    { path: '/catalogue', name: 'catalogue', component: CataloguePage, meta: { title: 'Catalogue' } },
    { path: '/catalogue/:code', name: 'item', component: ItemPage, meta: { title: 'Item' } },
    { path: '/statements', name: 'statements', component: StatementsPage, meta: { title: 'Statements' } },
    { path: '/collect', name: 'collect', component: CollectPage, meta: { title: 'Collect' } },
    { path: '/runs/:id(\\d+)', name: 'run', component: RunPage, meta: { title: 'Run' } },
    { path: '/quality', name: 'quality', component: QualityPage, meta: { title: 'Quality' } },
    { path: '/match', name: 'match', component: MatchPage, meta: { title: 'Match' } },
    { path: '/:rest(.*)*', redirect: '/screens' },
  ],
})

router.afterEach((to) => {
  document.title = `${String(to.meta.title)} · Wise Ledger`
})

<script setup lang="ts">
import { computed, onMounted, ref, watch } from 'vue'
import { type LocationQueryRaw, useRoute, useRouter } from 'vue-router'

import * as ledger from '../api/ledger'
import { type CoverageMatrix, decideQuarantine, coverage, preferSources, quality, type Quality } from '../api/statements'
import type { DocumentInfo, ListInfo } from '../api/types'
import SourceOrders from '../quality/SourceOrders.vue'
import DocumentDialog from '../screens/DocumentDialog.vue'

/** What checks found, the quarantine, and how lists are filled. */
const STATES: Record<string, string> = { '': 'All', quarantined: 'In quarantine', flagged: 'Flagged', accepted: 'Accepted', rejected: 'Rejected' }
const route = useRoute()
const router = useRouter()
const found = ref<Quality | null>(null)
const matrix = ref<CoverageMatrix | null>(null)
const lists = ref<ListInfo[]>([])
const chosen = ref<number[]>([])
const who = ref('')
const why = ref('')
const problem = ref('')
const opened = ref<DocumentInfo | null>(null)
const place = ref('')
const one = (name: string): string => (typeof route.query[name] === 'string' ? (route.query[name] as string) : '')
const view = computed(() => (one('view') === 'coverage' ? 'coverage' : 'findings'))
const list = computed(() => one('list') || lists.value[0]?.name || '')
const findings = computed(() => found.value?.findings ?? [])
const decidable = computed(() => findings.value.filter((f) => f.state !== 'flagged'))
// Where sources disagree a person may say which one is read first.
const told = computed(() => findings.value.filter((f) => f.check === 'sources'))
const choosable = computed(() => [...new Set([...decidable.value, ...told.value].map((f) => f.fact))])
const decided = computed(() => decidable.value.filter((f) => chosen.value.includes(f.fact)).map((f) => f.fact))
const preferred = computed(() => told.value.filter((f) => chosen.value.includes(f.fact)))
const orders = ref<InstanceType<typeof SourceOrders>>()

function set(values: LocationQueryRaw): void {
  void router.push({ query: { ...route.query, ...values } })
}

async function attempt(work: () => Promise<void>): Promise<void> {
  try {
    await work()
    problem.value = ''
  } catch (error) {
    if (error instanceof ledger.Problem) problem.value = error.errors[0] ? `${error.errors[0].at}: ${error.errors[0].problem}; ${error.errors[0].mend}` : error.message
  }
}

async function look(): Promise<void> {
  await attempt(async () => {
    if (view.value === 'coverage') {
      if (list.value) matrix.value = await coverage(list.value, one('statement') || undefined)
    } else {
      const asked = Object.fromEntries(['check', 'state', 'company', 'source'].map((n) => [n, one(n) || undefined]))
      found.value = await quality({ ...asked, limit: '300' })
      chosen.value = []
    }
  })
}

watch(() => [view.value, list.value, ...['check', 'state', 'company', 'source', 'statement'].map(one)], look)
onMounted(async () => {
  lists.value = await ledger.lists().catch(() => [])
  await look()
})

async function decide(accept: boolean): Promise<void> {
  await attempt(async () => {
    await decideQuarantine(decided.value, accept, who.value, why.value)
    why.value = ''
    await look()
  })
}

async function prefer(): Promise<void> {
  await attempt(async () => {
    const lines = new Map(preferred.value.map((f) => [`${f.company} ${f.item} ${f.source}`, f]))
    for (const f of lines.values()) await preferSources([f.source], who.value, why.value, f.item, f.company)
    why.value = ''
    await look()
    await orders.value?.look()
  })
}

function say(value: number | null, unit: string): string {
  if (value === null) return 'none'
  // In full: a slip of scale is seen by its digits.
  const text = Math.abs(value).toLocaleString('en-GB', { maximumFractionDigits: 2 })
  return `${value < 0 ? `(${text})` : text} ${unit}`
}

async function open(sha256: string, at: string): Promise<void> {
  place.value = at
  opened.value = await (await ledger.call(`/documents/${sha256}`)).json()
}
</script>

<template>
  <header>
    <h1>Quality</h1>
    <p v-if="found && view === 'findings'" class="soft">
      <template v-if="found.by_state.quarantined">{{ found.by_state.quarantined }} {{ found.by_state.quarantined === 1 ? 'figure is' : 'figures are' }} in quarantine and not used until somebody accepts them</template>
      <template v-else>No figure waits in quarantine</template>; {{ found.by_state.flagged ?? 0 }} flagged and used
    </p>
    <p v-else class="soft">How many members of a list have each item, year by year</p>
  </header>
  <main>
    <div class="tabline" role="tablist">
      <button class="tab" :class="{ on: view === 'findings' }" role="tab" :aria-selected="view === 'findings'" @click="set({ view: undefined })">Findings</button>
      <button class="tab" :class="{ on: view === 'coverage' }" role="tab" :aria-selected="view === 'coverage'" @click="set({ view: 'coverage' })">Coverage</button>
    </div>
    <p v-if="problem" class="wrong" role="alert">{{ problem }}</p>
    <template v-if="view === 'findings' && found">
      <div class="cuts">
        <section>
          <h2>By check</h2>
          <p v-for="(n, name) in found.by_check" :key="name"><button class="link" :class="{ on: one('check') === name }" :title="found.checks[name]" @click="set({ check: one('check') === name ? undefined : String(name) })">{{ String(name).replaceAll('_', ' ') }}</button> <b>{{ n }}</b> <span class="soft small">{{ found.checks[name] }}</span></p>
          <p v-if="!Object.keys(found.by_check).length" class="soft">No check found anything wrong.</p>
        </section>
        <section>
          <h2>By company</h2>
          <p v-for="c in found.by_company.slice(0, 6)" :key="c.company"><button class="link" :class="{ on: one('company') === c.company }" @click="set({ company: one('company') === c.company ? undefined : c.company })">{{ c.name }}</button> <b>{{ c.findings }}</b></p>
        </section>
        <section>
          <h2>By source</h2>
          <p v-for="(n, name) in found.by_source" :key="name"><button class="link" :class="{ on: one('source') === name }" @click="set({ source: one('source') === name ? undefined : String(name) })">{{ name }}</button> <b>{{ n }}</b></p>
        </section>
      </div>
      <div class="bar">
        <button v-for="(title, state) in STATES" :key="state" class="plain" :class="{ go: one('state') === state }" :aria-pressed="one('state') === state" @click="set({ state: state || undefined })">{{ title }}{{ state ? ` ${found.by_state[state] ?? 0}` : '' }}</button>
        <template v-if="choosable.length">
          <input v-model="who" class="field" placeholder="Who" aria-label="Who decides" />
          <input v-model="why" class="field why" placeholder="Why" aria-label="Why" />
          <template v-if="decidable.length">
            <button class="plain" :disabled="!decided.length" @click="decide(true)">Accept {{ decided.length || '' }}</button>
            <button class="plain" :disabled="!decided.length" @click="decide(false)">Reject {{ decided.length || '' }}</button>
          </template>
          <button v-if="told.length" class="plain" :disabled="!preferred.length" title="Read the source of the chosen figures before others, for their lines of their companies" @click="prefer">Read first {{ preferred.length || '' }}</button>
        </template>
      </div>
      <SourceOrders v-if="told.length" ref="orders" :who="who" :why="why" :attempt="attempt" @changed="look" />
      <div class="scroll" tabindex="0" role="region" aria-label="Findings">
        <table v-if="found.findings.length" class="lined">
          <thead>
            <tr>
              <th><input v-if="choosable.length" type="checkbox" aria-label="Choose all" :checked="chosen.length === choosable.length" @change="chosen = ($event.target as HTMLInputElement).checked ? [...choosable] : []" /></th>
              <th>State</th><th>Company</th><th>Line</th><th>Period</th><th class="n">Figure</th><th>What is wrong</th><th>Document</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="f in found.findings" :key="f.fact + f.check">
              <td><input v-if="f.state !== 'flagged' || f.check === 'sources'" v-model="chosen" type="checkbox" :value="f.fact" :aria-label="`Choose ${f.title} of ${f.name}`" /></td>
              <td :class="{ wrong: f.state === 'quarantined', soft: f.state === 'rejected' }">{{ f.state }}</td>
              <td><router-link :to="{ name: 'statements', query: { company: f.company } }">{{ f.name }}</router-link></td>
              <td>{{ f.title }}</td>
              <td>{{ f.period }}</td>
              <td class="n">{{ say(f.value, f.unit) }}</td>
              <td class="what">{{ f.detail }}<span v-if="f.who" class="soft"> · {{ f.who }}: {{ f.why }}</span></td>
              <td><button class="link" @click="open(f.sha256, f.place)">{{ f.document }}</button></td>
            </tr>
          </tbody>
        </table>
        <p v-else class="soft none">{{ Object.keys(found.by_check).length ? 'Nothing passes these filters: take one away.' : 'Every batch is checked as it comes in: balance, subtotals, cash, quarters, sign, scale, unit, order of periods, duplicates, sources that disagree.' }}</p>
        <p v-if="found.total > found.findings.length" class="soft">{{ found.findings.length }} of {{ found.total }}; the rest with wise-ledger quality --limit</p>
      </div>
    </template>
    <template v-if="view === 'coverage'">
      <div class="bar">
        <select class="field" aria-label="List" :value="list" @change="set({ list: ($event.target as HTMLSelectElement).value })">
          <option v-for="l in lists" :key="l.name" :value="l.name">{{ l.title }}</option>
        </select>
        <select class="field" aria-label="Statement" :value="one('statement')" @change="set({ statement: ($event.target as HTMLSelectElement).value || undefined })">
          <option value="">Every statement</option>
          <option v-for="s in ['income', 'balance', 'cash_flow', 'per_share', 'share_count', 'other']" :key="s" :value="s">{{ s.replace('_', ' ') }}</option>
        </select>
        <span v-if="matrix" class="soft">{{ matrix.members }} members today</span>
      </div>
      <div v-if="matrix" class="scroll tall" tabindex="0" role="region" aria-label="Coverage">
        <table v-if="matrix.rows.length" class="matrix">
          <thead><tr><th>Item</th><th v-for="y in matrix.years" :key="y">{{ y }}</th></tr></thead>
          <tbody>
            <tr v-for="row in matrix.rows" :key="row.item">
              <td><router-link :to="{ name: 'item', params: { code: row.item } }">{{ row.title }}</router-link></td>
              <td v-for="(n, i) in row.companies" :key="i" :style="{ '--share': `${Math.round((n / matrix.members) * 100)}%` }" :title="`${n} of ${matrix.members} in ${matrix.years[i]}`">{{ n }}</td>
            </tr>
          </tbody>
        </table>
        <p v-else class="soft none">No member of this list has a figure yet: collect first.</p>
      </div>
    </template>
  </main>
  <DocumentDialog :document="opened" :place="place" @close="opened = null" />
</template>

<style scoped>
header {
  padding: 20px 24px 0;
}
main {
  padding: 10px 24px 32px;
}
.cuts {
  display: grid;
  grid-template-columns: minmax(0, 2fr) minmax(0, 1.2fr) minmax(0, 0.7fr);
  gap: 32px;
  margin: 10px 0;
}
.link.on {
  font-weight: 600;
  text-decoration: underline;
}
.small {
  font-size: 12.5px;
}
.bar {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
  align-items: center;
  margin: 8px 0;
}
.why {
  flex: 1;
  min-width: 140px;
}
.bar .field {
  font-size: 13px;
}
.scroll {
  overflow-x: auto;
}
.tall {
  max-height: calc(100vh - 190px);
  overflow: auto;
}
.what {
  white-space: normal;
  min-width: 220px;
  line-height: 1.3;
}
.none {
  padding: 24px 0;
}
.matrix {
  border-collapse: separate;
  border-spacing: 2px;
}
.matrix th {
  position: sticky;
  top: 0;
  background: var(--paper);
  font-size: 12.5px;
  color: var(--soft);
  text-align: right;
  padding: 3px 6px;
  z-index: 1;
}
.matrix td {
  text-align: right;
  padding: 3px 6px;
  min-width: 52px;
  font-size: 13px;
  background: color-mix(in srgb, var(--spruce) calc(var(--share, 0%) * 0.55), transparent);
}
.matrix th:first-child,
.matrix td:first-child {
  text-align: left;
  position: sticky;
  left: 0;
  background: var(--paper);
  min-width: 220px;
}
</style>

<script setup lang="ts">
import { computed, defineAsyncComponent, onMounted, ref, watch } from 'vue'
import { type LocationQueryRaw, useRoute, useRouter } from 'vue-router'

import * as ledger from '../api/ledger'
import { type Restatement, restatements, type Statement, statement, statementAsCsv, type StatementLine } from '../api/statements'
import type { Column, DocumentInfo, CompanyInfo, Publications, ScreenedCompany } from '../api/types'
import { figure, instant, SCALES, shortDay } from '../format'
import DocumentDialog from '../screens/DocumentDialog.vue'
import FigurePanel from '../screens/FigurePanel.vue'
import CurrencyChoice from '../shell/CurrencyChoice.vue'
import PageHead from '../shell/PageHead.vue'
import { comparable } from '../statements/comparable'
import StatementTable from '../statements/StatementTable.vue'
import { useStamp } from '../time/stamp'

// Charts weigh more than all the rest: they come when somebody wants one.
const LinesChart = defineAsyncComponent(() => import('../statements/LinesChart.vue'))

const TABS = { income: 'Income', balance: 'Balance sheet', cash_flow: 'Cash flow', per_share: 'Per share', share_count: 'Shares', other: 'Other', restatements: 'Restatements' }
const CHOICES: Record<string, Record<string, string>> = {
  frequency: { annual: 'Years', half: 'Halves', quarter: 'Quarters', trailing: 'Trailing 12 months', cumulative: 'Cumulative' },
  versions: { latest: 'Latest known', first: 'First reported' },
  figures: { normalised: 'Normalised', as_reported: 'As reported' },
  show: { amounts: 'Amounts', common_size: '% of total', growth: 'Growth, %' },
  lines: { filled: 'Filled lines', template: 'Its template', all: 'All lines' },
  periods: { '8': 'Newest 8', '': 'All periods' },
  scale: { mn: 'Millions', bn: 'Billions', k: 'Thousands', units: 'Units' },
}
const FORMS: Record<string, string> = { annual: 'fy', half: 'h', quarter: 'q', trailing: 'ttm', cumulative: 'ytd' }
const route = useRoute()
const router = useRouter()
const { knownOn } = useStamp()
const publications = ref<Publications | null>(null)
const found = ref<Statement[]>([])
const log = ref<Restatement[]>([])
const problem = ref('')
const near = ref<CompanyInfo[]>([])
const asked = ref('')
const document_ = ref<DocumentInfo | null>(null)
const place = ref('')
let abort = new AbortController()

const one = (name: string): string | undefined => (typeof route.query[name] === 'string' && route.query[name] ? (route.query[name] as string) : undefined)
const companies = computed(() => (one('company') ?? '').split(',').filter(Boolean))
const tab = computed(() => one('statement') ?? 'income')
const chosen = computed(() => (one('draw') ?? '').split(',').filter(Boolean))
const opened = computed(() => one('figure') ?? null)
const turned = computed(() => one('turned') === 'yes')
const calendar = computed(() => one('calendar') === 'yes')
const choice = (name: string): string => one(name) ?? (name === 'periods' ? (route.query.periods === '' ? '' : '8') : Object.keys(CHOICES[name]!)[0]!)

function set(values: LocationQueryRaw): void {
  void router.push({ query: { ...route.query, ...values } })
}

function question(company: string): Record<string, string | undefined> {
  return {
    company,
    known_on: knownOn.value,
    statement: tab.value,
    frequency: choice('frequency'),
    versions: choice('versions'),
    figures: choice('figures'),
    show: choice('show'),
    lines: choice('lines'),
    periods: choice('periods') || undefined,
    currency: one('currency'),
    basis: one('basis'),
    hindsight: 'true',
  }
}

watch(
  () => [route.query.company, route.query.currency, route.query.basis, tab.value, knownOn.value, ...Object.keys(CHOICES).map(choice)],
  async () => {
    abort.abort()
    abort = new AbortController()
    try {
      if (tab.value === 'restatements') {
        const [company] = companies.value
        log.value = (await restatements({ company, known_on: knownOn.value, limit: '500' }, abort.signal)).restatements
        if (company && !found.value.length) found.value = [await statement({ ...question(company), statement: 'income' }, abort.signal)]
      } else {
        found.value = await Promise.all(companies.value.map((c) => statement(question(c), abort.signal)))
      }
      problem.value = ''
    } catch (error) {
      if (error instanceof ledger.Problem) problem.value = error.errors[0] ? `${error.errors[0].problem}; ${error.errors[0].mend}` : error.message
    }
  },
  { immediate: true },
)

async function look(text: string): Promise<void> {
  asked.value = text
  near.value = text.length > 1 ? (await ledger.companies(text, knownOn.value, true)).companies.slice(0, 8) : []
}

function take(company: string, beside: boolean): void {
  asked.value = ''
  near.value = []
  set({ company: beside ? [...companies.value, company].join(',') : company, figure: undefined, basis: undefined })
}

onMounted(async () => {
  publications.value = await ledger.publications().catch(() => null)
  if (!companies.value.length) {
    const first = (await ledger.companies('', knownOn.value, false).catch(() => null))?.companies[0]
    if (first) void router.replace({ query: { ...route.query, company: first.id } })
  }
})

const panel = computed<{ company: ScreenedCompany; column: Column } | null>(() => {
  const [item, end, at] = (opened.value ?? '').split(':')
  const of = found.value[Number(at ?? 0)]
  const line = of?.lines.find((l) => l.item === item)
  const n = of?.columns.findIndex((c) => c.nominal_end === end) ?? -1
  const told = line?.cells[n]
  if (!of || !line || !told) return null
  const expression = line.nature === 'flow' ? `${line.item}.${FORMS[of.frequency]}` : line.item
  const cell = { value: told.value, reason: told.reason, currency: of.columns[n]!.currency, period: of.columns[n]!.label, period_end: end!, marks: told.marks, restated: told.restated, restated_later: told.restated_later }
  const company = { company: of.company, name: of.name, symbol: of.symbol, industry: null, industry_title: null, template: of.template, verdict: 'pass' as const, reason: null, cells: [cell] }
  return { company, column: { expression, unit: line.unit, percent: of.show !== 'amounts' } }
})
const series = computed(() =>
  found.value.flatMap((of) =>
    chosen.value.flatMap((code) => {
      const line = of.lines.find((l) => l.item === code)
      if (!line) return []
      const scale = of.show !== 'amounts' ? 100 : ['money', 'shares'].includes(line.unit) ? 10 ** -SCALES[choice('scale')]! : 1
      return [{ name: found.value.length > 1 ? `${of.name}, ${line.title}` : line.title, values: comparable(of, line).map((v) => (v === null ? null : v * scale)) }]
    }),
  ),
)
const restatedLater = computed(() => found.value[0]?.lines.reduce((n, l) => n + l.cells.filter((c) => c.restated_later && !c.restated).length, 0) ?? 0)

/** A basis in short: `tvf:SegmentAxis=agk:Home` is Home. */
function partOf(basis: string): string {
  return basis.split(';').map((part) => part.split(/[=:]/).at(-1)).join(', ')
}

function open(line: StatementLine, column: number, at: number): void {
  // The measure language knows consolidated figures alone.
  if (found.value[at]!.basis !== 'consolidated') return
  set({ figure: `${line.item}:${found.value[at]!.columns[column]!.nominal_end}:${at}` })
}

function choose(item: string): void {
  const now = chosen.value.includes(item) ? chosen.value.filter((c) => c !== item) : [...chosen.value, item]
  set({ draw: now.join(',') || undefined })
}

async function exported(): Promise<void> {
  for (const company of companies.value) {
    const link = document.createElement('a')
    link.href = URL.createObjectURL(await statementAsCsv(question(company)))
    link.download = `${company} ${tab.value} ${choice('frequency')}.csv`
    link.click()
  }
}

function say(value: number | null, unit: string): string {
  return value === null ? 'withdrawn' : figure(value, unit.length === 3 ? 'money' : unit.includes('/') ? 'money_per_share' : unit, false)
}
</script>

<template>
  <PageHead :title="found.length === 1 ? found[0]!.name : found.length ? 'Side by side' : 'Statements'" :publications="publications">
    <template v-if="found.length === 1">
      {{ [found[0]!.symbol ?? found[0]!.company, found[0]!.template, found[0]!.currency && `in ${found[0]!.currency}`].filter(Boolean).join(' · ') }}
      <span v-if="restatedLater" class="later-told"> · {{ restatedLater }} {{ restatedLater === 1 ? 'figure' : 'figures' }} restated later</span>
    </template>
    <template v-else>{{ found.map((f) => f.name).join(', ') || 'Choose a company' }}</template>
  </PageHead>
  <main @keydown.esc="set({ figure: undefined })">
    <div class="bar">
      <div class="tabline" role="tablist" aria-label="Statements">
        <button v-for="(title, name) in TABS" :key="name" class="tab" :class="{ on: tab === name }" role="tab" :aria-selected="tab === name" @click="set({ statement: name, figure: undefined })">
          {{ title }}
        </button>
      </div>
      <div class="find">
        <label v-if="found.length === 1 && (found[0]!.bases.length || one('basis'))">
          <span class="visually-hidden">basis</span>
          <select class="field basis" :value="one('basis') ?? ''" @change="set({ basis: ($event.target as HTMLSelectElement).value || undefined, figure: undefined })">
            <option value="">Consolidated</option>
            <option v-for="b in found[0]!.bases" :key="b" :value="b">{{ partOf(b) }}</option>
          </select>
        </label>
        <input data-search class="field" :value="asked" placeholder="Another company" aria-label="Another company" spellcheck="false" @input="look(($event.target as HTMLInputElement).value)" @keydown.esc="near = []" />
        <ul v-if="near.length" class="sheet near">
          <li v-for="c in near" :key="c.id">
            <button class="link" @click="take(c.id, false)">{{ c.name }}</button>
            <button v-if="companies.length" class="link soft" :aria-label="`${c.name} beside`" @click="take(c.id, true)">beside</button>
          </li>
        </ul>
      </div>
    </div>
    <div v-if="tab !== 'restatements'" class="choices">
      <label v-for="(options, name) in CHOICES" :key="name">
        <span class="visually-hidden">{{ name }}</span>
        <select class="field" :value="choice(String(name))" @change="set({ [name]: ($event.target as HTMLSelectElement).value })">
          <option v-for="(title, value) in options" :key="value" :value="value">{{ title }}</option>
          <option v-if="!(choice(String(name)) in options)" :value="choice(String(name))">{{ name === 'periods' ? `Newest ${choice('periods')}` : choice(String(name)) }}</option>
        </select>
      </label>
      <CurrencyChoice :value="one('currency')" @choose="(currency) => set({ currency })" />
      <button class="plain" :aria-pressed="calendar" title="Head the columns by calendar or by fiscal periods" @click="set({ calendar: calendar ? undefined : 'yes' })">{{ calendar ? 'Calendar' : 'Fiscal' }}</button>
      <button class="plain" :aria-pressed="turned" @click="set({ turned: turned ? undefined : 'yes' })">Transpose</button>
      <button class="plain go" :disabled="!found.length" @click="exported">Export</button>
    </div>
    <p v-if="problem" class="wrong" role="alert">{{ problem }}</p>
    <div v-if="tab === 'restatements'">
      <table v-if="log.length" class="lined log">
        <thead>
          <tr><th>Public since</th><th>Line</th><th>Period</th><th class="n">Was</th><th class="n">Is</th><th class="n">Change, %</th><th class="n">First</th><th class="n">Latest</th><th>Unit</th><th>Document</th></tr>
        </thead>
        <tbody>
          <tr v-for="r in log" :key="r.item + r.period + r.published_at">
            <td>{{ instant(r.published_at) }}</td>
            <td>{{ r.title }}</td>
            <td>{{ r.period }}</td>
            <td class="n">{{ say(r.old, r.unit) }}</td>
            <td class="n" :class="{ missing: r.new === null }">{{ say(r.new, r.unit) }}</td>
            <td class="n" :class="{ wrong: (r.percent ?? 0) < 0 }">{{ r.percent === null ? 'n/a' : r.percent.toFixed(1) }}</td>
            <td class="n">{{ say(r.original, r.unit) }}</td>
            <td class="n">{{ say(r.latest, r.unit) }}</td>
            <td>{{ r.unit.length === 3 ? `${r.unit} mn` : r.unit }}</td>
            <td class="soft">{{ r.document }}</td>
          </tr>
        </tbody>
      </table>
      <p v-else class="soft none">Nothing of this company was restated by {{ shortDay(knownOn) }}.</p>
    </div>
    <div v-else class="body" :class="{ beside: panel }">
      <div class="tables">
        <section v-for="(of, at) in found" :key="of.company">
          <h2 v-if="found.length > 1">
            {{ of.name }} <button class="link soft small" @click="set({ company: companies.filter((_, i) => i !== at).join(','), figure: undefined })">take away</button>
          </h2>
          <StatementTable
            v-if="of.columns.length"
            :found="of"
            :calendar="calendar"
            :turned="turned"
            :chosen="chosen"
            :scale="choice('scale')"
            :opened="opened?.endsWith(`:${at}`) ? opened.slice(0, -`:${at}`.length) : null"
            @open="(line, column) => open(line, column, at)"
            @choose="choose"
          />
          <p v-else class="soft none">Nothing of this statement was public by {{ shortDay(knownOn) }}. Move the stamp on, or choose another frequency.</p>
        </section>
        <p v-if="found.some((f) => f.columns.length)" class="soft hint">
          <template v-if="found[0]!.basis !== 'consolidated'">Figures of {{ partOf(found[0]!.basis) }} alone; they are never mixed with the consolidated ones. </template>
          Heads: period and when it first became public. <i>Italic</i>: formed of other figures. Open a figure to see where it comes from; press a line's name to draw it.
        </p>
        <LinesChart v-if="series.length" :heads="found[0]!.columns.map((c) => (calendar ? c.calendar : c.label))" :series="series" :unit="found[0]!.show === 'amounts' ? `${found[0]!.currency ?? ''} ${choice('scale')}` : '%'" :name="found[0]!.name">
          <b>{{ series.map((s) => s.name).join(', ') }}</b>
        </LinesChart>
      </div>
      <FigurePanel
        v-if="panel"
        :company="panel.company"
        :column="panel.column"
        :at="0"
        :known-on="knownOn"
        :hindsight="true"
        :currency="one('currency')"
        @close="set({ figure: undefined })"
        @open="(d, p) => { document_ = d; place = p }"
      />
    </div>
  </main>
  <DocumentDialog :document="document_" :place="place" @close="document_ = null" />
</template>

<style scoped>
main {
  padding: 10px 24px 32px;
}
.bar {
  display: flex;
  justify-content: space-between;
  align-items: center;
  gap: 16px;
}
.find {
  position: relative;
  display: flex;
  gap: 8px;
}
.basis {
  font-size: 13px;
}
.near {
  position: absolute;
  right: 0;
  top: 34px;
  z-index: 5;
  list-style: none;
  padding: 6px 12px;
  width: 320px;
}
.near li {
  display: flex;
  justify-content: space-between;
  padding: 3px 0;
}
.choices {
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
  margin: 8px 0 10px;
}
.choices .field {
  font-size: 13px;
  min-height: 28px;
  padding: 2px 4px;
}
.choices .plain {
  font-size: 13px;
  min-height: 28px;
  padding: 2px 7px;
}
.choices .go {
  margin-left: auto;
}
.body.beside {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 340px;
  gap: 20px;
}
.tables {
  min-width: 0;
}
section + section {
  margin-top: 20px;
}
.none {
  padding: 24px 0;
}
.hint,
.small {
  font-size: 12.5px;
}
.hint {
  margin-top: 8px;
}
.later-told {
  color: var(--ochre);
}
.log {
  margin-top: 8px;
}
</style>

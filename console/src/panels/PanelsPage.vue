<script setup lang="ts">
import { computed, onMounted, ref, watch } from 'vue'

import * as ledger from '../api/ledger'
import { askExtract, dropExtract, extract, extractFile, keepQuestion, panel, panelFile, panelPlan, questions } from '../api/panels'
import type { ExtractInfo, QuestionInfo } from '../api/types'
import { useAddress } from '../asking/address'
import ProblemNote from '../asking/ProblemNote.vue'
import { useAttempt, useQuestion } from '../asking/question'
import { save } from '../asking/save'
import { useWho } from '../asking/who'
import CurrencyChoice from '../figures/CurrencyChoice.vue'
import PlainTable from '../figures/PlainTable.vue'
import { reasonShort } from '../figures/reasons'
import ExpressionBox from '../measures/ExpressionBox.vue'
import PageHead from '../shell/PageHead.vue'
import { useStamp } from '../time/stamp'
import ColumnLine from './ColumnLine.vue'
import PanelTable from './PanelTable.vue'
import { addressOf, datesUpTo, FREQUENCIES, partsOf, questionOf } from './state'

/** Panels: whom, when and what; the first rows and how the columns lie as one edits; taken away, kept, asked again. */
const AT_SIGHT = 3_000_000 // cells that are summed up while one edits
const { one, several, set } = useAddress()
const { knownOn } = useStamp()
const { who, signed } = useWho()
const { attempt, problem: failed, busy } = useAttempt()
const { answer: lists } = useQuestion(() => ({}), () => ledger.lists())
const known = ref<QuestionInfo[]>([])
const read = async (): Promise<void> => void (known.value = await questions().catch(() => []))
onMounted(read)

const question = computed(() => questionOf({ one, several }, knownOn.value))
const { answer: plan, problem, loading: planning } = useQuestion(() => question.value, panelPlan)
const small = computed(() => plan.value !== null && plan.value.cells <= AT_SIGHT)
const { answer, problem: wrong, loading } = useQuestion(
  () => (question.value && plan.value ? { question: { ...question.value, beside: ['reason' as const, 'period_end' as const] }, limit: 200, summary: small.value } : null),
  panel,
)
const columns = computed(() => several('c'))
const dates = computed(() => one('dates') ?? datesUpTo(knownOn.value))
const parts = computed(() => partsOf(dates.value))
const by = computed(() => (one('periods') ? 'periods' : 'dates'))
const added = ref('')
const typed = ref(one('dates') ?? '')
watch(dates, (d) => (typed.value = d), { immediate: true })

function add(): void {
  const text = added.value.trim()
  if (!text) return
  set({ c: [...columns.value, text] })
  added.value = ''
}
const without = (n: number): void => set({ c: columns.value.filter((_, k) => k !== n) })
function moved(n: number): void {
  const list = [...columns.value]
  ;[list[n - 1], list[n]] = [list[n]!, list[n - 1]!]
  set({ c: list })
}
function range(values: Partial<{ from: string; to: string; every: string }>): void {
  const now = { ...parts.value!, ...values }
  set({ dates: `${now.from}/${now.to} ${now.every}` })
}
function whom(event: Event): void {
  const value = (event.target as HTMLSelectElement).value
  set({ list: value || undefined, co: undefined })
}
const named = (event: Event): void => {
  const found = (event.target as HTMLInputElement).value.split(/[\s,;]+/).filter(Boolean)
  set({ co: found.length ? found : undefined })
}
const turn = (name: string, event: Event): void => set({ [name]: (event.target as HTMLInputElement).checked ? 'on' : undefined })
const text = (name: string, event: Event): void => set({ [name]: (event.target as HTMLInputElement).value.trim() || undefined })

/** A large one is written by the service first. */
const writing = ref<ExtractInfo | null>(null)
async function take(format: string): Promise<void> {
  const asked = { ...question.value!, beside: ['reason' as const] }
  await attempt(async () => {
    if (plan.value!.at_once) return save(await panelFile(asked, format), `panel.${format}`)
    let now = (writing.value = await askExtract(asked, format === 'xlsx' ? 'csv' : format))
    while (writing.value && (now.state === 'waiting' || now.state === 'running')) {
      await new Promise((done) => setTimeout(done, 700))
      now = await extract(now.id)
      if (writing.value) writing.value = now
    }
    if (now.state === 'done') save(await extractFile(now.id), `panel.${now.format}`)
    if (now.state !== 'failed') await dropExtract(now.id).catch(() => undefined)
    writing.value = null
    if (now.state === 'failed') throw new Error(now.problem)
  })
}
async function stop(): Promise<void> {
  const id = writing.value?.id
  writing.value = null
  if (id) await dropExtract(id)
}

const keeping = ref(false)
const name = ref('')
const title = ref('')
function open(event: Event): void {
  const found = known.value.find((q) => q.name === (event.target as HTMLSelectElement).value)
  if (found) set({ list: undefined, co: undefined, dates: undefined, periods: undefined, where: undefined, lag: undefined, close: undefined, first: undefined, ahead: undefined, currency: undefined, ...addressOf(found) })
}
function begin(): void {
  const own = known.value.find((q) => q.name === one('kept'))
  name.value = own?.name ?? ''
  title.value = own?.title ?? ''
  keeping.value = !keeping.value
}
async function keep(): Promise<void> {
  if (await attempt(() => keepQuestion(name.value.trim(), { title: title.value, question: question.value!, who: signed.value }))) {
    keeping.value = false
    set({ kept: name.value.trim() })
    await read()
  }
}
const size = computed(() => (plan.value ? `${plan.value.rows.toLocaleString('en-GB')} rows × ${plan.value.columns.length} columns` : ''))
const unknown = computed(() => Object.entries(answer.value?.unknown ?? {}))
const view = computed(() => (one('view') === 'columns' && small.value ? 'columns' : 'rows'))
</script>

<template>
  <PageHead title="Panels" :list="one('list')"><template v-if="plan && question">{{ plan.title }}, {{ size }}</template></PageHead>
  <main class="pair">
    <section class="left" aria-label="What is asked">
      <div class="kept">
        <select class="field" aria-label="Open a kept panel" :value="one('kept') ?? ''" @change="open">
          <option value="" disabled>{{ known.length ? 'Open a kept panel …' : 'No panel is kept yet' }}</option>
          <option v-for="q in known" :key="q.name" :value="q.name">{{ q.title }}, version {{ q.version }}</option>
        </select>
        <button v-if="question" class="link" @click="begin">{{ keeping ? 'do not keep' : 'keep it' }}</button>
      </div>
      <form v-if="keeping" class="keep" @submit.prevent="keep">
        <input v-model="name" class="field" aria-label="Name" placeholder="name: margins" spellcheck="false" required />
        <input v-model="title" class="field" aria-label="Title" placeholder="title" />
        <input v-model="who" class="field" aria-label="Your name" placeholder="your name" />
        <button class="plain go" :disabled="busy">Keep</button>
      </form>

      <h2>Whom</h2>
      <select class="field" aria-label="Companies" :value="several('co').length ? '*' : (one('list') ?? '')" @change="whom">
        <option value="">All companies active then</option>
        <option v-for="l in lists ?? []" :key="l.name" :value="l.name">{{ l.title }}</option>
        <option v-if="several('co').length" value="*">Companies by name</option>
      </select>
      <input class="field" aria-label="Companies by name" :value="several('co').join(' ')" placeholder="or by name: AGK@ZALD PTP@ZBRE" spellcheck="false" @change="named" />

      <h2>When</h2>
      <p class="choice">
        <button class="link" :class="{ on: by === 'dates' }" :aria-pressed="by === 'dates'" @click="set({ periods: undefined })">on dates</button>
        <button class="link" :class="{ on: by === 'periods' }" :aria-pressed="by === 'periods'" @click="set({ periods: `FY${Number(knownOn.slice(0, 4)) - 9}/FY${knownOn.slice(0, 4)}` })">by fiscal period</button>
      </p>
      <template v-if="by === 'dates'">
        <div v-if="parts" class="range">
          <input type="date" class="field" aria-label="From" :value="parts.from" :max="parts.to" @change="range({ from: ($event.target as HTMLInputElement).value })" />
          <input type="date" class="field" aria-label="To" :value="parts.to" :max="knownOn" @change="range({ to: ($event.target as HTMLInputElement).value })" />
          <select class="field" aria-label="How often" :value="parts.every" @change="range({ every: ($event.target as HTMLSelectElement).value })"><option v-for="f in FREQUENCIES" :key="f" :value="f">{{ f }}</option></select>
        </div>
        <input v-else v-model="typed" class="field" aria-label="Dates" spellcheck="false" @change="set({ dates: typed || undefined })" />
      </template>
      <input v-else class="field" aria-label="Periods" :value="one('periods')" placeholder="FY2015/FY2024, FY2020Q1/FY2024Q4, 2015/2024" spellcheck="false" @change="set({ periods: ($event.target as HTMLInputElement).value.trim() || undefined })" />

      <h2>What</h2>
      <ol v-if="columns.length">
        <li v-for="(c, n) in columns" :key="c + n">
          <span class="code">{{ c }}</span>
          <span class="tools"><button v-if="n" class="link" :aria-label="`Move ${c} up`" @click="moved(n)">↑</button><button class="link" :aria-label="`Take off ${c}`" @click="without(n)">×</button></span>
        </li>
      </ol>
      <ExpressionBox id="p-add" v-model="added" data-search label="Add a column" placeholder="net_margin, m: revenue / employees" @enter="add" />
      <button class="plain" :disabled="!added.trim()" @click="add">Add the column</button>

      <details :open="!!(one('where') || one('lag') || one('close') || one('first') || several('ahead').length)">
        <summary>Rows, versions, returns ahead</summary>
        <label>Only rows where <input class="field code" :value="one('where') ?? ''" placeholder="market_value > 100mn EUR" spellcheck="false" @change="text('where', $event)" /></label>
        <label>Only what was known <input class="field tiny" type="number" min="0" max="3660" :value="one('lag') ?? 0" @change="set({ lag: Number(($event.target as HTMLInputElement).value) ? ($event.target as HTMLInputElement).value : undefined })" /> days before</label>
        <label class="check"><input type="checkbox" :checked="one('close') === 'on'" @change="turn('close', $event)" /> cut off at the close of each venue</label>
        <label class="check"><input type="checkbox" :checked="one('first') === 'on'" @change="turn('first', $event)" /> figures as first reported</label>
        <label>Return ahead <input class="field" :value="several('ahead').join(', ')" placeholder="total 3mo" spellcheck="false" @change="set({ ahead: ($event.target as HTMLInputElement).value.split(',').map((t) => t.trim()).filter(Boolean) })" /></label>
      </details>
    </section>

    <div class="right" :aria-busy="loading || planning">
      <p v-if="!question" class="none soft">
        Add a column on the left, a measure such as <button class="link code" @click="set({ c: ['operating_margin', 'revenue_growth', 'price_to_earnings'] })">operating_margin, revenue_growth, price_to_earnings</button>, and see it for every company and date, as it was known then, with a reason in every hole.
      </p>
      <template v-else>
        <ProblemNote :problem="problem ?? wrong ?? failed" />
        <template v-if="plan && !problem">
          <div class="bar">
            <nav class="tabline" aria-label="Views">
              <button class="tab" :class="{ on: view === 'rows' }" :aria-pressed="view === 'rows'" @click="set({ view: undefined })">Rows</button>
              <button class="tab" :class="{ on: view === 'columns' }" :aria-pressed="view === 'columns'" :disabled="!small" @click="set({ view: 'columns' })">How the columns lie</button>
            </nav>
            <span class="soft">{{ size }}<template v-if="answer && answer.total !== null && answer.total !== plan.rows">, {{ answer.total.toLocaleString('en-GB') }} of them where the condition holds</template><template v-if="unknown.length">; unknown: <template v-for="([r, n], i) in unknown" :key="r">{{ i ? ', ' : '' }}{{ reasonShort(r) }} {{ n }}</template></template></span>
            <span class="end">
              <CurrencyChoice :value="one('currency')" @choose="(c) => set({ currency: c })" />
              <button v-for="f in ['csv', 'xlsx', 'parquet']" :key="f" class="plain" :disabled="busy" @click="take(f)">{{ f.toUpperCase() }}</button>
            </span>
          </div>
          <p v-for="f in plan.failed" :key="f.asked" class="wrong">{{ f.asked }}: {{ f.problem }}; {{ f.mend }}</p>
          <p v-if="writing" class="writing" role="status">The service writes it: {{ writing.done }} of {{ writing.total || '…' }} dates, {{ writing.rows.toLocaleString('en-GB') }} rows <progress :value="writing.done" :max="writing.total || 1" /> <button class="link" @click="stop">stop</button></p>
          <div v-if="answer" :class="{ waiting: loading || planning }">
            <template v-if="view === 'rows'">
              <PanelTable v-if="answer.records.length" :answer="answer" :known-on="knownOn" />
              <p v-else class="none soft">Of no company and date is the condition true.</p>
              <p v-if="answer.total === null || answer.total > answer.records.length" class="soft">The first {{ answer.records.length }} rows. All of them: CSV, XLSX or Parquet.</p>
            </template>
            <div v-else class="across" tabindex="0" role="region" aria-label="How the columns lie">
            <PlainTable class="lies" label="How each column lies">
              <thead><tr><th>Column</th><th class="n">Filled</th><th>Missing</th><th class="n">Least</th><th class="n">Lower quartile</th><th class="n">Median</th><th class="n">Upper quartile</th><th class="n">Greatest</th><th>Greatest is</th></tr></thead>
              <tbody><ColumnLine v-for="s in answer.summary" :key="s.name" :summary="s" /></tbody>
            </PlainTable>
            </div>
          </div>
        </template>
      </template>
    </div>
  </main>
</template>

<style scoped>
.left {
  display: grid;
  gap: 6px;
  align-content: start;
  font-size: 13px;
}
.left .field {
  width: 100%;
  box-sizing: border-box;
}
h2 {
  font-size: 15px;
  margin: 8px 0 0;
}
.kept,
.choice,
.keep {
  display: flex;
  gap: 10px;
  align-items: center;
}
.keep {
  flex-wrap: wrap;
}
.kept .link {
  white-space: nowrap;
}
.choice .on {
  font-weight: 600;
  text-decoration: none;
  color: var(--ink);
}
.range {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 6px;
}
.range select {
  grid-column: 1 / -1;
}
ol {
  list-style: none;
  padding: 0;
  margin: 0;
}
li {
  display: flex;
  gap: 8px;
  padding: 2px 0;
  border-bottom: 1px solid var(--rule);
}
li .code {
  overflow-wrap: anywhere;
}
.tools {
  margin-left: auto;
  display: flex;
  gap: 8px;
}
.plain {
  justify-self: start;
}
details {
  margin-top: 8px;
}
summary {
  cursor: pointer;
  font-weight: 600;
}
details label {
  display: block;
  margin-top: 6px;
}
.left .tiny {
  width: 64px;
}
.left .check input {
  width: auto;
}
.bar {
  display: flex;
  gap: 16px;
  align-items: center;
  flex-wrap: wrap;
  font-size: 13px;
  margin-bottom: 8px;
}
.end {
  margin-left: auto;
  display: flex;
  gap: 8px;
  align-items: center;
}
.none {
  padding: 50px 0;
  max-width: 480px;
}
.waiting {
  opacity: 0.55;
}
.across {
  overflow-x: auto;
}
.lies td {
  vertical-align: top;
}
</style>

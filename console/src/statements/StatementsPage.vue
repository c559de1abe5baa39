<script setup lang="ts">
import { computed, defineAsyncComponent, onMounted } from 'vue'

import * as ledger from '../api/ledger'
import { restatements, statement, statementAsCsv } from '../api/statements'
import type { StatementLine } from '../api/types'
import ProblemNote from '../asking/ProblemNote.vue'
import { useQuestion } from '../asking/question'
import { save } from '../asking/save'
import FigurePanel from '../figures/FigurePanel.vue'
import PageHead from '../shell/PageHead.vue'
import { shortDay } from '../time/format'
import CompanyFinder from './CompanyFinder.vue'
import { figureKey, openFigure, partOf } from './open'
import RestatementLog from './RestatementLog.vue'
import { TABS, useStatementState } from './state'
import StatementChoices from './StatementChoices.vue'
import StatementTable from './StatementTable.vue'
import { drawn } from './trend'

// Charts weigh more than all the rest: they come when somebody wants one.
const LinesChart = defineAsyncComponent(() => import('./LinesChart.vue'))

const { router, route, ...state } = useStatementState()
const { knownOn, companies, tab, chosen, opened, calendar, transposed, currency, basis, choice, set } = state

const { answer, problem } = useQuestion(
  () => companies.value.map(state.question),
  (asked, signal) => Promise.all(asked.map((question) => statement(question, signal))),
)
const { answer: log, problem: logProblem } = useQuestion(
  () =>
    tab.value === 'restatements' && companies.value[0]
      ? { company: companies.value[0], known_on: knownOn.value }
      : null,
  restatements,
)

const found = computed(() => answer.value ?? [])
const first = computed(() => found.value[0])
const about = computed(() => {
  const of = first.value
  if (found.value.length !== 1 || !of) return found.value.map((f) => f.name).join(', ') || 'Choose a company'
  return [of.symbol ?? of.company, of.template, of.currency && `in ${of.currency}`].filter(Boolean).join(' · ')
})
const heading = computed(() => (found.value.length > 1 ? 'Side by side' : (first.value?.name ?? 'Statements')))
const restatedLater = computed(() => {
  if (found.value.length !== 1) return 0
  const cells = first.value!.lines.flatMap((line) => line.cells)
  return cells.filter((cell) => cell.restated_later && !cell.restated).length
})
const panel = computed(() => (tab.value === 'restatements' ? null : openFigure(opened.value, found.value)))
const series = computed(() => drawn(found.value, chosen.value, choice('scale')))

onMounted(async () => {
  if (companies.value.length) return
  const asked = { query: '', on: knownOn.value, with_inactive: false }
  const one = (await ledger.companies(asked).catch(() => null))?.companies[0]
  if (one) void router.replace({ query: { ...route.query, company: one.id } })
})

function add(company: string, beside: boolean): void {
  const shown = beside ? [...companies.value, company].join(',') : company
  set({ company: shown, figure: undefined, basis: undefined })
}

function remove(at: number): void {
  set({ company: companies.value.filter((_, i) => i !== at).join(','), figure: undefined })
}

function open(line: StatementLine, column: number, at: number): void {
  // The measure language knows consolidated figures alone.
  if (found.value[at]!.basis === 'consolidated') set({ figure: figureKey(line, found.value[at]!, column, at) })
}

function openedIn(at: number): string | null {
  const [item, end, of] = (opened.value ?? '').split(':')
  return Number(of) === at ? `${item}:${end}` : null
}

function choose(item: string): void {
  const now = chosen.value.includes(item) ? chosen.value.filter((c) => c !== item) : [...chosen.value, item]
  set({ draw: now.join(',') || undefined })
}

async function exported(): Promise<void> {
  for (const company of companies.value) {
    save(await statementAsCsv(state.question(company)), `${company} ${tab.value} ${choice('frequency')}.csv`)
  }
}
</script>

<template>
  <PageHead :title="heading" :company="companies.length === 1 ? companies[0] : undefined">
    {{ about }}
    <span v-if="restatedLater" class="restated-later">
      · {{ restatedLater }} {{ restatedLater === 1 ? 'figure' : 'figures' }} restated later</span
    >
  </PageHead>
  <main>
    <div class="bar">
      <div class="tabline" role="tablist" aria-label="Statements">
        <button
          v-for="(title, name) in TABS"
          :key="name"
          class="tab"
          :class="{ on: tab === name }"
          role="tab"
          :aria-selected="tab === name"
          @click="set({ statement: name, figure: undefined })"
        >
          {{ title }}
        </button>
      </div>
      <div class="find">
        <label v-if="found.length === 1 && (first!.bases.length || basis)">
          <span class="visually-hidden">basis</span>
          <select
            class="field basis"
            :value="basis ?? ''"
            @change="set({ basis: ($event.target as HTMLSelectElement).value || undefined, figure: undefined })"
          >
            <option value="">Consolidated</option>
            <option v-for="b in first!.bases" :key="b" :value="b">{{ partOf(b) }}</option>
          </select>
        </label>
        <CompanyFinder :known-on="knownOn" :beside="companies.length > 0" @choose="add" />
      </div>
    </div>
    <StatementChoices v-if="tab !== 'restatements'" :exportable="found.length > 0" @export="exported" />
    <ProblemNote :problem="problem ?? logProblem" />
    <template v-if="tab === 'restatements'">
      <RestatementLog v-if="log?.restatements.length" :log="log.restatements" />
      <p v-else class="soft none">Nothing of this company was restated by {{ shortDay(knownOn) }}.</p>
    </template>
    <div v-else class="body" :class="{ beside: panel }">
      <div class="tables">
        <section v-for="(of, at) in found" :key="of.company">
          <h2 v-if="found.length > 1">
            {{ of.name }} <button class="link soft small" @click="remove(at)">take away</button>
          </h2>
          <StatementTable
            v-if="of.columns.length"
            :found="of"
            :calendar="calendar"
            :transposed="transposed"
            :chosen="chosen"
            :scale="choice('scale')"
            :opened="openedIn(at)"
            @open="(line, column) => open(line, column, at)"
            @choose="choose"
          />
          <p v-else class="soft none">
            Nothing of this statement was public by {{ shortDay(knownOn) }}. Move the stamp on, or choose another
            frequency.
          </p>
        </section>
        <p v-if="found.some((f) => f.columns.length)" class="soft hint">
          <template v-if="first!.basis !== 'consolidated'"
            >Figures of {{ partOf(first!.basis) }} alone; they are never mixed with the consolidated ones.
          </template>
          Heads: period and when it first became public. <i>Italic</i>: formed of other figures. Open a figure to see
          where it comes from; press a line's name to draw it.
        </p>
        <LinesChart
          v-if="series.length"
          :heads="first!.columns.map((c) => (calendar ? c.calendar : c.label))"
          :series="series"
          :unit="first!.show === 'amounts' ? `${first!.currency ?? ''} ${choice('scale')}` : '%'"
          :name="first!.name"
        >
          <b>{{ series.map((s) => s.name).join(', ') }}</b>
        </LinesChart>
      </div>
      <FigurePanel
        v-if="panel"
        :figure="panel"
        :known-on="knownOn"
        :hindsight="true"
        :currency="currency"
        @close="set({ figure: undefined })"
        />
    </div>
  </main>
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
  display: flex;
  gap: 8px;
}
.basis {
  font-size: 13px;
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
.restated-later {
  color: var(--ochre);
}
</style>

<script setup lang="ts">
import { computed } from 'vue'

import { restatements, statementAsCsv } from '../api/statements'
import type { StatementLine } from '../api/types'
import ProblemNote from '../asking/ProblemNote.vue'
import { useQuestion } from '../asking/question'
import { save } from '../asking/save'
import { useFirstCompany } from '../companies/first'
import FigurePanel from '../figures/FigurePanel.vue'
import { counted } from '../figures/numbers'
import PageHead from '../shell/PageHead.vue'
import { shortDay } from '../time/format'
import { answered } from './asked'
import DrawnLines from './DrawnLines.vue'
import { looksOf, rowsOf } from './arranged'
import { figureKey, openFigure } from './open'
import RestatementLog from './RestatementLog.vue'
import { TABS, useStatementState } from './state'
import StatementBar from './StatementBar.vue'
import StatementChoices from './StatementChoices.vue'
import StatementHint from './StatementHint.vue'
import StatementTable from './StatementTable.vue'

const state = useStatementState()
const { knownOn, companies, tab, chosen, opened, calendar, transposed, currency, choice, set } =
  state
const { both, ratios, compared, hindsight, indexed } = state

const { answer, current, problem } = useQuestion(
  () =>
    companies.value.length
      ? companies.value.map((company) => ({
          ...state.question(company),
          both: both.value,
          ratios: ratios.value,
          compared: compared.value,
        }))
      : null,
  (asked, signal) =>
    Promise.all(
      asked.map(({ both, ratios, compared, ...question }) =>
        answered({ question, both, ratios, compared }, signal),
      ),
    ),
)
const { answer: log, problem: logProblem } = useQuestion(
  () =>
    tab.value === 'restatements' && companies.value[0]
      ? { company: companies.value[0], known_on: knownOn.value }
      : null,
  restatements,
)

const parts = computed(() => answer.value ?? [])
const found = computed(() => parts.value.map((part) => part.found))
const first = computed(() => found.value[0])
const about = computed(() => {
  const of = first.value
  if (found.value.length !== 1 || !of)
    return (
      found.value.map((f) => f.name).join(', ') ||
      (companies.value.length ? '' : 'Choose a company')
    )
  return [of.symbol ?? of.company, of.template, of.currency && `in ${of.currency}`]
    .filter(Boolean)
    .join(' · ')
})
const heading = computed(() =>
  found.value.length > 1 ? 'Side by side' : (first.value?.name ?? 'Statements'),
)
const restatedLater = computed(() => {
  if (!current.value || found.value.length !== 1) return 0
  const cells = first.value!.lines.flatMap((line) => line.cells)
  return cells.filter((cell) => cell.restated_later && !cell.restated).length
})
const panel = computed(() =>
  tab.value === 'restatements' ? null : openFigure(opened.value, found.value),
)
const changed = computed(() => {
  const [part] = parts.value
  if (parts.value.length !== 1 || !part?.earlier) return 0
  const look = looksOf(part.found, choice('scale'), part.earlier)
  const rows = rowsOf(part.found, null, null)
  return rows.reduce((sum, row) => sum + row.cells.filter((_, n) => look(row, n).was).length, 0)
})

const nobody = useFirstCompany(() => companies.value.length > 0)

function remove(at: number): void {
  set({ company: companies.value.filter((_, i) => i !== at).join(','), figure: undefined })
}

function open(line: StatementLine, column: number, at: number): void {
  // The measure language knows consolidated figures alone.
  if (found.value[at]!.basis === 'consolidated')
    set({ figure: figureKey(line, found.value[at]!, column, at) })
}

function openedIn(at: number): string | null {
  const [item, end, of] = (opened.value ?? '').split(':')
  return Number(of) === at ? `${item}:${end}` : null
}

function choose(item: string): void {
  const now = chosen.value.includes(item)
    ? chosen.value.filter((c) => c !== item)
    : [...chosen.value, item]
  set({ draw: now.join(',') || undefined })
}

async function exported(): Promise<void> {
  for (const company of companies.value) {
    save(
      await statementAsCsv(state.question(company)),
      `${company} ${tab.value} ${choice('frequency')}.csv`,
    )
  }
}
</script>

<template>
  <PageHead
    :title="heading"
    :about="TABS[tab as keyof typeof TABS]"
    :company="companies.length === 1 ? companies[0] : undefined"
  >
    {{ about }}
    <span v-if="restatedLater" class="restated-later">
      · {{ counted(restatedLater, 'figure') }} restated later</span
    >
  </PageHead>
  <main>
    <StatementBar :bases="found.length === 1 ? first!.bases : []" />
    <StatementChoices
      v-if="tab !== 'restatements'"
      :exportable="found.length > 0"
      @export="exported"
    />
    <ProblemNote :problem="problem ?? logProblem ?? nobody" />
    <div
      v-if="tab === 'restatements'"
      id="statement"
      role="tabpanel"
      :aria-labelledby="`tab-${tab}`"
    >
      <RestatementLog v-if="log?.restatements.length" :log="log.restatements" />
      <p v-else-if="log" class="soft none">
        Nothing of this company was restated by {{ shortDay(knownOn) }}.
      </p>
    </div>
    <div
      v-else
      id="statement"
      role="tabpanel"
      :aria-labelledby="`tab-${tab}`"
      class="body"
      :class="{ beside: panel }"
    >
      <div class="tables">
        <p v-if="compared && current" class="soft hint" role="status">
          <b>{{ changed }}</b> {{ changed === 1 ? 'figure reads' : 'figures read' }} otherwise than
          on {{ shortDay(compared) }}: what stood then is before the arrow.
        </p>
        <DrawnLines
          :found="found"
          :chosen="chosen"
          :scale="choice('scale')"
          :indexed="indexed"
          :calendar="calendar"
          @index="(on) => set({ indexed: on ? 'yes' : undefined })"
          @convert="(to) => set({ currency: to })"
        />
        <section v-for="({ found: of, growth, share, earlier }, at) in parts" :key="of.company">
          <h2 v-if="found.length > 1">
            {{ of.name }} <button class="link soft small" @click="remove(at)">Remove</button>
          </h2>
          <StatementTable
            v-if="of.columns.length"
            :found="of"
            :growth="growth"
            :share="share"
            :earlier="earlier"
            :calendar="calendar"
            :transposed="transposed"
            :chosen="chosen"
            :scale="choice('scale')"
            :opened="openedIn(at)"
            @open="(line, column) => open(line, column, at)"
            @choose="choose"
          />
          <p v-else class="soft none">
            Nothing of this statement was public by {{ shortDay(knownOn) }}. Move the stamp on, or
            choose another frequency.
          </p>
        </section>
        <StatementHint v-if="found.some((f) => f.columns.length)" :basis="first!.basis" />
      </div>
      <FigurePanel
        v-if="panel"
        :figure="panel"
        :known-on="knownOn"
        :hindsight="hindsight"
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
  color: var(--ochre-ink);
}
</style>

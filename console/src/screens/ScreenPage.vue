<script setup lang="ts">
import { computed, ref, watch } from 'vue'

import * as ledger from '../api/ledger'
import type { ScreenAnswer, ScreenedCompany, Verdict } from '../api/types'
import { useQuestion } from '../asking/question'
import { save } from '../asking/save'
import CurrencyChoice from '../figures/CurrencyChoice.vue'
import FigurePanel, { type OpenFigure } from '../figures/FigurePanel.vue'
import { counted } from '../figures/numbers'
import { inOrder } from '../figures/sorting'
import { columnName } from '../lists/state'
import PageHead from '../shell/PageHead.vue'
import { useStamp } from '../time/stamp'
import AddColumn from './AddColumn.vue'
import ConditionCounts from './ConditionCounts.vue'
import KeepList from './KeepList.vue'
import { moved } from './moved'
import ResultTable from './ResultTable.vue'
import RuleEditor from './RuleEditor.vue'
import { useScreenState } from './state'
import VerdictBar from './VerdictBar.vue'
import VerdictTabs from './VerdictTabs.vue'

const NOTHING: Record<Verdict, string> = {
  pass: 'No company passes on that day. Loosen the rule, or move the stamp.',
  fail: 'No company fails on that day.',
  unknown: 'No company is unknown on that day: every figure that the rule needs was there.',
}
const state = useScreenState()
const { knownOn } = useStamp()
const movement = ref('')

const { answer: lists, problem: listsProblem } = useQuestion(
  () => ({}),
  () => ledger.lists(),
)
const list = computed(() => state.list.value ?? lists.value?.[0]?.name)
// What was assumed stands in the address: another list kept meanwhile does not change what a link
// shows.
watch(list, (name) => name && !state.list.value && state.settleList(name), { immediate: true })
const asked = computed(() =>
  list.value
    ? {
        rule: state.rule.value,
        list: list.value,
        show: state.columns.value,
        known_on: knownOn.value,
        hindsight: state.hindsight.value,
        currency: state.currency.value,
      }
    : null,
)
const {
  answer,
  current,
  problem: screenProblem,
  loading,
} = useQuestion(() => asked.value, ledger.screen)
const problem = computed(() => screenProblem.value ?? listsProblem.value)
watch(answer, (now: ScreenAnswer | null, before: ScreenAnswer | null) => {
  movement.value = now ? moved(before, now) : ''
})

// A count stands for an answer: without one there is none.
const counts = computed(() => current.value?.counts)
const ofVerdict = computed(() =>
  (answer.value?.companies ?? []).filter((c) => c.verdict === state.show.value),
)
const shown = computed(() =>
  inOrder(ofVerdict.value, state.sort.value, (company, by) => {
    if (by === 'name' || by === 'industry_title') return company[by]
    return company.cells[answer.value!.columns.findIndex((c) => c.name === by)]?.value
  }),
)
const passing = computed(() =>
  (current.value?.companies ?? []).flatMap((c: ScreenedCompany) =>
    c.verdict === 'pass' ? [c.company] : [],
  ),
)
const nothing = computed(() =>
  answer.value?.companies.length
    ? NOTHING[state.show.value]
    : 'No company was on this list on that day: move the stamp to a later one.',
)
const figure = computed<OpenFigure | null>(() => {
  const opened = state.opened.value
  const company = answer.value?.companies.find((c) => c.company === opened?.company)
  const column = opened && answer.value?.columns[opened.column]
  const cell = opened && company?.cells[opened.column]
  return company && column && cell ? { ...company, column, cell } : null
})

async function exported(): Promise<void> {
  if (asked.value)
    save(await ledger.screenAsCsv(asked.value), `screen ${asked.value.list} ${knownOn.value}.csv`)
}
</script>

<template>
  <PageHead title="Screens" :list="list">
    <template v-if="lists?.length">
      over
      <select
        class="list"
        aria-label="List"
        :value="list"
        @change="state.setList(($event.target as HTMLSelectElement).value)"
      >
        <option v-for="entry in lists" :key="entry.name" :value="entry.name">
          {{ entry.title }}
        </option>
        <option v-if="list && !lists.some((l) => l.name === list)" :value="list">
          {{ list }}
        </option></select
      ><template v-if="current"
        >, {{ counted(current.companies.length, 'company') }} on that day</template
      >
    </template>
  </PageHead>
  <main v-if="lists && lists.length === 0 && !problem" class="empty">
    <h2>The ledger is empty</h2>
    <p>Collect from a source first:</p>
    <p class="code">wise-ledger collect fernmark</p>
  </main>
  <main v-else :class="{ opened: figure }">
    <div class="work">
      <RuleEditor
        :rule="state.rule.value"
        :problem="problem"
        :busy="loading"
        @run="state.setRule"
      />
      <ConditionCounts v-if="current?.conditions?.length" :conditions="current.conditions" />
      <VerdictBar v-if="counts" :counts="counts" />
      <div class="tabs">
        <VerdictTabs :counts="counts" :shown="state.show.value" @choose="state.setShow" />
        <span class="moved" role="status">{{ movement }}</span>
        <CurrencyChoice class="own" :value="state.currency.value" @choose="state.setCurrency" />
        <label
          class="hindsight"
          title="Mark figures that are restated after the stamp; never part of an export"
        >
          <input
            type="checkbox"
            :checked="state.hindsight.value"
            @change="state.setHindsight(($event.target as HTMLInputElement).checked)"
          />
          Hindsight
        </label>
        <AddColumn
          @add="(column) => state.setColumns([...new Set([...state.columns.value, column])])"
        />
        <KeepList :companies="passing" />
        <button class="plain go" :disabled="!current || problem !== null" @click="exported">
          Export CSV
        </button>
      </div>
      <p v-if="loading && !answer" class="soft none" role="status">Looking …</p>
      <template v-if="answer">
        <ResultTable
          v-if="shown.length"
          :columns="answer.columns"
          :companies="shown"
          :opened="state.opened.value"
          :sort="state.sort.value"
          :added="state.columns.value.map(columnName)"
          @open="state.open"
          @sort="state.setSort"
          @drop="
            (name) => state.setColumns(state.columns.value.filter((c) => columnName(c) !== name))
          "
        />
        <p v-else-if="current" class="none soft">{{ nothing }}</p>
      </template>
    </div>
    <FigurePanel
      v-if="figure"
      :figure="figure"
      :known-on="knownOn"
      :hindsight="state.hindsight.value"
      :currency="figure.cell.currency ?? undefined"
      @close="state.open(null)"
    />
  </main>
</template>

<style scoped>
main {
  padding: 16px 24px 32px;
}
main.opened {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 300px;
  gap: 24px;
}
.work {
  min-width: 0;
}
.list {
  border: 0;
  border-bottom: 1px dotted var(--soft);
  font-weight: 600;
  color: var(--ink);
  background: var(--paper);
  cursor: pointer;
}
.tabs {
  display: flex;
  flex-wrap: wrap;
  gap: 6px 10px;
  align-items: center;
  margin: 8px 0 4px;
}
.tabs .plain {
  white-space: nowrap;
}
.moved {
  flex: 1 1 0;
  color: var(--plum);
  font-size: 13px;
  min-width: 0;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
/* Who joined and left is read whole, on a line of its own. */
.moved:not(:empty) {
  order: 9;
  flex: 1 0 100%;
  white-space: normal;
}
.hindsight {
  display: flex;
  gap: 6px;
  align-items: center;
  font-size: 13px;
  white-space: nowrap;
  accent-color: var(--spruce);
}
.none,
.empty {
  padding: 40px 0;
}
.empty {
  padding: 48px 24px;
  display: grid;
  gap: 8px;
}
</style>

<script setup lang="ts">
import { computed, ref, watch } from 'vue'

import * as ledger from '../api/ledger'
import type { ScreenAnswer, Verdict } from '../api/types'
import { useQuestion } from '../asking/question'
import { save } from '../asking/save'
import CurrencyChoice from '../figures/CurrencyChoice.vue'
import FigurePanel, { type OpenFigure } from '../figures/FigurePanel.vue'
import PageHead from '../shell/PageHead.vue'
import { useStamp } from '../time/stamp'
import { moved } from './moved'
import ResultTable from './ResultTable.vue'
import RuleEditor from './RuleEditor.vue'
import { useScreenState } from './state'
import VerdictBar from './VerdictBar.vue'

const NOTHING: Record<Verdict, string> = {
  pass: 'Nobody passes on that day. Loosen the rule, or move the stamp.',
  fail: 'Nobody fails on that day.',
  unknown: 'Nobody is unknown on that day: every figure that the rule needs was there.',
}
const state = useScreenState()
const { knownOn } = useStamp()
const movement = ref('')

const { answer: lists, problem: listsProblem } = useQuestion(
  () => ({}),
  () => ledger.lists(),
)
const list = computed(() => state.list.value ?? lists.value?.[0]?.name)
const asked = computed(() =>
  list.value
    ? {
        rule: state.rule.value,
        list: list.value,
        known_on: knownOn.value,
        hindsight: state.hindsight.value,
        currency: state.currency.value,
      }
    : null,
)
const { answer, problem: screenProblem, loading } = useQuestion(() => asked.value, ledger.screen)
const problem = computed(() => screenProblem.value ?? listsProblem.value)
watch(answer, (now: ScreenAnswer | null, before: ScreenAnswer | null) => {
  movement.value = now ? moved(before, now) : ''
})

const counts = computed(() => answer.value?.counts ?? { passed: 0, failed: 0, unknown: 0 })
const tabs = computed<{ verdict: Verdict; count: number; word: string }[]>(() => [
  { verdict: 'pass', count: counts.value.passed, word: 'pass' },
  { verdict: 'fail', count: counts.value.failed, word: 'fail' },
  { verdict: 'unknown', count: counts.value.unknown, word: 'unknown' },
])
const shown = computed(() => (answer.value?.companies ?? []).filter((c) => c.verdict === state.show.value))
const nothing = computed(() =>
  answer.value?.companies.length
    ? NOTHING[state.show.value]
    : 'Nobody stood on this list on that day: move the stamp to a later one.',
)
const figure = computed<OpenFigure | null>(() => {
  const opened = state.opened.value
  const company = answer.value?.companies.find((c) => c.company === opened?.company)
  const column = opened && answer.value?.columns[opened.column]
  const cell = opened && company?.cells[opened.column]
  return company && column && cell ? { ...company, column, cell } : null
})

async function exported(): Promise<void> {
  if (asked.value) save(await ledger.screenAsCsv(asked.value), `screen ${asked.value.list} ${knownOn.value}.csv`)
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
        <option v-for="entry in lists" :key="entry.name" :value="entry.name">{{ entry.title }}</option>
        <option v-if="list && !lists.some((l) => l.name === list)" :value="list">{{ list }}</option></select
      ><template v-if="answer">, {{ answer.companies.length }} companies on that day</template>
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
      <VerdictBar :counts="counts" />
      <div class="tabs">
        <button
          v-for="tab in tabs"
          :key="tab.verdict"
          class="tab"
          :class="{ on: state.show.value === tab.verdict }"
          :aria-pressed="state.show.value === tab.verdict"
          @click="state.setShow(tab.verdict)"
        >
          {{ tab.count }} {{ tab.word }}
        </button>
        <span class="moved" role="status">{{ movement }}</span>
        <CurrencyChoice class="own" :value="state.currency.value" @choose="state.setCurrency" />
        <label class="hindsight" title="Mark figures that are restated after the stamp; never part of an export">
          <input
            type="checkbox"
            :checked="state.hindsight.value"
            @change="state.setHindsight(($event.target as HTMLInputElement).checked)"
          />
          Hindsight
        </label>
        <button class="plain go" :disabled="!answer || problem !== null" @click="exported">Export CSV</button>
      </div>
      <template v-if="answer">
        <p v-if="problem" class="soft old">Below stands the answer to the rule before.</p>
        <ResultTable
          v-if="shown.length"
          :columns="answer.columns"
          :companies="shown"
          :opened="state.opened.value"
          @open="state.open"
        />
        <p v-else class="none soft">{{ nothing }}</p>
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
  gap: 18px;
  align-items: center;
  margin: 8px 0 4px;
}
.tab {
  all: unset;
  cursor: pointer;
  padding-bottom: 1px;
  border-bottom: 2px solid transparent;
  white-space: nowrap;
}
.tab.on {
  color: var(--spruce);
  font-weight: 600;
  border-color: var(--spruce);
}
.tab:focus-visible {
  outline: 2px solid var(--spruce);
}
.moved {
  flex: 1;
  color: var(--plum);
  font-size: 13px;
  min-width: 0;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.hindsight {
  display: flex;
  gap: 6px;
  align-items: center;
  font-size: 13px;
  white-space: nowrap;
  accent-color: var(--spruce);
}
.old {
  font-size: 13px;
  padding: 4px 0 8px;
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

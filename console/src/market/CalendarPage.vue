<script setup lang="ts">
import { computed } from 'vue'

import { calendar } from '../api/market'
import { useAddress } from '../asking/address'
import ProblemNote from '../asking/ProblemNote.vue'
import { useQuestion } from '../asking/question'
import PlainTable from '../figures/PlainTable.vue'
import { asTable } from '../figures/charting'
import { bracketed } from '../figures/numbers'
import ListChoice from '../lists/ListChoice.vue'
import PageHead from '../shell/PageHead.vue'
import { instant, shortDay } from '../time/format'
import { useStamp } from '../time/stamp'
import { amount, amountIn } from './amounts'
import { around } from './sorting'

/**
 * When the members of a list announce: what is expected of the weeks to come, what was announced
 * in those before.
 */
const SPANS = [30, 60, 120]
const { one, set } = useAddress()
const { knownOn } = useStamp()
const list = computed(() => one('list'))
const measure = computed(() => one('measure') ?? 'eps')
const unit = computed(() => (measure.value === 'eps' ? 'money_per_share' : 'money'))
const span = computed(() => Number(one('days') ?? 60) || 60)

const {
  answer: found,
  current,
  problem,
  loading,
} = useQuestion(
  () => ({
    list: list.value,
    known_on: knownOn.value,
    measure: measure.value,
    ...around(knownOn.value, span.value),
  }),
  calendar,
)
const expected = computed(() => (found.value?.entries ?? []).filter((e) => e.state !== 'announced'))
const announced = computed(() =>
  (found.value?.entries ?? []).filter((e) => e.state === 'announced').reverse(),
)
const STATES: Record<string, string> = {
  expected: '',
  assumed: 'assumed',
  overdue: 'overdue',
}
const WHY: Record<string, string> = {
  assumed: 'no source says when: 364 days after the same period of the year before',
  overdue: 'the day has passed, and nothing was announced by the date of the stamp',
}

/** The day without its year, which the head of the page says. */
const inYear = (at: string): string => shortDay(at.slice(0, 10)).replace(/ \d{4}$/, '')

function table(): void {
  const names = [
    'at',
    'company',
    'name',
    'symbol',
    'period',
    'period_end',
    'state',
    'mean',
    'count',
    'actual',
    'surprise_relative',
    'currency',
  ] as const
  asTable(
    [[...names], ...(found.value?.entries ?? []).map((e) => names.map((n) => e[n] ?? ''))],
    `calendar ${list.value ?? 'all companies'} ${knownOn.value}`,
  )
}
</script>

<template>
  <PageHead title="Calendar" :list="list">
    <template v-if="current"
      >{{ shortDay(current.start) }} to {{ shortDay(current.end) }}, both included</template
    >
  </PageHead>
  <main :aria-busy="loading">
    <div class="tools">
      <ListChoice :value="list" @choose="(l) => set({ list: l })" />
      <label>
        <span class="visually-hidden">How far</span>
        <select
          class="field"
          :value="span"
          @change="set({ days: ($event.target as HTMLSelectElement).value })"
        >
          <option v-for="n in SPANS" :key="n" :value="n">{{ n }} days ahead and back</option>
        </select>
      </label>
      <nav class="tabline" aria-label="Measures">
        <button
          v-for="m in ['eps', 'revenue']"
          :key="m"
          class="link"
          :class="{ on: measure === m }"
          :aria-pressed="measure === m"
          @click="set({ measure: m })"
        >
          {{ m }}
        </button>
      </nav>
      <button v-if="found?.entries.length" class="link end" @click="table">CSV</button>
    </div>
    <ProblemNote :problem="problem" />
    <p v-if="loading && !found" class="soft">Reading the calendar …</p>
    <div v-if="found" class="two">
      <section>
        <h2>
          Expected <span class="soft">{{ expected.length }}</span>
        </h2>
        <p v-if="!expected.length" class="soft none">Nothing is expected in this time.</p>
        <PlainTable v-else label="Reports expected">
          <thead>
            <tr>
              <th>On</th>
              <th>Company</th>
              <th>Period</th>
              <th class="n">Mean</th>
              <th class="n">By</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="e in expected" :key="e.company + e.period">
              <th
                scope="row"
                class="day"
                :title="WHY[e.state] ?? `as a source says: ${instant(e.at)}`"
              >
                {{ inYear(e.at)
                }}<span v-if="STATES[e.state]" class="state">{{ STATES[e.state] }}</span>
              </th>
              <td>
                <router-link
                  :to="{
                    name: 'estimates',
                    query: {
                      company: e.company,
                      known_on: knownOn,
                      period: e.count ? e.period : undefined,
                    },
                  }"
                  >{{ e.name }}</router-link
                >
              </td>
              <td>{{ e.period }}</td>
              <td
                v-if="e.mean === null"
                class="n missing"
                colspan="2"
                title="no contribution was standing"
              >
                no estimates
              </td>
              <template v-else>
                <td class="n">
                  {{ amount(e.mean, unit) }}
                  <span class="soft unit">{{
                    amountIn(unit, e.currency).replace(' a share', '')
                  }}</span>
                </td>
                <td class="n">{{ e.count }}</td>
              </template>
            </tr>
          </tbody>
        </PlainTable>
      </section>
      <section>
        <h2>
          Announced <span class="soft">{{ announced.length }}</span>
        </h2>
        <p v-if="!announced.length" class="soft none">
          Nothing was announced in this time that anybody had expected.
        </p>
        <PlainTable v-else label="Reports that came">
          <thead>
            <tr>
              <th>On</th>
              <th>Company</th>
              <th>Period</th>
              <th class="n">Mean</th>
              <th class="n">Actual</th>
              <th class="n">Surprise, %</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="e in announced" :key="e.company + e.period">
              <th scope="row" class="day" :title="instant(e.at)">{{ inYear(e.at) }}</th>
              <td>
                <router-link
                  :to="{
                    name: 'estimates',
                    query: { company: e.company, known_on: knownOn, period: e.period },
                  }"
                  >{{ e.name }}</router-link
                >
              </td>
              <td>{{ e.period }}</td>
              <td class="n">{{ amount(e.mean, unit) }}</td>
              <td class="n">
                {{ amount(e.actual, unit) }}
                <span class="soft unit">{{
                  amountIn(unit, e.currency).replace(' a share', '')
                }}</span>
              </td>
              <td
                class="n"
                :class="{
                  down: (e.surprise_relative ?? 0) < 0,
                  missing: e.surprise_relative === null,
                }"
              >
                {{ e.surprise_relative === null ? 'n/a' : bracketed(e.surprise_relative * 100, 1) }}
              </td>
            </tr>
          </tbody>
        </PlainTable>
      </section>
    </div>
  </main>
</template>

<style scoped>
main {
  padding: 12px 24px 32px;
}
.tools {
  display: flex;
  gap: 14px;
  align-items: center;
  font-size: 13px;
}
.tabline {
  display: flex;
  gap: 12px;
}
.tabline .on {
  font-weight: 600;
  color: var(--ink);
}
.end {
  margin-left: auto;
}
.two th {
  white-space: nowrap;
}
.two {
  display: grid;
  grid-template-columns: minmax(0, 1fr) minmax(0, 1.15fr);
  gap: 32px;
  margin-top: 8px;
}
h2 span {
  font-weight: 400;
}
.day {
  white-space: nowrap;
}
.state {
  margin-left: 8px;
  font-size: 11.5px;
  color: var(--ochre-ink);
}
.down {
  color: var(--brick);
}
.unit {
  font-size: 11.5px;
}
.none {
  padding: 24px 0;
}
</style>

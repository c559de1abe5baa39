<script setup lang="ts">
import { computed } from 'vue'

import { calendar } from '../api/market'
import { useAddress } from '../asking/address'
import ProblemNote from '../asking/ProblemNote.vue'
import { useQuestion } from '../asking/question'
import TabLine from '../asking/TabLine.vue'
import { asTable } from '../figures/charting'
import ListChoice from '../lists/ListChoice.vue'
import PageHead from '../shell/PageHead.vue'
import { shortDay } from '../time/format'
import { useStamp } from '../time/stamp'
import { MEASURES } from './amounts'
import ReportsAnnounced from './ReportsAnnounced.vue'
import ReportsExpected from './ReportsExpected.vue'
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
      <TabLine
        label="Measures"
        :tabs="MEASURES"
        :value="measure"
        @choose="(m) => set({ measure: m })"
      />
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
        <ReportsExpected v-else :entries="expected" :unit="unit" :known-on="knownOn" />
      </section>
      <section>
        <h2>
          Announced <span class="soft">{{ announced.length }}</span>
        </h2>
        <p v-if="!announced.length" class="soft none">
          Nothing was announced in this time that anybody had expected.
        </p>
        <ReportsAnnounced v-else :entries="announced" :unit="unit" :known-on="knownOn" />
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
.end {
  margin-left: auto;
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
.none {
  padding: 24px 0;
}
</style>

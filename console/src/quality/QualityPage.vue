<script setup lang="ts">
import { computed } from 'vue'

import { quality } from '../api/quality'
import { useAddress } from '../asking/address'
import ProblemNote from '../asking/ProblemNote.vue'
import { useQuestion } from '../asking/question'
import TabLine from '../asking/TabLine.vue'
import CoverageView from './CoverageView.vue'
import FindingsView from './FindingsView.vue'
import LimitsView from './LimitsView.vue'
import MarketView from './MarketView.vue'

/** What checks found, the quarantine, and how lists are filled. */
const { one, set } = useAddress()
const VIEWS = {
  findings: 'Findings',
  market: 'Market',
  coverage: 'Coverage',
  limits: 'Limits',
} as const
const view = computed(() => {
  const asked = one('view') ?? ''
  return asked in VIEWS ? (asked as keyof typeof VIEWS) : 'findings'
})
const {
  answer: found,
  problem,
  again,
} = useQuestion(
  () =>
    view.value === 'findings'
      ? { check: one('check'), state: one('state'), company: one('company'), source: one('source') }
      : null,
  quality,
)
const quarantined = computed(() => found.value?.by_state.quarantined ?? 0)
const waiting = computed(() => {
  if (!quarantined.value) return 'No figure waits in quarantine'
  const figures = quarantined.value === 1 ? 'figure is' : 'figures are'
  return `${quarantined.value} ${figures} in quarantine and not used until somebody accepts them`
})
function show(name: string): void {
  set({ view: name === 'findings' ? undefined : name, check: undefined, state: undefined })
}
</script>

<template>
  <header>
    <h1>Quality</h1>
    <p v-if="view === 'coverage'" class="soft">
      How many members of a list have each item, year by year
    </p>
    <p v-else-if="view === 'market'" class="soft">
      Prices, levels and rates that cannot be, and what looks odd about splits and dividends
    </p>
    <p v-else-if="view === 'limits'" class="soft">
      How old a figure or an estimate may be, and when one is known that no source dates
    </p>
    <p v-else-if="found" class="soft">
      {{ waiting }}; {{ found.by_state.flagged ?? 0 }} flagged and used
    </p>
  </header>
  <main>
    <TabLine label="Views" :tabs="VIEWS" :value="view" @choose="show" />
    <ProblemNote :problem="problem" />
    <CoverageView v-if="view === 'coverage'" />
    <MarketView v-else-if="view === 'market'" />
    <LimitsView v-else-if="view === 'limits'" />
    <FindingsView v-else-if="found" :found="found" @changed="again" />
  </main>
</template>

<style scoped>
header {
  padding: 20px 24px 0;
}
main {
  padding: 10px 24px 32px;
}
/* what each view is narrowed by, and decided with */
main :deep(.bar) {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
  align-items: center;
  margin: 8px 0;
}
main :deep(.bar .field) {
  font-size: 13px;
}
main :deep(.bar .why) {
  flex: 1;
  min-width: 140px;
}
</style>

<script setup lang="ts">
import { computed } from 'vue'

import { quality } from '../api/quality'
import { useAddress } from '../asking/address'
import ProblemNote from '../asking/ProblemNote.vue'
import { useQuestion } from '../asking/question'
import CoverageView from './CoverageView.vue'
import FindingsView from './FindingsView.vue'

/** What checks found, the quarantine, and how lists are filled. */
const { one, set } = useAddress()
const view = computed(() => (one('view') === 'coverage' ? 'coverage' : 'findings'))
const { answer: found, problem, again } = useQuestion(
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
</script>

<template>
  <header>
    <h1>Quality</h1>
    <p v-if="view === 'coverage'" class="soft">How many members of a list have each item, year by year</p>
    <p v-else-if="found" class="soft">{{ waiting }}; {{ found.by_state.flagged ?? 0 }} flagged and used</p>
  </header>
  <main>
    <div class="tabline" role="tablist">
      <button
        class="tab"
        :class="{ on: view === 'findings' }"
        role="tab"
        :aria-selected="view === 'findings'"
        @click="set({ view: undefined })"
      >
        Findings
      </button>
      <button
        class="tab"
        :class="{ on: view === 'coverage' }"
        role="tab"
        :aria-selected="view === 'coverage'"
        @click="set({ view: 'coverage' })"
      >
        Coverage
      </button>
    </div>
    <ProblemNote :problem="problem" />
    <CoverageView v-if="view === 'coverage'" />
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
</style>

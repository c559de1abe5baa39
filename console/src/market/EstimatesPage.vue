<script setup lang="ts">
import { computed, defineAsyncComponent } from 'vue'

import { estimates } from '../api/market'
import { useAddress } from '../asking/address'
import ProblemNote from '../asking/ProblemNote.vue'
import { useQuestion } from '../asking/question'
import TabLine from '../asking/TabLine.vue'
import { useFirstCompany } from '../companies/first'
import PageHead from '../shell/PageHead.vue'
import CompanyFinder from '../statements/CompanyFinder.vue'
import { useStamp } from '../time/stamp'
import { amountIn, MEASURES } from './amounts'
import HousesTable from './HousesTable.vue'
import PeriodsTable from './PeriodsTable.vue'

/**
 * What analysts expected of a company: its periods, the walk of one to its actual, who is in it.
 */
const WalkChart = defineAsyncComponent(() => import('./WalkChart.vue'))
const { one, set } = useAddress()
const { knownOn } = useStamp()
const company = computed(() => one('company'))
const asked = computed(() => Number(one('max_age')) || undefined)
const measure = computed(() => one('measure') ?? 'eps')

const {
  answer: found,
  problem,
  loading,
} = useQuestion(
  () =>
    company.value
      ? {
          company: company.value,
          known_on: knownOn.value,
          measure: measure.value,
          period: one('period'),
          max_age: asked.value,
        }
      : null,
  estimates,
)
// Without one in the address it is that of the limit that stands.
const maxAge = computed(() => asked.value ?? found.value?.max_age ?? 120)
const ages = computed(() => [...new Set([30, 60, 120, 365, maxAge.value])].sort((a, b) => a - b))
const into = computed(() =>
  found.value ? amountIn(found.value.unit, found.value.estimate_currency) : '',
)
const nobody = useFirstCompany(() => !!company.value)
</script>

<template>
  <PageHead :title="found?.name ?? 'Estimates'" :company="company">
    <template v-if="found">{{
      [found.symbol, `${found.measure}, ${into}`].filter(Boolean).join(' · ')
    }}</template>
  </PageHead>
  <main :aria-busy="loading">
    <div class="tools">
      <TabLine
        label="Measures"
        :tabs="MEASURES"
        :value="measure"
        @choose="(m) => set({ measure: m, period: undefined })"
      />
      <label class="age">
        <span class="soft">stands for</span>
        <select
          class="field"
          :value="maxAge"
          @change="set({ max_age: ($event.target as HTMLSelectElement).value })"
        >
          <option v-for="n in ages" :key="n" :value="n">{{ n }} days</option>
        </select>
      </label>
      <router-link
        v-if="company"
        :to="{ name: 'company', params: { id: company }, query: { known_on: knownOn } }"
        >Its price</router-link
      >
      <router-link :to="{ name: 'calendar', query: { known_on: knownOn } }"
        >Calendar of announcements</router-link
      >
      <CompanyFinder
        class="end"
        :known-on="knownOn"
        :beside="false"
        @choose="(c) => set({ company: c, period: undefined })"
      />
    </div>
    <ProblemNote :problem="problem ?? nobody" />
    <p v-if="found && !found.periods.length" class="soft none">
      No contribution was known by this date: move the stamp, or choose another company.
    </p>
    <template v-else-if="found">
      <h2>{{ found.period }}</h2>
      <WalkChart v-if="found.walk.length" :estimates="found" />
      <div class="two">
        <div class="scroll" tabindex="0" role="region" aria-label="Periods">
          <PeriodsTable :found="found" @choose="(period) => set({ period })" />
        </div>
        <section>
          <h3>{{ found.period }}: the last of each house</h3>
          <HousesTable :found="found" />
          <p class="soft small">
            A contribution stands until the next one of its house, for {{ found.max_age }} days at
            most; what came after the actual changes nothing.
          </p>
        </section>
      </div>
    </template>
  </main>
</template>

<style scoped>
main {
  padding: 12px 24px 32px;
}
.tools {
  display: flex;
  gap: 18px;
  align-items: center;
}
.age {
  display: inline-flex;
  gap: 6px;
  align-items: center;
  font-size: 13px;
}
.end {
  margin-left: auto;
}
h2 {
  margin: 10px 0 0;
}
h3 {
  font-size: 13px;
  margin: 8px 0;
}
.two {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 400px;
  gap: 32px;
  margin-top: 12px;
}
.two > * {
  min-width: 0;
}
.scroll {
  overflow: auto;
  max-height: 420px;
}
.small {
  font-size: 12.5px;
}
.none {
  padding: 40px 0;
}
</style>

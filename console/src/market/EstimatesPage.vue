<script setup lang="ts">
import { computed, defineAsyncComponent } from 'vue'

import { estimates } from '../api/market'
import { useAddress } from '../asking/address'
import ProblemNote from '../asking/ProblemNote.vue'
import { useQuestion } from '../asking/question'
import { useFirstCompany } from '../companies/first'
import PlainTable from '../figures/PlainTable.vue'
import { bracketed } from '../figures/numbers'
import { reasonFull, reasonShort } from '../figures/reasons'
import PageHead from '../shell/PageHead.vue'
import CompanyFinder from '../statements/CompanyFinder.vue'
import { instant } from '../time/format'
import { useStamp } from '../time/stamp'
import { amount, amountIn } from './amounts'

/**
 * What analysts expected of a company: its periods, the walk of one to its actual, who is in it.
 */
const WalkChart = defineAsyncComponent(() => import('./WalkChart.vue'))
const { one, set } = useAddress()
const { knownOn } = useStamp()
const company = computed(() => one('company'))
const maxAge = computed(() => Number(one('max_age') ?? 120) || 120)
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
          max_age: maxAge.value,
        }
      : null,
  estimates,
)
const last = computed(() =>
  (found.value?.contributions ?? []).filter((c) => c.state !== 'replaced'),
)
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
      <nav class="tabline" aria-label="Measures">
        <button
          v-for="m in ['eps', 'revenue']"
          :key="m"
          class="link"
          :class="{ on: measure === m }"
          :aria-pressed="measure === m"
          @click="set({ measure: m, period: undefined })"
        >
          {{ m }}
        </button>
      </nav>
      <label class="age">
        <span class="soft">stands for</span>
        <select
          class="field"
          :value="maxAge"
          @change="
            set({
              max_age:
                ($event.target as HTMLSelectElement).value === '120'
                  ? undefined
                  : ($event.target as HTMLSelectElement).value,
            })
          "
        >
          <option v-for="n in [30, 60, 120, 365]" :key="n" :value="n">{{ n }} days</option>
          <option v-if="![30, 60, 120, 365].includes(maxAge)" :value="maxAge">
            {{ maxAge }} days
          </option>
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
          <PlainTable label="Consensus by period">
            <thead>
              <tr>
                <th>Period</th>
                <th class="n">Mean</th>
                <th class="n">Low</th>
                <th class="n">High</th>
                <th class="n">By</th>
                <th class="n">Raised</th>
                <th class="n">Cut</th>
                <th class="n">Actual</th>
                <th class="n">Surprise %</th>
              </tr>
            </thead>
            <tbody>
              <tr
                v-for="p in found.periods"
                :key="p.period"
                :class="{ chosen: p.period === found.period }"
              >
                <th scope="row">
                  <button class="link" @click="set({ period: p.period })">{{ p.period }}</button>
                </th>
                <template v-if="p.consensus.reason">
                  <td class="n missing" colspan="6" :title="reasonFull(p.consensus.reason)">
                    {{ reasonShort(p.consensus.reason) }}
                  </td>
                </template>
                <template v-else>
                  <td class="n">{{ amount(p.consensus.mean, found.unit) }}</td>
                  <td class="n">{{ amount(p.consensus.low, found.unit) }}</td>
                  <td class="n">{{ amount(p.consensus.high, found.unit) }}</td>
                  <td class="n">{{ p.consensus.count }}</td>
                  <td class="n">{{ p.consensus.raised }}</td>
                  <td class="n">{{ p.consensus.cut }}</td>
                </template>
                <td
                  v-if="p.announced"
                  class="n"
                  :title="`announced ${instant(p.announced.announced_at)}`"
                >
                  {{ amount(p.announced.actual, found.unit) }}
                </td>
                <td v-else class="n missing">not yet</td>
                <td
                  class="n"
                  :class="{
                    down: (p.announced?.surprise_relative ?? 0) < 0,
                    missing: p.announced?.surprise_relative == null,
                  }"
                >
                  {{
                    p.announced?.surprise_relative != null
                      ? bracketed(p.announced.surprise_relative * 100, 1)
                      : p.announced
                        ? 'n/a'
                        : 'not yet'
                  }}
                </td>
              </tr>
            </tbody>
          </PlainTable>
        </div>
        <section>
          <h3>{{ found.period }}: the last of each house</h3>
          <PlainTable label="Last contributions">
            <thead>
              <tr>
                <th>Contributor</th>
                <th class="n">Value</th>
                <th>Published</th>
              </tr>
            </thead>
            <tbody>
              <tr v-for="c in last" :key="c.contributor" :class="{ soft: c.state !== 'in' }">
                <th scope="row">
                  {{ c.contributor
                  }}<span v-if="c.state !== 'in'" class="why">not counted: {{ c.state }}</span>
                </th>
                <td class="n">
                  {{ c.value === null ? 'withdrawn' : amount(c.value, found.unit) }}
                </td>
                <td>{{ instant(c.published_at) }}</td>
              </tr>
            </tbody>
          </PlainTable>
          <PlainTable v-if="found.supplied.length" label="Consensus as supplied">
            <thead>
              <tr>
                <th>As supplied by</th>
                <th class="n">Mean</th>
                <th class="n">Low</th>
                <th class="n">High</th>
                <th class="n">By</th>
              </tr>
            </thead>
            <tbody>
              <tr
                v-for="s in found.supplied"
                :key="s.source"
                :title="`published ${instant(s.published_at)}`"
              >
                <th scope="row">{{ s.source }}</th>
                <td class="n">{{ amount(s.mean, found.unit) }}</td>
                <td class="n">{{ amount(s.low, found.unit) }}</td>
                <td class="n">{{ amount(s.high, found.unit) }}</td>
                <td class="n">{{ s.count }}</td>
              </tr>
            </tbody>
          </PlainTable>
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
.tabline .on {
  font-weight: 600;
  color: var(--ink);
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
.scroll {
  overflow: auto;
  max-height: 420px;
}
thead th {
  position: sticky;
  top: 0;
  background: var(--paper);
}
.chosen {
  background: var(--chosen);
}
.down {
  color: var(--brick);
}
.why {
  display: block;
  font-size: 12.5px;
}
.small {
  font-size: 12.5px;
}
.none {
  padding: 40px 0;
}
</style>

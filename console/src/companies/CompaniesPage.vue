<script setup lang="ts">
import { computed } from 'vue'

import { companies } from '../api/ledger'
import { useAddress } from '../asking/address'
import ProblemNote from '../asking/ProblemNote.vue'
import { useQuestion } from '../asking/question'
import PageHead from '../shell/PageHead.vue'
import { useStamp } from '../time/stamp'
import CompanyTabs from './CompanyTabs.vue'

const { one, set } = useAddress()
const { knownOn } = useStamp()
const text = computed(() => one('q') ?? '')
const withInactive = computed(() => one('inactive') !== 'no')
const { answer: found, problem } = useQuestion(
  () => ({ query: text.value, on: knownOn.value, with_inactive: withInactive.value }),
  companies,
)
</script>

<template>
  <PageHead title="Companies">
    <template v-if="found">{{ found.total }} {{ text ? 'found' : 'in the ledger' }}, {{ withInactive ? 'inactive ones included' : 'inactive ones left out' }}</template>
  </PageHead>
  <main>
    <CompanyTabs />
    <div class="ask">
      <input
        data-search
        :value="text"
        aria-label="Search companies"
        placeholder="Name, symbol or identifier"
        spellcheck="false"
        @input="set({ q: ($event.target as HTMLInputElement).value || undefined }, true)"
      />
      <label>
        <input type="checkbox" :checked="withInactive" @change="set({ inactive: withInactive ? 'no' : undefined })" />
        Inactive too
      </label>
    </div>
    <ProblemNote :problem="problem" />
    <div v-if="found?.companies.length" class="scroll" tabindex="0" role="region" aria-label="Companies">
      <table class="lined">
        <thead>
          <tr>
            <th>Company</th>
            <th>Listing</th>
            <th>Country</th>
            <th>Seat</th>
            <th v-if="text">Found by</th>
            <th>State</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="company in found.companies" :key="company.id">
            <td>
              <router-link :to="{ name: 'company', params: { id: company.id }, query: { known_on: knownOn } }">{{
                company.name
              }}</router-link>
            </td>
            <td>{{ company.listings.map((l) => `${l.symbol}@${l.mic}`).join(', ') || 'not listed' }}</td>
            <td>{{ company.country ?? 'not known' }}</td>
            <td>{{ company.seat ?? 'not known' }}</td>
            <td v-if="text" class="soft">{{ company.why }}<template v-if="company.score < 1">, {{ company.score.toFixed(2) }}</template></td>
            <td class="soft">{{ company.active ? 'active' : 'not active' }}</td>
          </tr>
        </tbody>
      </table>
    </div>
    <p v-else-if="found" class="none soft">
      {{ text ? 'No company is named like this. Try fewer letters, or the whole identifier.' : 'The ledger has no companies yet: collect from a source first, with wise-ledger collect.' }}
    </p>
  </main>
</template>

<style scoped>
main {
  padding: 16px 24px 32px;
}
.ask {
  margin-top: 12px;
  display: flex;
  gap: 20px;
  align-items: center;
  margin-bottom: 12px;
}
.ask > input {
  width: 380px;
  border: 1px solid var(--rule);
  border-radius: 4px;
  background: var(--sheet);
  color: var(--ink);
  padding: 5px 10px;
  min-height: 32px;
}
.ask label {
  display: flex;
  gap: 6px;
  font-size: 13px;
  accent-color: var(--spruce);
}
.scroll {
  overflow-x: auto;
}
.none {
  padding: 40px 0;
}
</style>

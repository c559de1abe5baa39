<script setup lang="ts">
import { computed } from 'vue'

import { companies, screen } from '../api/ledger'
import { useAddress } from '../asking/address'
import ProblemNote from '../asking/ProblemNote.vue'
import { useQuestion } from '../asking/question'
import CurrencyChoice from '../figures/CurrencyChoice.vue'
import PlainTable from '../figures/PlainTable.vue'
import { counted, figure } from '../figures/numbers'
import { inOrder } from '../figures/sorting'
import SortHead from '../figures/SortHead.vue'
import { vLeadsTo } from '../figures/stops'
import PageHead from '../shell/PageHead.vue'
import { shortDay } from '../time/format'
import { useStamp } from '../time/stamp'
import CompanyTabs from './CompanyTabs.vue'

const { one, set } = useAddress()
const { knownOn } = useStamp()
const text = computed(() => one('q') ?? '')
const withInactive = computed(() => one('inactive') !== 'no')
const {
  answer: found,
  current,
  problem,
} = useQuestion(
  () => ({ query: text.value, on: knownOn.value, with_inactive: withInactive.value }),
  companies,
)
const currency = computed(() => one('currency'))
// How large each is and when it last reported: one column over everybody, in one currency where
// that is chosen.
const { answer: sizes, problem: sizeless } = useQuestion(
  () => ({
    rule: 'active',
    list: null,
    show: ['revenue.fy'],
    known_on: knownOn.value,
    currency: currency.value,
    hindsight: false,
  }),
  screen,
)
const sizeOf = computed(
  () => new Map((sizes.value?.companies ?? []).map((c) => [c.company, c.cells.at(-1)!])),
)
const sort = computed(() => one('sort'))
const by = (name: string | undefined) => set({ sort: name }, true)
const rows = computed(() =>
  inOrder(found.value?.companies ?? [], sort.value, (company, name) => {
    const size = sizeOf.value.get(company.id)
    if (name === 'size') return size?.value
    return name === 'reported' ? size?.known_at : company[name as 'name']
  }),
)

function size(id: string): string {
  const cell = sizeOf.value.get(id)
  if (cell?.value == null) return ''
  return `${currency.value ? '' : `${cell.currency} `}${figure(cell.value, 'money', false)}`
}

function reported(id: string): string {
  const cell = sizeOf.value.get(id)
  return cell?.known_at ? `${cell.period ?? ''}, ${shortDay(cell.known_at)}` : ''
}
</script>

<template>
  <PageHead title="Companies">
    <template v-if="current"
      >{{ counted(current.total, 'company') }} {{ text ? 'found' : 'in the ledger' }},
      {{ withInactive ? 'inactive ones included' : 'inactive ones left out' }}</template
    >
  </PageHead>
  <main>
    <CompanyTabs />
    <div class="ask">
      <input
        v-leads-to="'#companies'"
        data-search
        :value="text"
        aria-label="Search companies"
        placeholder="Name, symbol or identifier"
        spellcheck="false"
        @input="set({ q: ($event.target as HTMLInputElement).value || undefined }, true)"
      />
      <label>
        <input
          type="checkbox"
          :checked="withInactive"
          @change="set({ inactive: withInactive ? 'no' : undefined })"
        />
        Inactive too
      </label>
      <CurrencyChoice :value="currency" @choose="(c) => set({ currency: c, sort: undefined })" />
    </div>
    <ProblemNote :problem="problem ?? sizeless" />
    <div
      v-if="found?.companies.length"
      id="companies"
      class="scroll"
      tabindex="0"
      role="region"
      aria-label="Companies"
    >
      <PlainTable label="Companies">
        <thead>
          <tr>
            <SortHead name="name" :sort="sort" @sort="by">Company</SortHead>
            <th scope="col">Listing</th>
            <SortHead name="country" :sort="sort" @sort="by">Country</SortHead>
            <SortHead name="industry_title" :sort="sort" @sort="by">Industry</SortHead>
            <SortHead v-if="currency" name="size" number :sort="sort" @sort="by"
              >Revenue, {{ currency }} mn</SortHead
            >
            <th v-else class="n" scope="col" title="In one currency they can be sorted">
              Revenue, mn
            </th>
            <SortHead name="reported" number :sort="sort" @sort="by">Last year reported</SortHead>
            <th v-if="text" scope="col">Found by</th>
            <th scope="col">State</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="company in rows" :key="company.id">
            <th scope="row">
              <router-link :to="{ name: 'company', params: { id: company.id } }">{{
                company.name
              }}</router-link>
            </th>
            <td>
              {{ company.listings.map((l) => `${l.symbol}@${l.mic}`).join(', ') || 'not listed' }}
            </td>
            <td>{{ company.country ?? 'not known' }}</td>
            <td class="industry" :title="company.industry_title ?? ''">
              {{ company.industry_title ?? 'not known' }}
            </td>
            <td class="n">{{ size(company.id) }}</td>
            <td class="n soft">{{ reported(company.id) }}</td>
            <td v-if="text" class="soft">
              {{ company.why
              }}<template v-if="company.score < 1">, {{ company.score.toFixed(2) }}</template>
            </td>
            <td class="soft">{{ company.active ? 'active' : 'not active' }}</td>
          </tr>
        </tbody>
      </PlainTable>
    </div>
    <p v-else-if="found" class="none soft">
      {{
        text
          ? 'No company is named like this. Try fewer letters, or the whole identifier.'
          : 'The ledger has no companies yet: collect from a source first, with wise-ledger collect.'
      }}
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
  overflow: auto;
  max-height: calc(100vh - 130px);
}
.industry {
  max-width: 190px;
  overflow: hidden;
  text-overflow: ellipsis;
}
.none {
  padding: 40px 0;
}
</style>

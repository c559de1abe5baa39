<script setup lang="ts">
import { computed } from 'vue'

import { market } from '../api/market'
import type { TradedCompany } from '../api/types'
import { useAddress } from '../asking/address'
import ProblemNote from '../asking/ProblemNote.vue'
import { useQuestion } from '../asking/question'
import { asTable } from '../figures/charting'
import CurrencyChoice from '../figures/CurrencyChoice.vue'
import PlainTable from '../figures/PlainTable.vue'
import { bracketed, counted } from '../figures/numbers'
import { reasonFull, reasonShort } from '../figures/reasons'
import ListChoice from '../lists/ListChoice.vue'
import PageHead from '../shell/PageHead.vue'
import SparkLine from '../statements/SparkLine.vue'
import { shortDay } from '../time/format'
import { useStamp } from '../time/stamp'
import { CHANGES, sorted } from './sorting'

/** How the members of a list stand on the market: closes, changes, market value. */
const { one, set } = useAddress()
const { knownOn } = useStamp()
const list = computed(() => one('list'))
const currency = computed(() => one('currency'))
const by = computed(() => one('sort') ?? '-market_value')

const {
  answer: found,
  current,
  problem,
  loading,
} = useQuestion(
  () => ({ list: list.value, known_on: knownOn.value, currency: currency.value }),
  market,
)
/** Amounts of several currencies are in no order. */
const several = computed(
  () =>
    new Set((found.value?.companies ?? []).map((c) => c.market_value_currency).filter(Boolean))
      .size > 1,
)
const unordered = computed(() => several.value && /market_value|close/.test(by.value))
const rows = computed(() =>
  sorted(found.value?.companies ?? [], unordered.value ? 'name' : by.value),
)

function sort(column: string): void {
  set({ sort: by.value === `-${column}` ? column : `-${column}` })
}
function order(column: string): 'ascending' | 'descending' | 'none' {
  if (unordered.value) return column === 'name' ? 'ascending' : 'none'
  return by.value === column ? 'ascending' : by.value === `-${column}` ? 'descending' : 'none'
}
const lacking = (row: TradedCompany, column: (typeof CHANGES)[number][0]): string => {
  if (row[column] !== null) return ''
  return row.reason ? reasonFull(row.reason) : 'no close at the beginning of this time'
}
const percent = (value: number | null): string => (value === null ? '' : bracketed(value * 100, 1))
const arrow = (column: string): string =>
  ({ ascending: ' ↑', descending: ' ↓', none: '' })[order(column)]

function table(): void {
  const names = [
    'company',
    'name',
    'symbol',
    'currency',
    'date',
    'close',
    ...CHANGES.map(([c]) => c),
    'market_value',
    'market_value_currency',
  ] as (keyof TradedCompany)[]
  asTable(
    [names, ...rows.value.map((r) => names.map((n) => (r[n] ?? '') as string | number))],
    `market ${list.value ?? 'all companies'} ${knownOn.value}`,
  )
}
</script>

<template>
  <PageHead title="Market" :list="list">
    <template v-if="current">{{
      list
        ? `${counted(current.companies.length, 'company')} of ${current.list_title}`
        : current.list_title
    }}</template>
  </PageHead>
  <main>
    <div class="tools">
      <ListChoice :value="list" @choose="(l) => set({ list: l })" />
      <CurrencyChoice :value="currency" @choose="(c) => set({ currency: c })" />
      <span v-if="unordered" class="soft"
        >changes of the price in percent, adjusted for splits; amounts of several currencies are in
        no order: choose one to sort by them</span
      >
      <span v-else class="soft"
        >changes in percent of the price, adjusted for splits; market values in mn</span
      >
      <button v-if="rows.length" class="link end" @click="table">CSV</button>
    </div>
    <ProblemNote :problem="problem" />
    <p v-if="loading && !found" class="soft" aria-busy="true">Reading the market …</p>
    <div v-if="rows.length" class="scroll" tabindex="0" role="region" aria-label="Market">
      <PlainTable label="Prices and returns">
        <thead>
          <tr>
            <th :aria-sort="order('name')">
              <button class="sort" @click="sort('name')">Company{{ arrow('name') }}</button>
            </th>
            <th>Listing</th>
            <th class="n" :aria-sort="order('close')">
              <button class="sort" @click="sort('close')">Close{{ arrow('close') }}</button>
            </th>
            <th
              v-for="[column, title] in CHANGES"
              :key="column"
              class="n"
              :aria-sort="order(column)"
            >
              <button class="sort" @click="sort(column)">{{ title }}, %{{ arrow(column) }}</button>
            </th>
            <th class="n" :aria-sort="order('market_value')">
              <button class="sort" @click="sort('market_value')">
                Market value, mn{{ arrow('market_value') }}
              </button>
            </th>
            <th>60 days</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="r in rows" :key="r.company">
            <th scope="row">
              <router-link
                :to="{ name: 'company', params: { id: r.company }, query: { known_on: knownOn } }"
                >{{ r.name }}</router-link
              >
            </th>
            <td class="soft">{{ r.symbol ?? 'not listed' }}</td>
            <td v-if="r.reason" class="n missing" :title="reasonFull(r.reason)">
              {{ reasonShort(r.reason) }}
            </td>
            <td v-else class="n" :title="r.date ? shortDay(r.date) : ''">
              {{ bracketed(r.close!, 2) }} <span class="soft unit">{{ r.currency }}</span>
            </td>
            <td
              v-for="[column] in CHANGES"
              :key="column"
              class="n"
              :class="{ down: (r[column] ?? 0) < 0, missing: r[column] === null }"
              :title="lacking(r, column)"
            >
              {{ r[column] === null ? 'n/a' : percent(r[column]) }}
            </td>
            <td
              v-if="r.market_value_reason"
              class="n missing"
              :title="reasonFull(r.market_value_reason)"
            >
              {{ reasonShort(r.market_value_reason) }}
            </td>
            <td
              v-else
              class="n"
              :title="
                r.market_value_marks.includes('approximate')
                  ? 'approximate: a class that is not listed is priced by another'
                  : ''
              "
            >
              <span v-if="r.market_value_marks.includes('approximate')" class="about">~</span
              >{{ bracketed(r.market_value! / 1e6, 0) }}
              <span class="soft unit">{{ r.market_value_currency }}</span>
            </td>
            <td>
              <SparkLine
                v-if="r.closes.length > 1"
                :values="r.closes"
                :title="`${r.name}, 60 days,`"
              />
            </td>
          </tr>
        </tbody>
      </PlainTable>
    </div>
    <p v-else-if="found" class="soft none">
      No company was on this list on that day: move the stamp, or choose another list.
    </p>
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
  margin-bottom: 8px;
}
.end {
  margin-left: auto;
}
.scroll {
  overflow: auto;
}
.sort {
  font: inherit;
  color: inherit;
  background: none;
  border: 0;
  padding: 0;
  cursor: pointer;
}
.down {
  color: var(--brick);
}
.unit {
  font-size: 11.5px;
}
.about {
  color: var(--ochre-ink);
}
.none {
  padding: 40px 0;
}
</style>

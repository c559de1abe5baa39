<script setup lang="ts">
import { computed } from 'vue'

import { lists as allLists } from '../api/ledger'
import { coverage } from '../api/quality'
import { useAddress } from '../asking/address'
import ProblemNote from '../asking/ProblemNote.vue'
import { useQuestion } from '../asking/question'
import { counted } from '../figures/numbers'
import { vOneStop } from '../figures/stops'

/** How many members of a list have each item, year by year: the fuller, the darker. */
const STATEMENTS = ['income', 'balance', 'cash_flow', 'per_share', 'share_count', 'other']
const { one, set } = useAddress()
const { answer: lists, problem: listless } = useQuestion(
  () => ({}),
  () => allLists(),
)
const list = computed(() => one('list') ?? lists.value?.[0]?.name)
const { answer: matrix, problem } = useQuestion(
  () => (list.value ? { list: list.value, statement: one('statement') } : null),
  (asked, signal) => coverage(asked.list, asked.statement, signal),
)

function chosen(event: Event): string | undefined {
  return (event.target as HTMLSelectElement).value || undefined
}

const share = (companies: number, of: number) =>
  `${Math.round((companies / Math.max(of, 1)) * 100)}%`
</script>

<template>
  <div class="bar">
    <select class="field" aria-label="List" :value="list" @change="set({ list: chosen($event) })">
      <option v-for="l in lists ?? []" :key="l.name" :value="l.name">{{ l.title }}</option>
    </select>
    <select
      class="field"
      aria-label="Statement"
      :value="one('statement') ?? ''"
      @change="set({ statement: chosen($event) })"
    >
      <option value="">Every statement</option>
      <option v-for="s in STATEMENTS" :key="s" :value="s">{{ s.replace('_', ' ') }}</option>
    </select>
    <span v-if="matrix" class="soft">{{ counted(matrix.members, 'member') }} today</span>
  </div>
  <ProblemNote :problem="problem ?? listless" />
  <div v-if="matrix" class="scroll" tabindex="0" role="region" aria-label="Coverage">
    <table v-if="matrix.items.length" v-one-stop class="matrix">
      <caption class="visually-hidden">
        Companies with a figure, by line and year
      </caption>
      <thead>
        <tr>
          <th>Item</th>
          <th v-for="y in matrix.years" :key="y">{{ y }}</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="row in matrix.items" :key="row.item">
          <th scope="row">
            <router-link :to="{ name: 'item', params: { code: row.item } }">{{
              row.title
            }}</router-link>
          </th>
          <td
            v-for="(n, i) in row.companies"
            :key="i"
            :style="{ '--share': share(n, row.members) }"
            :title="`${n} of ${row.members} whose statements have the line, in ${matrix.years[i]}`"
          >
            {{ n }}
          </td>
        </tr>
      </tbody>
    </table>
    <p v-else class="soft none">No member of this list has a figure yet: collect first.</p>
  </div>
</template>

<style scoped>
.scroll {
  max-height: calc(100vh - 190px);
  overflow: auto;
}
.none {
  padding: 24px 0;
}
.matrix {
  border-collapse: separate;
  border-spacing: 2px;
}
.matrix thead th {
  position: sticky;
  top: 0;
  background: var(--paper);
  font-size: 12.5px;
  color: var(--soft);
  text-align: right;
  padding: 3px 6px;
  z-index: 1;
}
.matrix td {
  text-align: right;
  padding: 3px 6px;
  min-width: 52px;
  font-size: 13px;
  background: color-mix(in srgb, var(--spruce) calc(var(--share, 0%) * 0.55), transparent);
}
.matrix th:first-child {
  font-weight: 400;
  text-align: left;
  position: sticky;
  left: 0;
  background: var(--paper);
  min-width: 220px;
}
.matrix thead th:first-child {
  font-weight: 600;
  z-index: 2;
}
</style>

<script setup lang="ts">
import { computed } from 'vue'

import type { Column, ScreenedCompany } from '../api/types'
import ColumnHead from '../figures/ColumnHead.vue'
import FigureTable from '../figures/FigureTable.vue'
import { look } from '../figures/look'
import { currencyOf } from '../figures/numbers'
import { MARKS } from '../figures/reasons'
import type { Opened } from './state'

/** Companies down, figures across. */
const props = defineProps<{ columns: Column[]; companies: ScreenedCompany[]; opened: Opened | null }>()
const emit = defineEmits<{ open: [figure: Opened] }>()
const money = computed(() => props.companies.some((c) => c.cells.some((cell) => cell.currency)))
const rows = computed(() => props.companies.map((company) => ({ ...company, key: company.company })))
const columns = computed(() => props.columns.map((column, n) => ({ ...column, key: String(n) })))
const opened = computed(() => props.opened && { row: props.opened.company, column: String(props.opened.column) })

function looked(row: number, column: number) {
  const company = rows.value[row]!
  const { unit, percent } = columns.value[column]!
  const { cells, template } = company
  return look(cells[column]!, { unit, percent, template, currency: currencyOf(cells) })
}

function periods(company: ScreenedCompany): string {
  return [...new Set(company.cells.map((c) => c.period).filter(Boolean))].join(', ')
}

function marks(company: ScreenedCompany): string[] {
  return [...new Set(company.cells.flatMap((c) => c.marks))]
}
</script>

<template>
  <FigureTable
    label="Result"
    :rows="rows"
    :columns="columns"
    :look="looked"
    :opened="opened"
    @open="(row, column) => emit('open', { company: rows[row]!.company, column })"
  >
    <template #heads-before>
      <th class="t first">Company</th>
      <th class="t">Industry</th>
    </template>
    <template #head="{ column }">
      <ColumnHead :column="column" />
    </template>
    <template #heads-after>
      <th v-if="money" class="t">Currency</th>
      <th class="t">Period</th>
    </template>
    <template #before="{ row }">
      <td class="t first">
        {{ row.name }}<span class="symbol">{{ row.symbol ?? row.company }}</span>
      </td>
      <td class="t industry" :title="row.industry_title ?? ''">{{ row.industry_title ?? 'not known' }}</td>
    </template>
    <template #after="{ row }">
      <td v-if="money" class="t soft small">{{ currencyOf(row.cells) }}</td>
      <td class="t soft small">
        {{ periods(row) || 'none'
        }}<span v-for="mark in marks(row)" :key="mark" class="mark" :title="MARKS[mark]">{{
          mark.replace('_', ' ')
        }}</span>
      </td>
    </template>
  </FigureTable>
</template>

<style scoped>
.symbol {
  color: var(--soft);
  font-size: 12px;
  margin-left: 8px;
}
.industry {
  max-width: 230px;
  overflow: hidden;
  text-overflow: ellipsis;
}
.mark {
  border: 1px solid var(--ochre);
  color: var(--ink);
  border-radius: 9px;
  padding: 0 7px;
  font-size: 11.5px;
  margin-left: 8px;
}
</style>

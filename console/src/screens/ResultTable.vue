<script setup lang="ts">
import { computed } from 'vue'

import type { Column, ScreenedCompany } from '../api/types'
import ColumnHead from '../figures/ColumnHead.vue'
import FigureTable from '../figures/FigureTable.vue'
import { look } from '../figures/look'
import { currencyOf, heading } from '../figures/numbers'
import { MARKS } from '../figures/reasons'
import SortHead from '../figures/SortHead.vue'
import type { Opened } from './state'

/**
 * Companies down, figures across; a company opens to its page, and its statement is a press away.
 */
const props = defineProps<{
  columns: Column[]
  companies: ScreenedCompany[]
  opened: Opened | null
  sort: string | undefined
  added: string[]
}>()
const emit = defineEmits<{
  open: [figure: Opened]
  sort: [by: string | undefined]
  drop: [name: string]
}>()
const money = computed(() => props.companies.some((c) => c.cells.some((cell) => cell.currency)))
const rows = computed(() =>
  props.companies.map((company) => ({ ...company, key: company.company })),
)
const columns = computed(() => props.columns.map((column) => ({ ...column, key: column.name })))
const opened = computed(
  () =>
    props.opened && {
      row: props.opened.company,
      column: columns.value[props.opened.column]?.key ?? '',
    },
)

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
    label="Result of the screen"
    :rows="rows"
    :columns="columns"
    :look="looked"
    :opened="opened"
    :row-name="(row) => row.name"
    :column-name="heading"
    sortable
    :sort="sort"
    @sort="(by) => emit('sort', by)"
    @open="(row, column) => emit('open', { company: rows[row]!.company, column })"
  >
    <template #heads-before>
      <SortHead class="t first" name="name" :sort="sort" @sort="(by) => emit('sort', by)"
        >Company</SortHead
      >
      <SortHead class="t" name="industry_title" :sort="sort" @sort="(by) => emit('sort', by)"
        >Industry</SortHead
      >
    </template>
    <template #head="{ column }">
      <ColumnHead :column="column" />
      <button
        v-if="added.includes(column.name)"
        class="link x"
        :aria-label="`Remove ${column.name}`"
        title="Remove this column"
        @click="emit('drop', column.name)"
      >
        ×
      </button>
    </template>
    <template #heads-after>
      <th v-if="money" class="t" scope="col">Currency</th>
      <th class="t" scope="col">Period</th>
    </template>
    <template #before="{ row, stop }">
      <th class="t first" scope="row">
        <router-link :to="{ name: 'company', params: { id: row.company } }" v-bind="stop">{{
          row.name
        }}</router-link>
        <router-link
          class="symbol"
          :to="{ name: 'statements', query: { company: row.company } }"
          :title="`Statements of ${row.name}`"
          tabindex="-1"
          >{{ row.symbol ?? row.company }}</router-link
        >
      </th>
      <td class="t industry" :title="row.industry_title ?? ''">
        {{ row.industry_title ?? 'not known' }}
      </td>
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
.x {
  color: var(--soft);
  padding: 0 4px;
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

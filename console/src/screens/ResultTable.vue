<script setup lang="ts">
import { computed, nextTick, ref } from 'vue'

import type { Cell, Column, ScreenedCompany } from '../api/types'
import { figure, headingScale, MARKS, reasonFull, reasonShort } from '../format'
import type { Opened } from './state'

/** Companies down, figures across; arrows move between figures, Enter opens one. */
const props = defineProps<{ columns: Column[]; companies: ScreenedCompany[]; opened: Opened | null }>()
const emit = defineEmits<{ open: [figure: Opened] }>()
const body = ref<HTMLElement>()
const money = computed(() => props.companies.some((c) => c.cells.some((cell) => cell.currency)))

function negative(cell: Cell): boolean {
  return typeof cell.value === 'number' && cell.value < 0
}

function about(cell: Cell): string {
  const said = cell.marks.map((m) => MARKS[m] ?? m)
  if (cell.restated) said.push('Restated: it first read differently.')
  else if (cell.restated_later) said.push('Restated later: after this date it reads differently.')
  if (cell.reason) said.push(reasonFull(cell.reason))
  return said.join(' ')
}

function periods(company: ScreenedCompany): string {
  return [...new Set(company.cells.map((c) => c.period).filter(Boolean))].join(', ')
}

function currency(company: ScreenedCompany): string {
  return company.cells.find((c) => c.currency)?.currency ?? ''
}

async function arrow(event: KeyboardEvent, row: number, column: number): Promise<void> {
  const step: Record<string, [number, number]> = {
    ArrowUp: [-1, 0],
    ArrowDown: [1, 0],
    ArrowLeft: [0, -1],
    ArrowRight: [0, 1],
  }
  const by = step[event.key]
  if (!by) return
  event.preventDefault()
  await nextTick()
  body.value?.querySelector<HTMLElement>(`[data-cell="${row + by[0]}:${column + by[1]}"]`)?.focus()
}
</script>

<template>
  <div class="scroll" tabindex="0" role="region" aria-label="Result">
    <table>
      <thead>
        <tr>
          <th class="t first">Company</th>
          <th class="t">Industry</th>
          <th v-for="column in columns" :key="column.expression">
            <span class="code head">{{ column.expression }}</span>
            <span v-if="headingScale(column)">, {{ headingScale(column) }}</span>
          </th>
          <th v-if="money" class="t">Currency</th>
          <th class="t">Period</th>
        </tr>
      </thead>
      <tbody ref="body">
        <tr v-for="(company, row) in companies" :key="company.company" :class="{ on: opened?.company === company.company }">
          <td class="t first">
            {{ company.name }}<span class="symbol">{{ company.symbol ?? company.company }}</span>
          </td>
          <td class="t">{{ company.industry_title ?? 'not known' }}</td>
          <td
            v-for="(cell, column) in company.cells"
            :key="column"
            :class="{ restated: cell.restated, later: !cell.restated && cell.restated_later }"
          >
            <button
              class="figure"
              :class="{ missing: cell.value === null, negative: negative(cell) }"
              :data-cell="`${row}:${column}`"
              :title="about(cell)"
              :aria-description="about(cell) || undefined"
              @click="emit('open', { company: company.company, column })"
              @keydown="arrow($event, row, column)"
            >
              <template v-if="cell.value !== null">{{
                figure(cell.value, columns[column]!.unit, columns[column]!.percent)
              }}</template>
              <template v-else>{{ reasonShort(cell.reason, company.template) }}</template>
            </button>
          </td>
          <td v-if="money" class="t soft small">{{ currency(company) }}</td>
          <td class="t soft small">
            {{ periods(company) || 'none' }}<span v-for="mark in company.cells[0]?.marks" :key="mark" class="mark" :title="MARKS[mark]">{{
              mark.replace('_', ' ')
            }}</span>
          </td>
        </tr>
      </tbody>
    </table>
  </div>
</template>

<style scoped>
.scroll {
  overflow-x: auto;
}
table {
  border-collapse: collapse;
  width: 100%;
}
th {
  font-weight: 600;
  font-size: 12.5px;
  text-align: right;
  color: var(--soft);
  border-bottom: 1.5px solid var(--ink);
  padding: 4px 8px;
  vertical-align: bottom;
  line-height: 1.25;
}
.head {
  font-size: 12px;
  font-weight: 400;
  color: var(--ink);
  white-space: pre-wrap;
}
td {
  height: 32px;
  text-align: right;
  border-bottom: 1px solid var(--rule);
  padding: 0 8px;
  white-space: nowrap;
  position: relative;
}
.t {
  text-align: left;
}
.first {
  padding-left: 0;
  position: sticky;
  left: 0;
  background: var(--paper);
}
tr.on td {
  background: var(--chosen);
}
.symbol {
  color: var(--soft);
  font-size: 12px;
  margin-left: 8px;
}
.small {
  font-size: 12.5px;
}
.figure {
  all: unset;
  cursor: pointer;
  padding: 4px 2px;
  border-radius: 2px;
}
.figure:hover {
  color: var(--spruce);
  text-decoration: underline;
}
.figure:focus-visible {
  outline: 2px solid var(--spruce);
}
.missing {
  color: var(--soft);
  font-size: 12.5px;
}
.negative {
  color: var(--brick);
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

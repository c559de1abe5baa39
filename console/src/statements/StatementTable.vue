<script setup lang="ts">
import { computed } from 'vue'

import type { Statement, StatementLine } from '../api/types'
import FigureTable from '../figures/FigureTable.vue'
import { look, type Look } from '../figures/look'
import { shortDay } from '../time/format'
import SparkLine from './SparkLine.vue'
import { comparable } from './trend'

/** A statement: lines down and periods across, or the other way round. */
const props = defineProps<{
  found: Statement
  calendar: boolean
  transposed: boolean
  chosen: string[]
  opened: string | null
  scale: string
}>()
const emit = defineEmits<{ open: [line: StatementLine, column: number]; choose: [item: string] }>()

const percent = computed(() => props.found.show !== 'amounts')
const label = computed(() => `${props.found.name}, ${props.found.statement.replace('_', ' ')}`)
const lines = computed(() => props.found.lines.map((line) => ({ ...line, key: line.item })))
const periods = computed(() =>
  props.found.columns.map((column) => ({
    ...column,
    key: column.nominal_end,
    head: props.calendar ? column.calendar : column.label,
  })),
)
const opened = computed(() => {
  const [item, end] = (props.opened ?? '').split(':')
  if (!item || !end) return null
  return props.transposed ? { row: end, column: item } : { row: item, column: end }
})

/** What the figures are in: a currency where there are amounts, a scale where there is anything to scale. */
const corner = computed(() => {
  if (percent.value) return '%'
  const units = new Set(props.found.lines.map((l) => l.unit))
  const scaled = units.has('money') || units.has('shares') ? props.scale : ''
  if (!units.has('money') && !units.has('money_per_share')) return scaled
  if (props.found.currency) return `${props.found.currency} ${scaled}`.trim()
  return [scaled, 'in each period’s currency'].filter(Boolean).join(', ')
})

function looked(line: StatementLine, column: number): Look {
  return look(line.cells[column]!, {
    unit: line.unit,
    percent: percent.value,
    scale: props.scale,
    template: line.applies ? null : props.found.template,
  })
}

function title(line: StatementLine): string {
  const perShare = line.unit === 'money_per_share' && !percent.value && props.found.currency
  return perShare ? `${line.title}, ${props.found.currency}` : line.title
}
</script>

<template>
  <FigureTable
    v-if="!transposed"
    :label="label"
    :rows="lines"
    :columns="periods"
    :look="(row, column) => looked(lines[row]!, column)"
    :opened="opened"
    :strong="(line) => line.indent === 0"
    dense
    @open="(row, column) => emit('open', lines[row]!, column)"
  >
    <template #heads-before><th class="first t">{{ corner }}</th></template>
    <template #head="{ column }">
      {{ column.head }}<small>{{ shortDay(column.first_public_at) }}</small>
      <small v-if="!found.currency && column.currency">{{ column.currency }}</small>
    </template>
    <template #heads-after><th class="t"><small>Trend</small></th></template>
    <template #before="{ row }">
      <td class="first t" :style="{ paddingLeft: `${row.indent * 14}px` }">
        <button
          class="name"
          :class="{ chosen: chosen.includes(row.item) }"
          :title="`Draw ${row.title}`"
          :aria-pressed="chosen.includes(row.item)"
          @click="emit('choose', row.item)"
        >{{ title(row) }}</button>
      </td>
    </template>
    <template #after="{ row }">
      <td class="spark"><SparkLine :values="comparable(found, row)" :title="row.title" /></td>
    </template>
  </FigureTable>
  <FigureTable
    v-else
    :label="label"
    :rows="periods"
    :columns="lines"
    :look="(row, column) => looked(lines[column]!, row)"
    :opened="opened"
    dense
    wrap
    @open="(row, column) => emit('open', lines[column]!, row)"
  >
    <template #heads-before>
      <th class="first t">Period<small>{{ corner }}</small></th>
      <th class="t">Public since</th>
    </template>
    <template #head="{ column }">{{ column.title }}</template>
    <template #before="{ row }">
      <td class="first t">{{ row.head }}</td>
      <td class="t soft">{{ shortDay(row.first_public_at) }}</td>
    </template>
  </FigureTable>
</template>

<style scoped>
.name {
  all: unset;
  cursor: pointer;
}
.name:hover,
.name.chosen {
  color: var(--spruce);
}
.name:focus-visible {
  outline: 2px solid var(--spruce);
}
.spark {
  padding-right: 0;
}
</style>

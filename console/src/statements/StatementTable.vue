<script setup lang="ts">
import { computed } from 'vue'

import type { Statement, StatementLine } from '../api/types'
import FigureTable from '../figures/FigureTable.vue'
import { shortDay } from '../time/format'
import { type Arranged, looksOf, type Period, periodKey, rowsOf, type ShownRow } from './arranged'
import SparkLine from './SparkLine.vue'
import { comparable } from './trend'

/**
 * A statement: lines down and periods across, or the other way round; with quiet lines, or beside
 * another day.
 */
const props = defineProps<{
  found: Arranged
  growth: Statement | null
  share: Statement | null
  earlier: Statement | null
  calendar: boolean
  transposed: boolean
  chosen: string[]
  opened: string | null
  scale: string
}>()
const emit = defineEmits<{ open: [line: StatementLine, column: number]; choose: [item: string] }>()

const percent = computed(() => props.found.show !== 'amounts')
const label = computed(() => `${props.found.name}, ${props.found.statement.replace('_', ' ')}`)
const rows = computed(() => rowsOf(props.found, props.growth, props.share))
const lines = computed(() => rows.value.filter((row) => row.kind === 'line'))
const periods = computed(() =>
  props.found.columns.map((column) => ({
    ...column,
    key: periodKey(column),
    head: props.calendar ? column.calendar : column.label,
  })),
)
const looked = computed(() => looksOf(props.found, props.scale, props.earlier))
const trends = computed(
  () => props.found.frequency !== 'cumulative' && !periods.value.some((p) => p.of),
)
const opened = computed(() => {
  const [item, end] = (props.opened ?? '').split(':')
  if (!item || !end) return null
  return props.transposed ? { row: end, column: item } : { row: item, column: end }
})

/**
 * What the figures are in: a currency where there are amounts, a scale where there is anything to
 * scale.
 */
const corner = computed(() => {
  if (percent.value) return '%'
  const units = new Set(props.found.lines.map((l) => l.unit))
  const scaled = units.has('money') || units.has('shares') ? props.scale : ''
  if (!units.has('money') && !units.has('money_per_share')) return scaled
  if (props.found.currency) return `${props.found.currency} ${scaled}`.trim()
  return [scaled, 'in each period’s currency'].filter(Boolean).join(', ')
})

function rowClass(row: ShownRow): string {
  if (row.kind !== 'line') return 'quiet'
  if (row.line.of_which) return 'part'
  return row.line.indent === 0 ? 'strong' : ''
}

function named(column: Period & { head: string }): string {
  return `${column.head}${corner.value && corner.value !== '%' ? `, in ${corner.value}` : ''}`
}

const indent = (row: ShownRow) => ({
  paddingLeft: `${(row.line.indent + (row.kind === 'line' ? 0 : 1)) * 14}px`,
})
</script>

<template>
  <FigureTable
    v-if="!transposed"
    :label="label"
    :rows="rows"
    :columns="periods"
    :look="(row, column) => looked(rows[row]!, column)"
    :opened="opened"
    :row-name="(row) => (row.kind === 'line' ? row.title : `${row.line.title}, ${row.title}`)"
    :column-name="named"
    :row-class="rowClass"
    dense
    from-end
    @open="(row, column) => emit('open', rows[row]!.line, column)"
  >
    <template #heads-before
      ><th class="first t" scope="col">{{ corner || 'Line' }}</th></template
    >
    <template #head="{ column }">
      {{ column.head }}<small>{{ shortDay(column.first_public_at) }}</small>
      <small v-if="earlier && !earlier.columns.some((c) => periodKey(c) === column.key)" class="new"
        >not yet there then</small
      >
      <small v-if="!found.currency && column.currency">{{ column.currency }}</small>
    </template>
    <template #heads-after
      ><th v-if="trends" class="t" scope="col"><small>Trend</small></th></template
    >
    <template #before="{ row, stop }">
      <th class="first t" scope="row" :style="indent(row)">
        <button
          v-if="row.kind === 'line'"
          class="name"
          :class="{ chosen: chosen.includes(row.line.item) }"
          :title="`Draw ${row.line.title}`"
          :aria-pressed="chosen.includes(row.line.item)"
          v-bind="stop"
          @click="emit('choose', row.line.item)"
        >
          {{ row.title }}
        </button>
        <template v-else>{{ row.title }}</template>
      </th>
    </template>
    <template #after="{ row }">
      <td v-if="trends" class="spark">
        <SparkLine
          v-if="row.kind === 'line'"
          :values="comparable(found, row.line)"
          :title="row.title"
        />
      </td>
    </template>
  </FigureTable>
  <FigureTable
    v-else
    :label="label"
    :rows="periods"
    :columns="lines"
    :look="(row, column) => looked(lines[column]!, row)"
    :opened="opened"
    :row-name="named"
    :column-name="(row) => row.title"
    dense
    wrap
    @open="(row, column) => emit('open', lines[column]!.line, row)"
  >
    <template #heads-before>
      <th class="first t" scope="col">
        Period<small>{{ corner }}</small>
      </th>
      <th class="t" scope="col">Public since</th>
    </template>
    <template #head="{ column }">{{ column.title }}</template>
    <template #before="{ row }">
      <th class="first t" scope="row">{{ row.head }}</th>
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
.new {
  color: var(--plum) !important;
}
.spark {
  padding-right: 0;
}
</style>

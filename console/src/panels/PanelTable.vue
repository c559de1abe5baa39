<script setup lang="ts">
import { computed } from 'vue'

import type { PanelAnswer } from '../api/types'
import PlainTable from '../figures/PlainTable.vue'
import { bracketed, figure, headingScale } from '../figures/numbers'
import { reasonFull, reasonShort } from '../figures/reasons'

/** The first rows of a panel; a missing cell says why. */
const props = defineProps<{ answer: PanelAnswer; knownOn: string }>()
const first = computed(() => props.answer.heads[0] ?? 'date')
function text(row: Record<string, unknown>, c: PanelAnswer['columns'][number]): string {
  const value = row[c.name]
  if (value === null || value === undefined)
    return reasonShort(String(row[`${c.name}.reason`] ?? ''))
  if (typeof value !== 'number') return String(value)
  if (c.unit === 'truth') return value ? 'yes' : 'no'
  const shown = c.unit === 'pure' ? bracketed(value, 3) : figure(value, c.unit, false)
  const currency = row[`${c.name}.currency`]
  return currency ? `${shown} ${String(currency)}` : shown
}
const why = (
  row: Record<string, unknown>,
  c: PanelAnswer['columns'][number],
): string | undefined =>
  row[c.name] === null
    ? reasonFull(String(row[`${c.name}.reason`] ?? ''))
    : row[`${c.name}.period_end`]
      ? `period to ${String(row[`${c.name}.period_end`])}`
      : undefined
const later = (n: number): boolean =>
  n > 0 && props.answer.records[n]![first.value] === props.answer.records[n - 1]![first.value]
</script>

<template>
  <div class="scroll" tabindex="0" role="region" aria-label="First rows of the panel">
    <PlainTable label="Rows of the panel">
      <thead>
        <tr>
          <th scope="col">{{ first === 'period' ? 'Period' : 'Date' }}</th>
          <th scope="col">Company</th>
          <th
            v-for="c in answer.columns"
            :key="c.name"
            scope="col"
            :class="{ n: c.unit !== 'text', ahead: c.looks_ahead }"
            :title="c.expression"
          >
            {{ c.name
            }}<span v-if="headingScale({ unit: c.unit, percent: false })" class="soft"
              >, {{ headingScale({ unit: c.unit, percent: false }) }}</span
            >
            <span v-if="c.looks_ahead" class="soft"> looks ahead</span>
          </th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="(row, n) in answer.records" :key="n">
          <th scope="row" class="date" :class="{ soft: later(n) }">{{ row[first] }}</th>
          <td class="name" :title="String(row.name)">
            <router-link
              :to="{
                name: 'company',
                params: { id: String(row.company) },
                query: { known_on: knownOn },
              }"
              >{{ row.name }}</router-link
            >
          </td>
          <td
            v-for="c in answer.columns"
            :key="c.name"
            :class="{
              n: c.unit !== 'text',
              missing: row[c.name] === null,
              wrong: typeof row[c.name] === 'number' && Number(row[c.name]) < 0,
            }"
            :title="why(row, c)"
          >
            {{ text(row, c) }}
          </td>
        </tr>
      </tbody>
    </PlainTable>
  </div>
</template>

<style scoped>
.scroll {
  overflow: auto;
  max-height: calc(100vh - 190px);
}
thead th {
  position: sticky;
  top: 0;
  background: var(--paper);
  z-index: 1;
}
.date,
.name {
  white-space: nowrap;
}
.name {
  max-width: 180px;
  overflow: hidden;
  text-overflow: ellipsis;
}
th,
td {
  padding-left: 6px;
  padding-right: 6px;
}
.ahead {
  color: var(--plum);
}
</style>

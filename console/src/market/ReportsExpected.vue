<script setup lang="ts">
import type { CalendarEntry } from '../api/types'
import PlainTable from '../figures/PlainTable.vue'
import { reasonFull, reasonShort } from '../figures/reasons'
import { inYear, instant } from '../time/format'
import { amount, briefAmountIn } from './amounts'

/** Reports to come: the day, the company, and what is expected of it. */
defineProps<{ entries: CalendarEntry[]; unit: string; knownOn: string }>()
const STATES: Record<string, string> = {
  expected: '',
  assumed: 'assumed',
  overdue: 'overdue',
}
const WHY: Record<string, string> = {
  assumed: 'no source says when: 364 days after the same period of the year before',
  overdue: 'the day has passed, and nothing was announced by the date of the stamp',
}
</script>

<template>
  <PlainTable label="Reports expected">
    <thead>
      <tr>
        <th>On</th>
        <th>Company</th>
        <th>Period</th>
        <th class="n">Mean</th>
        <th class="n">By</th>
      </tr>
    </thead>
    <tbody>
      <tr v-for="e in entries" :key="e.company + e.period">
        <th scope="row" class="day" :title="WHY[e.state] ?? `as a source says: ${instant(e.at)}`">
          {{ inYear(e.at) }}<span v-if="STATES[e.state]" class="state">{{ STATES[e.state] }}</span>
        </th>
        <td>
          <router-link
            :to="{
              name: 'estimates',
              query: {
                company: e.company,
                known_on: knownOn,
                period: e.count ? e.period : undefined,
              },
            }"
            >{{ e.name }}</router-link
          >
        </td>
        <td>{{ e.period }}</td>
        <td v-if="e.mean === null" class="n missing" colspan="2" :title="reasonFull(e.reason)">
          {{ reasonShort(e.reason) }}
        </td>
        <template v-else>
          <td class="n">
            {{ amount(e.mean, unit) }}
            <span class="soft unit">{{ briefAmountIn(unit, e.currency) }}</span>
          </td>
          <td class="n">{{ e.count }}</td>
        </template>
      </tr>
    </tbody>
  </PlainTable>
</template>

<style scoped>
th {
  white-space: nowrap;
}
.state {
  margin-left: 8px;
  font-size: 11.5px;
  color: var(--ochre-ink);
}
.unit {
  font-size: 11.5px;
}
</style>

<script setup lang="ts">
import type { CalendarEntry } from '../api/types'
import PlainTable from '../figures/PlainTable.vue'
import { bracketed } from '../figures/numbers'
import { reasonFull, reasonShort } from '../figures/reasons'
import { inYear, instant } from '../time/format'
import { amount, briefAmountIn } from './amounts'

/** Reports that came: what had been expected, what was announced, and by how much they differ. */
defineProps<{ entries: CalendarEntry[]; unit: string; knownOn: string }>()
</script>

<template>
  <PlainTable label="Reports that came">
    <thead>
      <tr>
        <th>On</th>
        <th>Company</th>
        <th>Period</th>
        <th class="n">Mean</th>
        <th class="n">Actual</th>
        <th class="n">Surprise, %</th>
      </tr>
    </thead>
    <tbody>
      <tr v-for="e in entries" :key="e.company + e.period">
        <th scope="row" class="day" :title="instant(e.at)">{{ inYear(e.at) }}</th>
        <td>
          <router-link
            :to="{
              name: 'estimates',
              query: { company: e.company, known_on: knownOn, period: e.period },
            }"
            >{{ e.name }}</router-link
          >
        </td>
        <td>{{ e.period }}</td>
        <td class="n">{{ amount(e.mean, unit) }}</td>
        <td class="n">
          {{ amount(e.actual, unit) }}
          <span class="soft unit">{{ briefAmountIn(unit, e.currency) }}</span>
        </td>
        <td
          class="n"
          :class="{
            down: (e.surprise_relative ?? 0) < 0,
            missing: e.surprise_relative === null,
          }"
          :title="reasonFull(e.reason)"
        >
          {{
            e.surprise_relative === null
              ? reasonShort(e.reason)
              : bracketed(e.surprise_relative * 100, 1)
          }}
        </td>
      </tr>
    </tbody>
  </PlainTable>
</template>

<style scoped>
th {
  white-space: nowrap;
}
.down {
  color: var(--brick);
}
.unit {
  font-size: 11.5px;
}
</style>

<script setup lang="ts">
import { computed } from 'vue'

import type { SeriesAnswer } from '../api/types'
import PlainTable from '../figures/PlainTable.vue'
import { bracketed } from '../figures/numbers'
import { reasonShort } from '../figures/reasons'
import { instant } from '../time/format'
import { decimals, distinctParts, unitOfLine } from './state'

/** Series side by side, periods down, the newest first. */
const props = defineProps<{ answer: SeriesAnswer }>()
const MOST = 400
const names = computed(() => distinctParts(props.answer.series.map((s) => s.title)))
const digits = computed(() =>
  props.answer.series.map((s) =>
    decimals(
      s.observations.map((o) => o.value),
      s.percent,
    ),
  ),
)
const rows = computed(() => {
  const by = props.answer.series.map((s) => new Map(s.observations.map((o) => [o.date, o])))
  const dates = [...new Set(props.answer.series.flatMap((s) => s.observations.map((o) => o.date)))]
    .sort()
    .reverse()
    .slice(0, MOST)
  return dates.map((date) => {
    const cells = by.map((of) => of.get(date))
    return { date, period: cells.find((c) => c)!.period, cells }
  })
})
</script>

<template>
  <div class="scroll" tabindex="0" role="region" aria-label="Observations">
    <PlainTable label="Values by period">
      <thead>
        <tr>
          <th class="stay">Period</th>
          <th v-for="(s, n) in answer.series" :key="s.key + s.head" class="n" :title="s.key">
            {{ names[n] }}<template v-if="s.head !== 'level'">, {{ s.head }}</template
            >, {{ unitOfLine(s) }}
          </th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="r in rows" :key="r.date">
          <th scope="row" class="stay">{{ r.period }}</th>
          <td
            v-for="(c, n) in r.cells"
            :key="n"
            class="n"
            :class="{ missing: c?.value == null }"
            :title="
              c?.known_at ? `known since ${instant(c.known_at)}${c.assumed ? ', assumed' : ''}` : ''
            "
          >
            {{
              c === undefined
                ? answer.series[n]!.frequency
                : c.value === null
                  ? reasonShort(c.reason)
                  : bracketed(answer.series[n]!.percent ? c.value * 100 : c.value, digits[n]!)
            }}
          </td>
        </tr>
      </tbody>
    </PlainTable>
  </div>
</template>

<style scoped>
.scroll {
  overflow: auto;
  max-height: 420px;
}
thead th {
  min-width: 90px;
}
</style>

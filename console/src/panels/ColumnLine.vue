<script setup lang="ts">
import { computed } from 'vue'

import type { ColumnSummary } from '../api/types'
import { bracketed, figure, grouped } from '../figures/numbers'
import { reasonShort } from '../figures/reasons'

/**
 * How one column lies: a bar of what is filled and why the rest is missing, its quantiles, its
 * extremes by name.
 */
const props = defineProps<{ summary: ColumnSummary }>()
const INKS: Record<string, string> = {
  not_known: '--soft',
  not_applicable: '--rule',
  stale: '--ochre',
  incomplete: '--plum',
  not_meaningful: '--brick',
  zero_denominator: '--brick',
}
const parts = computed(() =>
  Object.entries(props.summary.reasons).map(([reason, n]) => ({
    reason,
    n: n ?? 0,
    ink: `var(${INKS[reason] ?? '--plum'})`,
  })),
)
const share = computed(() => (props.summary.cells ? props.summary.filled / props.summary.cells : 0))
const say = (v: number): string =>
  props.summary.unit === 'pure' ? bracketed(v, 3) : figure(v, props.summary.unit, false)
const quantiles = computed(() =>
  props.summary.quantiles.length === 7
    ? [0, 2, 3, 4, 6].map((n) => say(props.summary.quantiles[n]!))
    : [],
)
const words = computed(() =>
  parts.value.map((p) => `${reasonShort(p.reason)} ${grouped(p.n)}`).join(', '),
)
</script>

<template>
  <tr>
    <th scope="row" :title="summary.expression">{{ summary.name }}</th>
    <td class="n">{{ (share * 100).toFixed(1) }} %</td>
    <td>
      <span
        class="bar"
        role="img"
        :aria-label="`${summary.filled} of ${summary.cells} filled; ${words}`"
        :title="words"
      >
        <i class="there" :style="{ flexGrow: summary.filled }" /><i
          v-for="p in parts"
          :key="p.reason"
          :style="{ flexGrow: p.n, background: p.ink }"
        />
      </span>
      <span class="soft why">{{
        parts
          .slice(0, 3)
          .map((p) => `${reasonShort(p.reason)} ${grouped(p.n)}`)
          .join(', ')
      }}</span>
    </td>
    <td v-for="(t, n) in quantiles" :key="n" class="n">{{ t }}</td>
    <td v-if="!quantiles.length" colspan="5" class="soft">words</td>
    <td class="soft end">
      <template v-if="summary.highest"
        >{{ summary.highest.name }}, {{ summary.highest.date }}</template
      >
    </td>
  </tr>
</template>

<style scoped>
th {
  font-weight: 600;
  text-align: left;
  white-space: nowrap;
  max-width: 170px;
  overflow: hidden;
  text-overflow: ellipsis;
}
.bar {
  display: flex;
  height: 8px;
  width: 120px;
  border-radius: 2px;
  overflow: hidden;
  background: var(--rule);
}
.bar i {
  flex-basis: 0;
}
.there {
  background: var(--spruce);
}
.why {
  font-size: 11.5px;
  display: block;
  max-width: 150px;
}
.end {
  font-size: 12px;
  max-width: 140px;
}
</style>

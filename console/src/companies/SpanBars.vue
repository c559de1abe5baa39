<script setup lang="ts">
import { computed } from 'vue'

import { stretch } from '../time/format'
import { DAY_MS, today } from '../time/days'

export interface Bar {
  label: string
  value: string
  from: string | null
  to: string | null
}

/** Names, identifiers and listings on one line of time, up to the stamp: no later is known. */
const props = defineProps<{ label: string; bars: Bar[]; knownOn: string }>()

const first = computed(() => {
  const starts = props.bars.map((b) => b.from).filter((d): d is string => d !== null && d > '1950')
  return starts.length ? starts.reduce((a, b) => (a < b ? a : b)) : '2015-01-01'
})
const span = computed(() => Math.max(DAY_MS, Date.parse(today()) - Date.parse(first.value)))

function share(day: string | null, open: number): number {
  if (day === null) return open
  return Math.min(1, Math.max(0, (Date.parse(day) - Date.parse(first.value)) / span.value))
}

function extent(bar: Bar): { left: string; width: string } {
  const [begin, end] = [share(bar.from, 0), share(bar.to ?? props.knownOn, 1)]
  return { left: `${100 * begin}%`, width: `${100 * (end - begin)}%` }
}
</script>

<template>
  <table>
    <caption class="visually-hidden">
      {{
        label
      }}
    </caption>
    <tbody>
      <tr v-for="bar in bars" :key="bar.label + bar.value + bar.from">
        <th scope="row" class="soft">{{ bar.label }}</th>
        <td class="code value cut">{{ bar.value }}</td>
        <td class="track">
          <i :style="extent(bar)" :class="{ past: bar.to !== null && bar.to < knownOn }" />
          <s :style="{ left: `${100 * share(knownOn, 1)}%` }" />
          <u :style="{ left: `${100 * share(knownOn, 1)}%` }" />
        </td>
        <td class="soft dates">{{ stretch(bar.from, bar.to) }}</td>
      </tr>
    </tbody>
  </table>
</template>

<style scoped>
table {
  border-collapse: collapse;
  table-layout: fixed;
  width: 100%;
}
th,
td {
  text-align: left;
  height: 30px;
  padding: 0 12px 0 0;
  border-bottom: 1px solid var(--rule);
  white-space: nowrap;
}
th {
  font-weight: 400;
  width: 132px;
}
.value {
  width: 230px;
}
.track {
  position: relative;
  width: auto;
}
.track i {
  position: absolute;
  top: 11px;
  height: 8px;
  min-width: 2px;
  border-radius: 2px;
  background: var(--spruce);
}
.track i.past {
  background: none;
  border: 1.5px solid var(--soft);
}
.track s {
  position: absolute;
  top: 11px;
  right: 0;
  height: 8px;
  --stroke: color-mix(in srgb, var(--soft) 35%, transparent);
  background: repeating-linear-gradient(135deg, var(--stroke) 0 1px, transparent 1px 4px);
}
.track u {
  position: absolute;
  top: 0;
  bottom: -1px;
  border-left: 2px solid var(--plum);
}
.dates {
  width: 210px;
  font-size: 12.5px;
  padding-left: 12px;
}
</style>

<script setup lang="ts">
import { computed } from 'vue'

import type { Revisions } from '../api/types'
import PlainTable from '../figures/PlainTable.vue'
import { bracketed } from '../figures/numbers'
import { shortDay } from '../time/format'

/** What was said of one period, release by release, as steps; a new base begins a new line. */
const props = defineProps<{ revisions: Revisions }>()
const WIDTH = 240
const HEIGHT = 130
const drawn = computed(() => {
  const rows = props.revisions.revisions.filter((r) => r.value !== null)
  const last = rows[rows.length - 1]?.base
  return rows.filter((r) => r.base === last)
})
const path = computed(() => {
  const rows = drawn.value
  if (rows.length < 2) return ''
  const at = rows.map((r) => Date.parse(r.released_at))
  const values = rows.map((r) => r.value!)
  const [low, high] = [Math.min(...values), Math.max(...values)]
  const x = (t: number): number =>
    6 + ((t - at[0]!) / (at[at.length - 1]! - at[0]! || 1)) * (WIDTH - 12)
  const y = (v: number): number => HEIGHT - 8 - ((v - low) / (high - low || 1)) * (HEIGHT - 16)
  return rows
    .map((r, n) => (n ? `H${x(at[n]!)}V${y(r.value!)}` : `M${x(at[0]!)} ${y(r.value!)}`))
    .join('')
})
</script>

<template>
  <svg
    v-if="path"
    :viewBox="`0 0 ${WIDTH} ${HEIGHT}`"
    role="img"
    :aria-label="`revisions of ${revisions.period}`"
  >
    <path :d="path" fill="none" stroke="var(--spruce)" stroke-width="1.8" />
  </svg>
  <PlainTable label="What each release said of the period">
    <thead>
      <tr>
        <th>Released</th>
        <th class="n">Value</th>
        <th>Base</th>
      </tr>
    </thead>
    <tbody>
      <tr v-for="r in revisions.revisions" :key="r.released_at">
        <th scope="row">
          {{ shortDay(r.released_at) }}<span v-if="r.assumed" class="soft"> assumed</span>
        </th>
        <td class="n" :class="{ missing: r.value === null }">
          {{ r.value === null ? 'withdrawn' : bracketed(r.value, 2, 1) }}
        </td>
        <td class="soft">{{ r.base }}</td>
      </tr>
    </tbody>
  </PlainTable>
</template>

<style scoped>
svg {
  width: 100%;
  height: 130px;
}
.lined :is(td, tbody th) {
  height: 24px;
}
</style>

<script setup lang="ts">
import { computed, defineAsyncComponent } from 'vue'

import { shortDay } from '../time/format'
import type { Arranged } from './arranged'
import { drawn, frequencyOf } from './trend'

// Charts weigh more than all the rest: they come when somebody wants one.
const LinesChart = defineAsyncComponent(() => import('./LinesChart.vue'))

/**
 * The lines that were chosen of statements, drawn over their periods; or why they have no common
 * axis.
 */
const props = defineProps<{
  found: Arranged[]
  chosen: string[]
  scale: string
  indexed: boolean
  calendar: boolean
}>()
const emit = defineEmits<{ index: [on: boolean]; convert: [currency: string] }>()

const drawing = computed(() => drawn(props.found, props.chosen, props.scale, props.indexed))
const titles = computed(() => {
  const lines = props.found.flatMap((of) => of.lines)
  return props.chosen
    .map((code) => lines.find((line) => line.item === code)?.title)
    .filter(Boolean)
    .join(', ')
})
const heads = computed(() => {
  const of = props.found.length === 1 ? props.found[0]! : undefined
  const lines = of?.lines.filter((line) => props.chosen.includes(line.item)) ?? []
  const kinds = new Set(lines.map((line) => frequencyOf(of!, line)))
  const one = of?.columns.filter((c) => kinds.has(c.of)) ?? []
  const named = new Map(one.map((c) => [c.nominal_end, props.calendar ? c.calendar : c.label]))
  return drawing.value.ends.map((end) => named.get(end) ?? shortDay(end))
})
</script>

<template>
  <LinesChart
    v-if="drawing.series.length"
    :heads="heads"
    :series="drawing.series"
    :unit="drawing.unit"
    :name="found[0]!.name"
  >
    <b>{{ titles }}</b>
    <template #tools>
      <template v-if="indexed || found.length > 1">
        <button class="link" @click="emit('index', !indexed)">
          {{ indexed ? 'Amounts' : 'Index to 100' }}
        </button>
        ·
      </template>
    </template>
  </LinesChart>
  <p v-else-if="drawing.currencies.length" class="refused" role="alert">
    {{ drawing.currencies.join(' and ') }} have no common axis.
    <button class="link" @click="emit('convert', drawing.currencies[0]!)">
      Convert to {{ drawing.currencies[0] }}</button
    >, or <button class="link" @click="emit('index', true)">index to 100</button>.
  </p>
</template>

<style scoped>
.refused {
  border-left: 3px solid var(--ochre);
  padding: 2px 10px;
  margin: 6px 0 12px;
}
</style>

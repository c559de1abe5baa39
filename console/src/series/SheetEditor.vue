<script setup lang="ts">
import { computed } from 'vue'

import { keepSheet, sheets } from '../api/series'
import type { SeriesAsked, SeriesSheet } from '../api/types'
import KeptChoice from '../asking/KeptChoice.vue'
import { STEPS } from './state'

/**
 * What stands on the sheet: each series with its steps in their order; kept under a name, and
 * opened again.
 */
const props = defineProps<{
  series: SeriesAsked[]
  start: string | undefined
  sheet: string | undefined
}>()
const emit = defineEmits<{
  change: [series: SeriesAsked[]]
  open: [sheet: SeriesSheet]
  kept: [name: string]
}>()

function put(n: number, transforms: string[]): void {
  emit(
    'change',
    props.series.map((s, m) => (m === n ? { ...s, transforms } : s)),
  )
}
function add(n: number, event: Event): void {
  const box = event.target as HTMLInputElement
  const step = box.value.trim()
  box.value = ''
  if (step) put(n, [...(props.series[n]!.transforms ?? []), step])
}
const toAll = (): void =>
  emit(
    'change',
    props.series.map((s) => ({ ...s, transforms: props.series[0]!.transforms })),
  )
const alike = computed(() => new Set(props.series.map((s) => (s.transforms ?? []).join())).size < 2)
const keep = (
  name: string,
  said: { title: string; description: string; who: string },
): Promise<unknown> => keepSheet(name, { ...said, series: props.series, start: props.start })
</script>

<template>
  <section aria-label="The sheet" class="editor">
    <KeptChoice
      noun="sheet"
      example="house-prices"
      :open="sheet"
      :keepable="series.length > 0"
      :read="sheets"
      :keep="keep"
      @open="(one) => emit('open', one)"
      @kept="(name) => emit('kept', name)"
    >
      <h2>On the sheet</h2>
      <span class="read"><slot /></span>
    </KeptChoice>
    <ol v-if="series.length">
      <li v-for="(s, n) in series" :key="s.key + n">
        <span class="code">{{ s.key }}</span>
        <span v-for="(step, m) in s.transforms ?? []" :key="step + m" class="step">
          {{ step }}
          <button
            class="link"
            :aria-label="`Remove ${step} of ${s.key}`"
            @click="
              put(
                n,
                s.transforms!.filter((_, k) => k !== m),
              )
            "
          >
            ×
          </button>
        </span>
        <input
          class="field add"
          list="series-steps"
          :aria-label="`Add a step to ${s.key}`"
          :placeholder="s.transforms?.length ? 'then …' : 'level; a step …'"
          @change="add(n, $event)"
        />
        <button v-if="n === 0 && series.length > 1 && !alike" class="link" @click="toAll">
          to all
        </button>
        <button
          class="link end"
          :aria-label="`Remove ${s.key} from the sheet`"
          @click="
            emit(
              'change',
              series.filter((_, k) => k !== n),
            )
          "
        >
          Remove
        </button>
      </li>
    </ol>
    <datalist id="series-steps">
      <option v-for="step in STEPS" :key="step" :value="step" />
    </datalist>
  </section>
</template>

<style scoped>
.read {
  margin-right: auto;
}
ol {
  list-style: none;
  padding: 0;
  margin: 4px 0 0;
  max-height: 132px;
  overflow-y: auto;
}
li {
  display: flex;
  gap: 8px;
  align-items: center;
  flex-wrap: wrap;
  border-bottom: 1px solid var(--rule);
  padding: 3px 0;
}
.step {
  border: 1px solid var(--rule);
  border-radius: 4px;
  background: var(--sheet);
  padding: 0 6px;
  font-size: 13px;
}
.add {
  width: 150px;
  min-height: 26px;
  padding: 1px 8px;
  font-size: 13px;
}
.end {
  margin-left: auto;
}
</style>

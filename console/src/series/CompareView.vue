<script setup lang="ts">
import { computed, ref, watch } from 'vue'

import { comparison } from '../api/series'
import type { SeriesAsked } from '../api/types'
import ProblemNote from '../asking/ProblemNote.vue'
import { useQuestion } from '../asking/question'
import PlainTable from '../figures/PlainTable.vue'
import { bracketed } from '../figures/numbers'
import { shade } from '../figures/shades'
import { common, distinctParts } from './state'

/**
 * How the series of a sheet move together over a window that can be moved: a matrix, who leads,
 * who lags.
 */
const props = defineProps<{ series: SeriesAsked[]; knownOn: string; start: string | undefined }>()
const YEARS = [3, 5, 10, 20]
const years = ref(0)
const end = ref(Number(props.knownOn.slice(0, 4)))
watch(
  () => props.knownOn,
  (on) => (end.value = Number(on.slice(0, 4))),
)
const window_ = computed(() =>
  years.value
    ? { start: String(end.value - years.value + 1), end: String(end.value) }
    : { start: props.start },
)
const {
  answer: found,
  problem,
  loading,
} = useQuestion(
  () => ({ series: props.series, known_on: props.knownOn, lags: 12, ...window_.value }),
  comparison,
)
const order = computed(() =>
  (found.value?.series ?? [])
    .map((_, n) => n)
    .sort((a, b) => (found.value!.series[b]!.lead ?? -99) - (found.value!.series[a]!.lead ?? -99)),
)
const names = computed(() => distinctParts((found.value?.series ?? []).map((s) => s.title)))
const far = computed(() =>
  Math.max(1, ...(found.value?.series ?? []).map((s) => Math.abs(s.lead ?? 0))),
)
const cell = (c: number | null): Record<string, string> =>
  c === null ? {} : shade(c, Math.abs(c) * 85, 'var(--paper)')
const plain = (v: number | null | undefined, most = 2): string =>
  v == null ? 'n/a' : bracketed(v, most)
</script>

<template>
  <section :aria-busy="loading">
    <div class="tools">
      <label
        ><span class="soft">over</span>
        <select v-model.number="years" class="field">
          <option :value="0">the whole range</option>
          <option v-for="y in YEARS" :key="y" :value="y">{{ y }} years</option>
        </select>
      </label>
      <label v-if="years" class="slide"
        ><span class="soft">to the end of {{ end }}</span>
        <input
          v-model.number="end"
          type="range"
          :min="2000 + years"
          :max="Number(knownOn.slice(0, 4))"
          aria-label="The last year of the window"
        />
      </label>
      <span v-if="found" class="soft"
        >{{ found.periods[0] }} to {{ found.periods[found.periods.length - 1] }}; correlations of
        {{ found.changes }}</span
      >
    </div>
    <ProblemNote :problem="problem" />
    <div v-if="found && !problem" class="two">
      <div>
        <h3>{{ common(found.series.map((s) => s.title)) }}: correlation</h3>
        <div
          class="matrix"
          :style="{ gridTemplateColumns: `repeat(${order.length}, 1fr)` }"
          role="img"
          :aria-label="`correlations of ${order.length} series`"
        >
          <template v-for="a in order" :key="a">
            <i
              v-for="b in order"
              :key="b"
              :style="cell(found.correlation[a]![b]!)"
              :title="`${names[a]} with ${names[b]}: ${plain(found.correlation[a]![b])}`"
              >{{ order.length <= 8 ? plain(found.correlation[a]![b]) : '' }}</i
            >
          </template>
        </div>
        <p class="soft small">
          In the order of the table: those that lead stand first, by so many periods; half-lives in
          periods too. Touch a field for its number.
        </p>
      </div>
      <div class="scroll" tabindex="0" role="region" aria-label="Compared">
        <PlainTable label="How the series stand to each other">
          <thead>
            <tr>
              <th>Series</th>
              <th class="n">Last</th>
              <th class="n" title="of the last value from the mean of all">Apart</th>
              <th class="n">Half-life</th>
              <th>Leads by</th>
              <th class="n" title="the correlation with the others so many periods later">There</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="n in order" :key="found.series[n]!.key">
              <th scope="row" :title="found.series[n]!.key">{{ names[n] }}</th>
              <td class="n">
                {{
                  plain(
                    found.percent && found.series[n]!.last !== null
                      ? found.series[n]!.last! * 100
                      : found.series[n]!.last,
                  )
                }}
              </td>
              <td class="n">
                {{
                  plain(
                    found.percent && found.series[n]!.distance !== null
                      ? found.series[n]!.distance! * 100
                      : found.series[n]!.distance,
                  )
                }}
              </td>
              <td
                class="n"
                :class="{ missing: found.series[n]!.half_life === null }"
                :title="
                  found.series[n]!.half_life === null
                    ? 'its distance from the mean does not go back'
                    : ''
                "
              >
                {{ plain(found.series[n]!.half_life, 1) }}
              </td>
              <td>
                <span class="bar"
                  ><b
                    :style="{
                      left: `${50 + Math.min(0, (found.series[n]!.lead ?? 0) / far) * 50}%`,
                      width: `${(Math.abs(found.series[n]!.lead ?? 0) / far) * 50}%`,
                      background:
                        (found.series[n]!.lead ?? 0) >= 0 ? 'var(--spruce)' : 'var(--plum)',
                    }"
                /></span>
                {{ found.series[n]!.lead === null ? 'n/a' : bracketed(found.series[n]!.lead!, 0) }}
              </td>
              <td class="n">{{ plain(found.series[n]!.lead_correlation) }}</td>
            </tr>
          </tbody>
        </PlainTable>
      </div>
    </div>
  </section>
</template>

<style scoped>
.tools {
  display: flex;
  gap: 16px;
  align-items: center;
  font-size: 13px;
  margin-bottom: 8px;
}
.tools label {
  display: inline-flex;
  gap: 6px;
  align-items: center;
}
.two {
  display: grid;
  grid-template-columns: 310px minmax(0, 1fr);
  gap: 22px;
}
.matrix {
  display: grid;
  aspect-ratio: 1;
  margin-top: 6px;
}
.matrix i {
  font-style: normal;
  font-size: 11.5px;
  display: grid;
  place-items: center;
}
.scroll {
  overflow: auto;
  max-height: 400px;
}
thead th {
  position: sticky;
  top: 0;
  background: var(--paper);
  z-index: 1;
}
.lined :is(td, tbody th) {
  height: 26px;
}
.bar {
  display: inline-block;
  position: relative;
  width: 66px;
  height: 9px;
  border-left: 0;
  background: linear-gradient(var(--rule), var(--rule)) 50% 0 / 1px 100% no-repeat;
}
.bar b {
  position: absolute;
  top: 0;
  bottom: 0;
}
h3 {
  font-size: 13px;
}
.small {
  font-size: 12.5px;
}
</style>

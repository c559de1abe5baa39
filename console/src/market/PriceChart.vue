<script setup lang="ts">
import { LineChart, ScatterChart } from 'echarts/charts'
import { GridComponent, TooltipComponent } from 'echarts/components'
import { type EChartsCoreOption, use } from 'echarts/core'
import { SVGRenderer } from 'echarts/renderers'
import { computed, useTemplateRef } from 'vue'

import { levels, prices } from '../api/market'
import { lists } from '../api/ledger'
import type { DocumentInfo } from '../api/types'
import { useAddress } from '../asking/address'
import ProblemNote from '../asking/ProblemNote.vue'
import { useQuestion } from '../asking/question'
import { type Ink, useChart } from '../figures/chart'
import { asTable } from '../figures/charting'
import { bracketed } from '../figures/numbers'
import { asNamed, tip } from '../figures/tips'
import { monthMarks } from '../time/days'
import { shortDay } from '../time/format'
import { rebased, yearsBefore } from './rebased'

/**
 * The price of a company through time, with what was filed, and a list's level beside it; its
 * choices in the address.
 */
const props = defineProps<{
  company: string
  name: string
  knownOn: string
  documents: DocumentInfo[]
}>()
use([LineChart, ScatterChart, GridComponent, TooltipComponent, SVGRenderer])
const SPANS: [string, number][] = [
  ['1 year', 1],
  ['3 years', 3],
  ['10 years', 10],
]
const { answer: all, problem: listless } = useQuestion(
  () => ({}),
  () => lists(),
)
const known = computed(() => (all.value ?? []).filter((l) => l.kept_by))
const { one, set } = useAddress()
const years = computed(() => Number(one('years') ?? 3))
const traded = computed(() => one('prices') === 'traded')
const logarithmic = computed(() => one('scale') === 'log')
const beside = computed(() => one('beside'))
const start = computed(() => yearsBefore(props.knownOn, years.value)!)

const { answer, problem, loading } = useQuestion(
  () => ({
    companies: [props.company],
    known_on: props.knownOn,
    start: start.value,
    frequency: years.value > 3 ? ('week' as const) : ('day' as const),
    adjusted: !traded.value,
  }),
  prices,
  { keep: false },
)
const { answer: level, problem: levelless } = useQuestion(
  () => (beside.value ? { list: beside.value, on: props.knownOn, start: start.value } : null),
  ({ list, on, start: from }, signal) => levels(list, on, from, signal),
  { keep: false },
)
const history = computed(() => answer.value?.histories[0] ?? null)
const closes = computed(() =>
  (history.value?.bars ?? []).map((b) => ({ date: b.date, value: b.close })),
)
const other = computed(() =>
  level.value
    ? rebased(
        closes.value,
        level.value.levels.map((l) => ({ date: l.date, value: l.level })),
      )
    : [],
)
const filed = computed(() => {
  const days = closes.value.map((p) => p.date)
  const shown = props.documents.filter(
    (d) => d.published_at && days.length && d.published_at.slice(0, 10) >= days[0]!,
  )
  return shown.flatMap((d) => {
    const at = days.findIndex((day) => day >= d.published_at!.slice(0, 10))
    return at < 0 ? [] : [{ at, title: d.title, day: d.published_at!.slice(0, 10) }]
  })
})
const last = computed(() => closes.value.filter((p) => p.value !== null).at(-1))

function option(colour: Ink): EChartsCoreOption | null {
  if (!history.value) return null
  const soft = colour('--soft')
  const name = history.value.symbol
  const days = closes.value.map((p) => p.date)
  const marks = monthMarks(days)
  const lines = [
    {
      type: 'line',
      name,
      data: closes.value.map((p) => p.value),
      showSymbol: false,
      color: colour('--spruce'),
      lineStyle: { width: 1.8 },
      endLabel: { show: true, formatter: asNamed(name), color: colour('--spruce') },
    },
    ...(other.value.length
      ? [
          {
            type: 'line',
            name: `${level.value!.list_title}, rebased`,
            data: other.value,
            showSymbol: false,
            color: soft,
            lineStyle: { width: 1.2 },
            endLabel: {
              show: true,
              formatter: asNamed(level.value!.list_title),
              color: soft,
              width: 120,
              overflow: 'truncate',
            },
          },
        ]
      : []),
    {
      type: 'scatter',
      name: 'filed',
      symbol: 'triangle',
      symbolSize: 9,
      z: 5,
      color: colour('--plum'),
      data: filed.value.map((f) => ({ value: [f.at, closes.value[f.at]!.value], name: f.title })),
      tooltip: { trigger: 'item' },
    },
  ]
  return {
    grid: { left: 56, right: 140, top: 26, bottom: 26 },
    tooltip: {
      trigger: 'axis',
      formatter: (
        points:
          | { seriesName: string; value: unknown; dataIndex: number; name: string }[]
          | { name: string },
      ) => {
        if (!Array.isArray(points)) return tip({ head: points.name, lines: [] })
        const day = closes.value[points[0]!.dataIndex]?.date
        const lines = points.map((p): [string, string] => {
          if (p.seriesName === 'filed') return [p.name, '']
          return [p.seriesName, typeof p.value === 'number' ? bracketed(p.value, 2) : 'missing']
        })
        return tip({ head: day ? shortDay(day) : '', lines })
      },
    },
    xAxis: {
      type: 'category',
      data: days,
      axisLabel: {
        color: soft,
        interval: (n: number) => marks.has(n),
        formatter: (d: string) => d.slice(0, 7),
      },
      axisLine: { lineStyle: { color: soft } },
      axisTick: { show: false },
    },
    yAxis: {
      type: logarithmic.value ? 'log' : 'value',
      scale: true,
      name: `${history.value.currency}${logarithmic.value ? ', log' : ''}`,
      nameTextStyle: { color: soft, align: 'right' },
      axisLabel: { color: soft },
      splitLine: { lineStyle: { color: colour('--rule') } },
    },
    series: lines,
  }
}

function table(): void {
  const head = ['date', 'close', ...(other.value.length ? [`${level.value!.list} rebased`] : [])]
  const rows = closes.value.map((p, i) => [
    p.date,
    p.value ?? '',
    ...(other.value.length ? [other.value[i] ?? ''] : []),
  ])
  asTable([head, ...rows], `${history.value!.symbol} prices`)
}

const place = useTemplateRef<HTMLElement>('place')
const { save } = useChart(
  place,
  () => [history.value, other.value, filed.value, logarithmic.value],
  option,
)
</script>

<template>
  <section class="prices">
    <div class="head">
      <h2>Price</h2>
      <p v-if="history && last" class="soft">
        {{ history.currency }} {{ bracketed(last.value!, 2) }} on {{ shortDay(last.date) }},
        {{ traded ? 'as traded' : 'adjusted for the splits known then'
        }}<template v-if="history.since && history.since > start"
          >; there are prices from {{ shortDay(history.since) }} on</template
        >
      </p>
      <div class="choices">
        <button
          v-for="[title, n] in SPANS"
          :key="n"
          class="link"
          :class="{ on: years === n }"
          :aria-pressed="years === n"
          @click="set({ years: String(n) })"
        >
          {{ title }}
        </button>
        <button
          class="link"
          :aria-pressed="logarithmic"
          @click="set({ scale: logarithmic ? undefined : 'log' })"
        >
          {{ logarithmic ? 'Linear' : 'Logarithmic' }}
        </button>
        <button
          class="link"
          :aria-pressed="traded"
          @click="set({ prices: traded ? undefined : 'traded' })"
        >
          {{ traded ? 'Adjusted' : 'As traded' }}
        </button>
        <label>
          <span class="visually-hidden">Level beside it</span>
          <select
            class="field"
            :value="beside ?? ''"
            @change="set({ beside: ($event.target as HTMLSelectElement).value || undefined })"
          >
            <option value="">no list beside it</option>
            <option v-for="l in known" :key="l.name" :value="l.name">{{ l.title }}</option>
          </select>
        </label>
        <template v-if="closes.length">
          <button class="link" @click="save(`${history!.symbol} prices`)">PNG</button>
          <button class="link" @click="table">CSV</button>
        </template>
      </div>
    </div>
    <ProblemNote :problem="problem ?? levelless ?? listless" />
    <p v-if="filed.length" class="soft small">
      ▲ a filing was published: hover for its title<template
        v-if="beside && level && !level.levels.length"
        >; {{ level.list_title }} has no levels of its own</template
      >
    </p>
    <p v-if="history && !closes.length" class="soft">
      {{
        history.since
          ? `No price in this time: there are prices from ${shortDay(history.since)} on.`
          : 'No price was known by this date.'
      }}
    </p>
    <div
      v-show="closes.length || loading"
      ref="place"
      class="chart"
      role="img"
      :aria-busy="loading"
      :aria-label="`price of ${name}`"
    />
  </section>
</template>

<style scoped>
.head {
  display: flex;
  align-items: baseline;
  gap: 14px;
  flex-wrap: wrap;
}
.choices {
  margin-left: auto;
  display: flex;
  gap: 12px;
  align-items: center;
  font-size: 13px;
}
.choices .on {
  font-weight: 600;
  color: var(--ink);
}
.choices select {
  font-size: 13px;
  min-height: 26px;
  padding: 1px 6px;
}
.small {
  font-size: 12.5px;
}
.chart {
  height: 250px;
}
</style>

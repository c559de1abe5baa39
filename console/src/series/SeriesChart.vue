<script setup lang="ts">
import { LineChart } from 'echarts/charts'
import { GridComponent, MarkLineComponent, TooltipComponent } from 'echarts/components'
import { type ECharts, type EChartsCoreOption, use } from 'echarts/core'
import { SVGRenderer } from 'echarts/renderers'
import { computed, useTemplateRef } from 'vue'

import type { SeriesAnswer, SeriesLine } from '../api/types'
import { type Ink, useChart } from '../figures/chart'
import { spreadLabels } from '../figures/charting'
import { bracketed } from '../figures/numbers'
import { asNamed, tip } from '../figures/tips'
import { shortDay } from '../time/format'
import { common, decimals, distinctParts, unitOfLine } from './state'

/**
 * Series as lines with direct labels; of a single one what was first released, the space between
 * shaded.
 */
const props = defineProps<{ answer: SeriesAnswer; first: SeriesLine | null; knownOn: string }>()
const emit = defineEmits<{ csv: [] }>()
use([LineChart, GridComponent, MarkLineComponent, TooltipComponent, SVGRenderer])
const INKS = ['--spruce', '--plum', '--ochre', '--brick']
const LABELLED = 8

const points = (line: SeriesLine): [string, number | null][] =>
  line.observations.map((o) => [
    o.date,
    o.value === null ? null : line.percent ? o.value * 100 : o.value,
  ])

function option(colour: Ink): EChartsCoreOption {
  const soft = colour('--soft')
  const { series } = props.answer
  const named = series.map((_, n) => nameOf(series, n))
  const units = [...new Set(series.map(unitOfLine))]
  const most = decimals(
    series.flatMap((s) => points(s).map(([, v]) => v)),
    false,
  )
  const single = series.length === 1 ? series[0]! : null
  const base = props.first && single ? points(props.first) : []
  const known = new Map(single ? points(single) : [])
  const band = {
    type: 'line',
    showSymbol: false,
    silent: true,
    stack: 'revised',
    lineStyle: { opacity: 0 },
    tooltip: { show: false },
  }
  // What stands on another base cannot be laid beside it.
  const bases = new Map(single?.observations.map((o) => [o.date, o.base]))
  const alike = new Set(
    props.first?.observations.filter((o) => o.base === bases.get(o.date)).map((o) => o.date),
  )
  const both = base.filter(([d, v]) => alike.has(d) && v !== null && known.get(d) != null) as [
    string,
    number,
  ][]
  return {
    grid: {
      left: 62,
      right: series.length > LABELLED || series.length === 1 ? 24 : 170,
      top: 28,
      bottom: 26,
    },
    tooltip: {
      trigger: 'axis',
      confine: true,
      formatter: (
        found: { seriesName: string; seriesIndex: number; value: [string, number | null] }[],
      ) => {
        const rows = found
          .filter((f) => f.seriesName)
          .sort((a, b) => (b.value[1] ?? -1e300) - (a.value[1] ?? -1e300))
        const shown = (v: number | null): string => (v == null ? 'n/a' : bracketed(v, most))
        return tip({
          head: shortDay(String(rows[0]?.value[0] ?? '')),
          lines: rows.map((f) => [f.seriesName, shown(f.value[1])]),
        })
      },
    },
    xAxis: {
      type: 'time',
      axisLabel: {
        color: soft,
        hideOverlap: true,
        formatter: { year: '{yyyy}', month: '{yyyy}-{MM}', day: '{MM}-{dd}' },
      },
      axisLine: { lineStyle: { color: soft } },
      axisTick: { show: false },
    },
    yAxis: {
      type: 'value',
      scale: true,
      name: units.length === 1 ? units[0] : 'several units',
      nameTextStyle: { color: soft, align: 'left' },
      axisLabel: { color: soft, formatter: (v: number) => bracketed(v, 2, 0) },
      splitLine: { lineStyle: { color: colour('--rule') } },
    },
    series: [
      ...(both.length
        ? [
            { ...band, data: both.map(([d, v]) => [d, Math.min(v, known.get(d)!)]) },
            {
              ...band,
              data: both.map(([d, v]) => [d, Math.abs(v - known.get(d)!)]),
              areaStyle: { color: colour('--ochre'), opacity: 0.35 },
            },
            {
              type: 'line',
              name: 'first released',
              data: both,
              showSymbol: false,
              color: colour('--ochre'),
              lineStyle: { width: 1, type: 'dashed' },
              z: 3,
            },
          ]
        : []),
      ...series.map((s, n) => ({
        type: 'line',
        name: named[n],
        data: points(s),
        showSymbol: false,
        connectNulls: false,
        color: series.length > LABELLED ? colour('--spruce') : colour(INKS[n % INKS.length]!),
        lineStyle: {
          width: series.length > LABELLED ? 0.9 : 1.8,
          opacity: series.length > LABELLED ? 0.45 : 1,
          type: n >= INKS.length && series.length <= LABELLED ? 'dashed' : 'solid',
        },
        emphasis: { lineStyle: { width: 2.4, opacity: 1 } },
        z: 5,
        endLabel: {
          show: series.length > 1 && series.length <= LABELLED,
          formatter: asNamed(named[n]!),
          color: colour(INKS[n % INKS.length]!),
          width: 150,
          overflow: 'truncate',
        },
        ...(n === 0
          ? {
              markLine: {
                silent: true,
                symbol: 'none',
                label: { formatter: 'stamp', color: colour('--plum') },
                lineStyle: { color: colour('--plum'), type: 'solid' },
                data: [{ xAxis: props.knownOn }],
              },
            }
          : {}),
      })),
    ],
  }
}

function labelled(chart: ECharts): void {
  const { series } = props.answer
  if (series.length > 1 && series.length <= LABELLED) {
    spreadLabels(
      chart,
      series.map((s, n) => ({
        name: nameOf(series, n),
        last:
          points(s)
            .reverse()
            .find(([, v]) => v !== null)?.[1] ?? null,
      })),
    )
  }
}

function nameOf(series: SeriesLine[], n: number): string {
  const name = distinctParts(series.map((s) => s.title))[n]!
  return new Set(series.map((s) => s.head)).size > 1 && series[n]!.head !== 'level'
    ? `${name}: ${series[n]!.head}`
    : name
}
const caption = computed(() => {
  const { series } = props.answer
  if (series.length === 1 && props.first)
    return (
      'the line is as known on the stamp; what was first released on the same base is dashed, ' +
      'what was revised since shaded'
    )
  return series.length > LABELLED
    ? `${series.length} series; touch one to tell it`
    : 'as known on the stamp'
})
const words = (): string => common(props.answer.series.map((s) => s.title)) || 'series'
const place = useTemplateRef<HTMLElement>('place')
const { save } = useChart(place, () => [props.answer, props.first], option, labelled)
</script>

<template>
  <figure>
    <figcaption>
      <span class="soft">{{ caption }}</span>
      <span
        ><button class="link" @click="save(words())">PNG</button> ·
        <button class="link" @click="emit('csv')">CSV</button></span
      >
    </figcaption>
    <div ref="place" class="chart" role="img" :aria-label="`Chart of ${words()}`" />
  </figure>
</template>

<style scoped>
figure {
  margin: 0;
}
figcaption {
  display: flex;
  justify-content: space-between;
  font-size: 13px;
}
.chart {
  height: max(330px, calc(100vh - 330px));
}
</style>

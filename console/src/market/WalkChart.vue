<script setup lang="ts">
import { LineChart, ScatterChart } from 'echarts/charts'
import { GridComponent, TooltipComponent } from 'echarts/components'
import { type EChartsCoreOption, use } from 'echarts/core'
import { SVGRenderer } from 'echarts/renderers'
import { useTemplateRef } from 'vue'

import type { Estimates } from '../api/types'
import { type Ink, useChart } from '../figures/chart'
import { asTable } from '../figures/charting'
import { counted } from '../figures/numbers'
import { reasonShort } from '../figures/reasons'
import { tip } from '../figures/tips'
import { shortDay } from '../time/format'
import { amount } from './amounts'
import { byHouse } from './fan'

/**
 * How the consensus of a period walked to its actual: the mean, high to low as a band, the fan of
 * contributions.
 */
const props = defineProps<{ estimates: Estimates }>()
use([LineChart, ScatterChart, GridComponent, TooltipComponent, SVGRenderer])

function option(colour: Ink): EChartsCoreOption {
  const { walk, contributions, unit } = props.estimates
  const announced = props.estimates.periods.find(
    (p) => p.period === props.estimates.period,
  )?.announced
  const soft = colour('--soft')
  // What stands, stands until the next day that is looked at: nothing lies between two values.
  const step = { type: 'line', step: 'end' }
  const band = {
    ...step,
    showSymbol: false,
    lineStyle: { opacity: 0 },
    stack: 'band',
    silent: true,
    tooltip: { show: false },
  }
  const begin = walk[0]?.date ?? ''
  const end = walk[walk.length - 1]?.date ?? ''
  const fan = byHouse(contributions, begin, end)
  return {
    grid: { left: 64, right: 110, top: 26, bottom: 26 },
    tooltip: {
      trigger: 'axis',
      formatter: (points: { seriesName: string; dataIndex: number }[]) => {
        const w = walk[points.find((p) => p.seriesName === 'mean')?.dataIndex ?? 0]
        if (!w) return ''
        const head = shortDay(w.date)
        if (w.mean === null) return tip({ head, lines: [[reasonShort(w.reason), '']] })
        return tip({
          head,
          lines: [
            ['mean', amount(w.mean, unit)],
            ['low', amount(w.low, unit)],
            ['high', amount(w.high, unit)],
            [counted(w.count ?? 0, 'contributor'), ''],
          ],
        })
      },
    },
    xAxis: {
      type: 'time',
      min: begin,
      max: end,
      axisLabel: { color: soft, hideOverlap: true, formatter: '{yyyy}-{MM}' },
      axisLine: { lineStyle: { color: soft } },
      axisTick: { show: false },
    },
    yAxis: {
      type: 'value',
      scale: true,
      name: props.estimates.estimate_currency ?? '',
      nameTextStyle: { color: soft, align: 'right' },
      axisLabel: { color: soft, formatter: (v: number) => amount(v, unit) },
      splitLine: { lineStyle: { color: colour('--rule') } },
    },
    series: [
      { ...band, data: walk.map((w) => [w.date, w.low]) },
      {
        ...band,
        data: walk.map((w) => [w.date, w.high === null || w.low === null ? null : w.high - w.low]),
        areaStyle: { color: colour('--spruce'), opacity: 0.12 },
      },
      ...fan.map(([house, points]) => ({
        ...step,
        name: house,
        data: points.map((value) => ({
          value,
          symbol: value[0] === begin || value[0] === end ? 'none' : 'circle',
        })),
        symbolSize: 4,
        color: soft,
        lineStyle: { width: 0.8, opacity: 0.45 },
        silent: true,
      })),
      {
        ...step,
        name: 'mean',
        data: walk.map((w) => [w.date, w.mean]),
        showSymbol: false,
        color: colour('--spruce'),
        lineStyle: { width: 2.2 },
        z: 5,
        endLabel: {
          show: announced?.actual == null,
          formatter: 'mean',
          color: colour('--spruce'),
        },
      },
      ...(announced?.actual != null
        ? [
            {
              type: 'scatter',
              symbol: 'diamond',
              symbolSize: 13,
              color: colour('--plum'),
              z: 6,
              data: [[end, announced.actual]],
              label: {
                show: true,
                position: 'right',
                formatter: `actual ${amount(announced.actual, unit)}`,
                color: colour('--plum'),
              },
            },
          ]
        : []),
    ],
  }
}

const file = (): string => {
  const { symbol, company, measure, period } = props.estimates
  return `${symbol ?? company} ${measure} ${period}`
}
const table = (): void =>
  asTable(
    [
      ['date', 'mean', 'median', 'high', 'low', 'count'],
      ...props.estimates.walk.map((w) => [
        w.date,
        w.mean ?? '',
        w.median ?? '',
        w.high ?? '',
        w.low ?? '',
        w.count ?? '',
      ]),
    ],
    file(),
  )
const place = useTemplateRef<HTMLElement>('place')
const { save } = useChart(place, () => props.estimates, option)
</script>

<template>
  <figure>
    <figcaption>
      <span class="soft"
        >the consensus, high to low behind it; thin steps are what each contributor said</span
      >
      <span
        ><button class="link" @click="save(file())">PNG</button> ·
        <button class="link" @click="table">CSV</button></span
      >
    </figcaption>
    <div
      ref="place"
      class="chart"
      role="img"
      :aria-label="`how the consensus of ${estimates.period ?? 'a period'} walked`"
    />
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
  height: 230px;
}
</style>

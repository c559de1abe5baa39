<script setup lang="ts">
import { LineChart } from 'echarts/charts'
import { GridComponent, TooltipComponent } from 'echarts/components'
import { type ECharts, type EChartsCoreOption, use } from 'echarts/core'
import { SVGRenderer } from 'echarts/renderers'
import { useTemplateRef } from 'vue'

import { type Ink, useChart } from '../figures/chart'
import { asTable, spreadLabels } from '../figures/charting'
import { asNamed } from '../figures/tips'

/**
 * Chosen lines through the periods, labelled at their ends; as an image or a table to take away.
 */
const props = defineProps<{
  heads: string[]
  series: { name: string; values: (number | null)[] }[]
  unit: string
  name: string
}>()
use([LineChart, GridComponent, TooltipComponent, SVGRenderer])

function option(colour: Ink): EChartsCoreOption {
  const inks = [
    colour('--spruce'),
    colour('--ink'),
    colour('--ochre'),
    colour('--plum'),
    colour('--soft'),
  ]
  const soft = colour('--soft')
  return {
    grid: { left: 64, right: 170, top: 28, bottom: 26 },
    tooltip: {
      trigger: 'axis',
      valueFormatter: (v: unknown) =>
        typeof v === 'number' ? v.toLocaleString('en-GB', { maximumFractionDigits: 1 }) : 'missing',
    },
    xAxis: {
      type: 'category',
      data: props.heads,
      axisLabel: { color: soft },
      axisLine: { lineStyle: { color: soft } },
      axisTick: { show: false },
    },
    yAxis: {
      type: 'value',
      name: props.unit,
      nameTextStyle: { color: soft, align: 'right' },
      axisLabel: { color: soft },
      splitLine: { lineStyle: { color: colour('--rule') } },
    },
    series: props.series.map((line, i) => ({
      type: 'line',
      name: line.name,
      data: line.values,
      symbolSize: 4,
      showSymbol: props.heads.length < 24,
      color: inks[i % inks.length],
      lineStyle: { width: i ? 1.6 : 2.4, type: i > 2 ? 'dashed' : 'solid' },
      endLabel: {
        show: true,
        formatter: asNamed(line.name),
        color: inks[i % inks.length],
        width: 160,
        overflow: 'truncate',
      },
    })),
  }
}

function labelled(chart: ECharts): void {
  spreadLabels(
    chart,
    props.series.map((line) => ({
      name: line.name,
      last: [...line.values].reverse().find((v) => v !== null) ?? null,
    })),
  )
}

function table(): void {
  const rows = props.heads.map((h, i) => [h, ...props.series.map((s) => s.values[i] ?? '')])
  asTable([['period', ...props.series.map((s) => s.name)], ...rows], props.name)
}

const place = useTemplateRef<HTMLElement>('place')
const { save } = useChart(place, () => [props.heads, props.series, props.unit], option, labelled)
</script>

<template>
  <figure>
    <figcaption>
      <slot />
      <span
        ><slot name="tools" /> <button class="link" @click="save(name)">PNG</button> ·
        <button class="link" @click="table">CSV</button></span
      >
    </figcaption>
    <div
      ref="place"
      class="chart"
      role="img"
      :aria-label="`${series.map((s) => s.name).join(', ')} through the periods`"
    />
  </figure>
</template>

<style scoped>
figure {
  margin: 4px 0 14px;
}
figcaption {
  display: flex;
  justify-content: space-between;
}
.chart {
  height: 220px;
}
</style>

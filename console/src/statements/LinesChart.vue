<script setup lang="ts">
import { LineChart } from 'echarts/charts'
import { GridComponent, TooltipComponent } from 'echarts/components'
import { init, type ECharts, use } from 'echarts/core'
import { SVGRenderer } from 'echarts/renderers'
import { onBeforeUnmount, onMounted, ref, watch } from 'vue'

import { asImage, asTable, ink, spreadLabels } from '../figures/charting'

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
const place = ref<HTMLElement>()
let chart: ECharts | null = null

const colour = (name: string): string => ink(place.value!, name)

function draw(): void {
  if (!place.value) return
  chart ??= init(place.value, undefined, { renderer: 'svg' })
  const inks = [
    colour('--spruce'),
    colour('--ink'),
    colour('--ochre'),
    colour('--plum'),
    colour('--soft'),
  ]
  const soft = colour('--soft')
  chart.setOption(
    {
      animation: false,
      textStyle: { fontFamily: 'Source Sans 3, system-ui, sans-serif' },
      grid: { left: 64, right: 170, top: 28, bottom: 26 },
      tooltip: {
        trigger: 'axis',
        valueFormatter: (v: unknown) =>
          typeof v === 'number'
            ? v.toLocaleString('en-GB', { maximumFractionDigits: 1 })
            : 'missing',
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
          formatter: line.name,
          color: inks[i % inks.length],
          width: 160,
          overflow: 'truncate',
        },
      })),
    },
    true,
  )
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

function fit(): void {
  chart?.resize()
}
onMounted(() => {
  draw()
  addEventListener('resize', fit)
})
onBeforeUnmount(() => {
  removeEventListener('resize', fit)
  chart?.dispose()
})
watch(() => [props.heads, props.series, props.unit], draw, { flush: 'post' })
</script>

<template>
  <figure>
    <figcaption>
      <slot />
      <span
        ><slot name="tools" />
        <button class="link" @click="asImage(chart!, colour('--paper'), name)">Save as PNG</button>
        · <button class="link" @click="table">CSV</button></span
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
span :deep(.link) {
  margin-left: 8px;
}
figcaption {
  display: flex;
  justify-content: space-between;
}
.chart {
  height: 220px;
}
</style>

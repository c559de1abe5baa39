<script setup lang="ts">
import { LineChart } from 'echarts/charts'
import { GridComponent, TooltipComponent } from 'echarts/components'
import { type EChartsCoreOption, use } from 'echarts/core'
import { SVGRenderer } from 'echarts/renderers'
import { useTemplateRef } from 'vue'

import type { PanelAnswer } from '../api/types'
import { type Ink, useChart } from '../figures/chart'
import { bracketed, SCALES } from '../figures/numbers'
import { reasonShort } from '../figures/reasons'
import { tip } from '../figures/tips'
import { shortDay } from '../time/format'

/** One measure of one company by month, each as known then; a hole is a gap, and says why. */
const props = defineProps<{ answer: PanelAnswer; name: string; unit: string }>()
use([LineChart, GridComponent, TooltipComponent, SVGRenderer])

function option(colour: Ink): EChartsCoreOption {
  const scale = props.unit === 'money' || props.unit === 'shares' ? 10 ** SCALES.mn! : 1
  const points = props.answer.records.map(
    (r) =>
      [String(r.date), r[props.name] === null ? null : Number(r[props.name]) / scale] as [
        string,
        number | null,
      ],
  )
  const why = new Map(
    props.answer.records.map((r) => [String(r.date), String(r[`${props.name}.reason`] ?? '')]),
  )
  const currency = props.answer.records.map((r) => r[`${props.name}.currency`]).find((c) => c)
  const unit = scale > 1 ? `${currency ? `${String(currency)} ` : ''}mn` : String(currency ?? '')
  return {
    grid: { left: 56, right: 16, top: unit ? 24 : 10, bottom: 24 },
    tooltip: {
      trigger: 'axis',
      confine: true,
      formatter: (found: { value: [string, number | null] }[]) => {
        const [date, value] = found[0]!.value
        const shown = value === null ? reasonShort(why.get(date) ?? '') : bracketed(value, 3)
        return tip({ head: shortDay(date), lines: [['', shown]] })
      },
    },
    xAxis: {
      type: 'time',
      axisLabel: {
        color: colour('--soft'),
        hideOverlap: true,
        formatter: { year: '{yyyy}', month: '{yyyy}-{MM}' },
      },
      axisLine: { lineStyle: { color: colour('--soft') } },
      axisTick: { show: false },
    },
    yAxis: {
      type: 'value',
      scale: true,
      name: unit,
      nameTextStyle: { color: colour('--soft'), align: 'left' },
      axisLabel: { color: colour('--soft'), formatter: (v: number) => bracketed(v, 3, 0) },
      splitLine: { lineStyle: { color: colour('--rule') } },
    },
    series: [
      {
        type: 'line',
        step: 'end',
        showSymbol: false,
        data: points,
        lineStyle: { color: colour('--spruce'), width: 1.8 },
        itemStyle: { color: colour('--spruce') },
      },
    ],
  }
}
const place = useTemplateRef<HTMLElement>('place')
useChart(place, () => [props.answer, props.name], option)
</script>

<template>
  <div ref="place" class="history" role="img" :aria-label="`${name} by month`" />
</template>

<style scoped>
.history {
  height: 190px;
  max-width: 560px;
}
</style>

import { init, type ECharts, type EChartsCoreOption } from 'echarts/core'
import { nextTick, onBeforeUnmount, onMounted, type Ref, watch } from 'vue'
import { useTheme } from 'vuetify'

import { asImage, ink } from './charting'

/** An ink of the theme by its name, as `--soft`. */
export type Ink = (name: string) => string

/**
 * A chart in its place: drawn again when what it shows changes, the theme or its room.
 *
 * `option` says what is drawn, in the inks that it is given, or null where nothing is; `drawn` has
 * the chart when it stands there.
 */
export function useChart(
  place: Readonly<Ref<HTMLElement | null>>,
  watched: () => unknown,
  option: (ink: Ink) => EChartsCoreOption | null,
  drawn: (chart: ECharts) => void = () => undefined,
) {
  const theme = useTheme()
  let chart: ECharts | null = null

  function draw(): void {
    if (!place.value) return
    const next = option(inked)
    if (!next) return
    chart ??= init(place.value, undefined, { renderer: 'svg' })
    const tooltip = {
      backgroundColor: inked('--sheet'),
      borderColor: inked('--rule'),
      textStyle: { color: inked('--ink') },
    }
    chart.setOption(
      {
        animation: false,
        textStyle: { fontFamily: 'Source Sans 3, system-ui, sans-serif' },
        ...next,
        tooltip: { ...tooltip, ...(next.tooltip ?? {}) },
      },
      true,
    )
    drawn(chart)
  }
  const inked: Ink = (name) => ink(place.value!, name)
  const fit = (): void => chart?.resize()
  onMounted(() => {
    draw()
    addEventListener('resize', fit)
  })
  onBeforeUnmount(() => {
    removeEventListener('resize', fit)
    chart?.dispose()
  })
  watch(watched, draw, { flush: 'post' })
  // The inks of a theme stand in the page a moment after it was chosen.
  watch(theme.global.name, () => void nextTick(draw))

  return { save: (name: string): void => asImage(chart!, inked('--paper'), name) }
}

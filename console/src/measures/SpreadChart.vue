<script setup lang="ts">
import { computed } from 'vue'

import { bracketed, counted, figure } from '../figures/numbers'
import { bins, quantile } from './lies'

/** How the values of one date lie: a histogram of the middle nine tenths, quartiles beneath. */
const props = defineProps<{ values: number[]; unit: string }>()
const WIDTH = 460
const HEIGHT = 92
const shown = computed(() => bins(props.values))
const most = computed(() => Math.max(1, ...shown.value.map((b) => b.n)))
const say = (v: number): string =>
  props.unit === 'pure' ? bracketed(v, 3) : figure(v, props.unit, false)
const quantiles = computed(() =>
  props.values.length
    ? [
        ['minimum', 0],
        ['lower quartile', 0.25],
        ['median', 0.5],
        ['upper quartile', 0.75],
        ['maximum', 1],
      ].map(([word, q]) => [word as string, say(quantile(props.values, q as number))])
    : [],
)
</script>

<template>
  <figure v-if="values.length">
    <svg
      :viewBox="`0 0 ${WIDTH} ${HEIGHT}`"
      role="img"
      :aria-label="`How ${counted(values.length, 'value')} lie`"
    >
      <rect
        v-for="(b, n) in shown"
        :key="n"
        :x="(n * WIDTH) / shown.length"
        :y="HEIGHT - (b.n / most) * (HEIGHT - 6)"
        :width="WIDTH / shown.length - 2"
        :height="(b.n / most) * (HEIGHT - 6)"
      >
        <title>{{ say(b.from) }} to {{ say(b.to) }}: {{ b.n }}</title>
      </rect>
      <line x1="0" :x2="WIDTH" :y1="HEIGHT" :y2="HEIGHT" />
    </svg>
    <p class="axis soft">
      <span>{{ say(shown[0]!.from) }}</span><span
        >5th to 95th percentile of {{ counted(values.length, 'value') }}</span
      ><span>{{ say(shown[shown.length - 1]!.to) }}</span>
    </p>
    <dl>
      <div v-for="[word, value] in quantiles" :key="word">
        <dt class="soft">{{ word }}</dt>
        <dd>{{ value }}</dd>
      </div>
    </dl>
  </figure>
</template>

<style scoped>
figure {
  margin: 6px 0 0;
  max-width: 460px;
}
svg {
  width: 100%;
  display: block;
}
rect {
  fill: var(--spruce);
  opacity: 0.75;
}
line {
  stroke: var(--soft);
  stroke-width: 1;
}
.axis {
  display: flex;
  justify-content: space-between;
  font-size: 12px;
  margin-top: 2px;
}
dl {
  display: flex;
  justify-content: space-between;
  margin: 8px 0 0;
  font-size: 13px;
}
dt {
  font-size: 12px;
}
dd {
  margin: 0;
  font-variant-numeric: tabular-nums;
}
</style>

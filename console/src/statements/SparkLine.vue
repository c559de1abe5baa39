<script setup lang="ts">
import { computed } from 'vue'

/** The trend of a line through the periods, with its last point. */
const props = defineProps<{ values: (number | null)[]; title: string }>()
const WIDTH = 64
const HEIGHT = 18
const points = computed(() => {
  const there = props.values.filter((v): v is number => v !== null)
  if (there.length < 2) return []
  const low = Math.min(...there)
  const span = Math.max(...there) - low || 1
  const step = (WIDTH - 6) / (props.values.length - 1)
  return props.values
    .map((v, i) =>
      v === null
        ? null
        : [2 + i * step, there.length > 1 ? HEIGHT - 3 - ((v - low) / span) * (HEIGHT - 6) : 9],
    )
    .filter((p): p is number[] => p !== null)
})
</script>

<template>
  <svg :width="WIDTH" :height="HEIGHT" role="img" :aria-label="`${title} through the periods`">
    <template v-if="points.length">
      <polyline :points="points.map((p) => p.join(',')).join(' ')" />
      <circle :cx="points.at(-1)![0]" :cy="points.at(-1)![1]" r="2" />
    </template>
  </svg>
</template>

<style scoped>
svg {
  display: block;
}
polyline {
  fill: none;
  stroke: var(--spruce);
  stroke-width: 1.3;
}
circle {
  fill: var(--spruce);
}
</style>

<script setup lang="ts">
import { computed } from 'vue'

/** How many pass, fail, and are unknown, as one bar. */
const props = defineProps<{ counts: { passed: number; failed: number; unknown: number } }>()
const total = computed(() =>
  Math.max(1, props.counts.passed + props.counts.failed + props.counts.unknown),
)
const share = (count: number) => ({ width: `${(100 * count) / total.value}%` })
</script>

<template>
  <div class="bar" aria-hidden="true">
    <i class="passed" :style="share(counts.passed)" />
    <i class="failed" :style="share(counts.failed)" />
  </div>
</template>

<style scoped>
.bar {
  display: flex;
  height: 4px;
  margin: 12px 0 0;
  background: var(--faint);
  gap: 1px;
}
.bar i {
  transition: width 0.15s;
}
.passed {
  background: var(--spruce);
}
.failed {
  background: var(--soft);
  opacity: 0.5;
}
</style>

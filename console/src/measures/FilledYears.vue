<script setup lang="ts">
import { shortDay } from '../time/format'
import type { coverage } from './lies'

/** How many companies have a value for a measure at each year's end, as bars. */
defineProps<{ years: ReturnType<typeof coverage>; knownOn: string }>()
</script>

<template>
  <ol class="years" aria-label="Share of companies with a value, by date">
    <li
      v-for="y in years"
      :key="y.date"
      :title="`${shortDay(y.date)}: ${y.filled} of ${y.all} companies`"
    >
      <b>{{ Math.round((100 * y.filled) / y.all) }}</b><span class="bar"
        ><i :style="{ height: `${(64 * y.filled) / y.all}px` }" /></span
      ><span>{{ y.date === knownOn ? 'now' : y.date.slice(2, 4) }}</span>
    </li>
  </ol>
  <p class="soft small">Percent of the companies of each year's end</p>
</template>

<style scoped>
.years {
  list-style: none;
  display: flex;
  gap: 4px;
  padding: 0;
  margin: 6px 0 0;
}
.years li {
  display: grid;
  justify-items: center;
  width: 30px;
  font-size: 11.5px;
}
.years b {
  font-weight: 400;
}
.bar {
  height: 64px;
  width: 16px;
  display: flex;
  align-items: flex-end;
  background: color-mix(in srgb, var(--rule) 45%, transparent);
}
.bar i {
  display: block;
  width: 100%;
  background: var(--spruce);
  opacity: 0.75;
}
.small {
  font-size: 12px;
}
</style>

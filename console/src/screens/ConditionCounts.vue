<script setup lang="ts">
import type { ScreenAnswer } from '../api/types'
import { reasonFull } from '../figures/reasons'

/**
 * Each condition of the rule by itself: which one keeps companies out, and why the unknown are
 * unknown.
 */
defineProps<{ conditions: NonNullable<ScreenAnswer['conditions']> }>()
</script>

<template>
  <ul class="conditions" aria-label="Each condition by itself">
    <li v-for="c in conditions" :key="c.expression">
      <span class="code">{{ c.expression }}</span>
      <span
        ><b>{{ c.passed }}</b> pass</span
      >
      <span>{{ c.failed }} fail</span>
      <span>
        {{ c.unknown }} unknown<span v-if="c.reason" :title="reasonFull(c.reason)"
          >, {{ c.of_reason === c.unknown ? '' : `${c.of_reason} of them `
          }}{{ c.reason.replaceAll('_', ' ') }}</span
        >
      </span>
    </li>
  </ul>
</template>

<style scoped>
.conditions {
  list-style: none;
  display: grid;
  grid-template-columns: repeat(3, max-content) 1fr;
  gap: 1px 18px;
  font-size: 13px;
  color: var(--soft);
  margin: 6px 0 2px;
}
li {
  display: contents;
}
.code {
  color: var(--ink);
  max-width: 60vw;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
</style>

<script setup lang="ts">
import type { Column } from '../api/types'
import { headingScale } from './numbers'

/**
 * The head of a column: its expression, and what its figures are in; a long one may break over
 * lines.
 */
defineProps<{ column: Column }>()
</script>

<template>
  <span class="code" :class="{ long: column.name.length > 34 }" :title="column.expression">{{
    column.name
  }}</span><template v-if="headingScale(column)">, {{ headingScale(column) }}</template>
</template>

<style scoped>
.code {
  font-size: 12px;
  font-weight: 400;
  color: var(--ink);
  white-space: pre;
}
.long {
  white-space: pre-wrap;
}
</style>

<script setup lang="ts">
import type { ScreenAnswer, Verdict } from '../api/types'

/** The companies of which verdict are shown; without an answer there is no count. */
defineProps<{ counts: ScreenAnswer['counts'] | undefined; shown: Verdict }>()
const emit = defineEmits<{ choose: [verdict: Verdict] }>()
const COUNTS = { pass: 'passed', fail: 'failed', unknown: 'unknown' } as const
</script>

<template>
  <button
    v-for="(name, verdict) in COUNTS"
    :key="verdict"
    class="tab"
    :class="{ on: shown === verdict }"
    :aria-pressed="shown === verdict"
    @click="emit('choose', verdict)"
  >
    {{ counts?.[name] ?? '' }} {{ verdict }}
  </button>
</template>

<style scoped>
.tab {
  all: unset;
  cursor: pointer;
  padding-bottom: 1px;
  border-bottom: 2px solid transparent;
  white-space: nowrap;
}
.tab.on {
  color: var(--spruce);
  font-weight: 600;
  border-color: var(--spruce);
}
.tab:focus-visible {
  outline: 2px solid var(--spruce);
}
</style>

<script setup lang="ts">
import { computed } from 'vue'

import type { Run } from '../api/types'
import { counted, eachCounted, grouped } from '../figures/numbers'

/** How far a run is: stored, unchanged and failed side by side; said in words too. */
const props = defineProps<{ run: Run; words?: boolean }>()
const total = computed(() => Math.max(props.run.total ?? 0, props.run.done, 1))
const collection = computed(() => props.run.kind === 'collection')
const also = computed(() => eachCounted(props.run.records))
// A source of series has no companies: its run is done when it is finished.
const stored = computed(() =>
  props.run.state === 'finished' && !props.run.done
    ? 1
    : (collection.value ? props.run.stored : props.run.done) / total.value,
)
const left = computed(() => Math.max((props.run.total ?? 0) - props.run.done, 0))

function span(seconds: number): string {
  if (seconds < 90) return `${Math.ceil(seconds)} s`
  return seconds < 5400 ? `${Math.round(seconds / 60)} min` : `${(seconds / 3600).toFixed(1)} h`
}
</script>

<template>
  <div>
    <div
      class="bar"
      role="progressbar"
      :aria-valuenow="run.done"
      aria-valuemin="0"
      :aria-valuemax="total"
      :aria-label="`Run ${run.id}`"
    >
      <span class="stored" :style="{ width: `${stored * 100}%` }" />
      <span class="unchanged" :style="{ width: `${(run.unchanged / total) * 100}%` }" />
      <span class="failed" :style="{ width: `${(run.failed / total) * 100}%` }" />
    </div>
    <p v-if="words && !collection" class="soft words">
      {{ run.title }}:
      {{ run.total === null ? 'begun' : `${grouped(run.done)} of ${grouped(run.total)}`
      }}<template v-if="run.seconds_left">, about {{ span(run.seconds_left) }} left</template>
    </p>
    <p v-else-if="words" class="soft words">
      {{ grouped(run.done) }} of
      {{ run.total === null ? 'not known yet' : grouped(run.total) }} done:
      {{ grouped(run.stored) }} stored, {{ grouped(run.unchanged) }} unchanged,
      <span :class="{ wrong: run.failed }">{{ run.failed }} failed</span>, {{ left }} left<template
        v-if="run.seconds_left !== null && left"
        >, about {{ span(run.seconds_left) }}</template
      >
      · {{ counted(run.facts, 'new fact') }} · {{ counted(run.requests, 'request') }},
      {{ (run.bytes / 1e6).toFixed(1) }} MB
    </p>
    <p v-if="words && also" class="soft words">Also new: {{ also }}</p>
  </div>
</template>

<style scoped>
.bar {
  display: flex;
  height: 8px;
  border-radius: 4px;
  overflow: hidden;
  background: var(--faint);
  min-width: 90px;
}
.stored {
  background: var(--spruce);
}
.unchanged {
  background: var(--soft);
  opacity: 0.55;
}
.failed {
  background: var(--brick);
}
.words {
  margin-top: 6px;
  font-size: 13px;
}
</style>

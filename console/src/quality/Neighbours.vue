<script setup lang="ts">
import { computed } from 'vue'

import { statement } from '../api/statements'
import type { Finding } from '../api/types'
import ProblemNote from '../asking/ProblemNote.vue'
import { useQuestion } from '../asking/question'
import { figure } from '../figures/numbers'
import { reasonShort } from '../figures/reasons'
import { useStamp } from '../time/stamp'

/** The periods around a suspect figure, as they are used: what it would stand among. */
const props = defineProps<{ finding: Finding }>()
const AROUND = 3
const { knownOn } = useStamp()
const frequency = computed(() =>
  /Q\d$/.test(props.finding.period)
    ? 'quarter'
    : /H\d$/.test(props.finding.period)
      ? 'half'
      : 'annual',
)
const { answer: found, problem } = useQuestion(
  () => ({
    company: props.finding.company,
    statement: 'all',
    lines: 'all',
    frequency: frequency.value,
    known_on: knownOn.value,
  }),
  statement,
  { apart: true },
)
const suspect = computed(() =>
  props.finding.value === null
    ? 'none'
    : figure(props.finding.value, line.value?.unit ?? 'pure', false),
)
const line = computed(() => found.value?.lines.find((l) => l.item === props.finding.item))
const shown = computed(() => {
  const columns = found.value?.columns ?? []
  const before = columns.filter((c) => c.nominal_end < props.finding.period_end).length
  const from = Math.max(0, before - AROUND)
  return columns
    .slice(from, before + AROUND + 1)
    .map((column, n) => ({ column, cell: line.value?.cells[from + n] }))
})
</script>

<template>
  <ProblemNote :problem="problem" />
  <p v-if="!found && !problem" class="soft" role="status">Looking …</p>
  <table v-else-if="line" class="around">
    <caption class="soft">
      {{
        line.title
      }}
      in the periods around, as it is used{{
        found!.currency ? `, ${found!.currency} mn` : ''
      }}; the suspect figure would be
      <b>{{ suspect }}</b>
    </caption>
    <thead>
      <tr>
        <th
          v-for="{ column } in shown"
          :key="column.label"
          scope="col"
          :class="{ here: column.label === finding.period }"
        >
          {{ column.label }}
        </th>
      </tr>
    </thead>
    <tbody>
      <tr>
        <td
          v-for="{ column, cell } in shown"
          :key="column.label"
          :class="{ here: column.label === finding.period, soft: cell?.value == null }"
        >
          {{
            cell?.value == null
              ? reasonShort(cell?.reason ?? null) || 'none'
              : figure(cell.value, line.unit, false)
          }}
        </td>
      </tr>
    </tbody>
  </table>
  <p v-else-if="found" class="soft">The statements have no such line.</p>
</template>

<style scoped>
.around {
  margin: 2px 0 8px;
  border-spacing: 0;
}
.around :is(th, td) {
  position: static;
  height: auto;
  border: 0;
}
caption {
  text-align: left;
  font-size: 12.5px;
}
th,
td {
  text-align: right;
  padding: 1px 14px 1px 0;
  font-size: 13px;
}
th {
  font-weight: 400;
  color: var(--soft);
}
.here {
  color: var(--plum);
  font-weight: 600;
}
</style>

<script setup lang="ts">
import { computed } from 'vue'

import { answer as asked } from '../api/collecting'
import type { MatchAnswer, Run, TagApplied, Verification } from '../api/types'
import ProblemNote from '../asking/ProblemNote.vue'
import { useQuestion } from '../asking/question'
import { counted, grouped } from '../figures/numbers'

/** What long work that is no collection found, in a few lines. */
const props = defineProps<{ run: Run }>()
const { answer, problem } = useQuestion(
  () => (props.run.state === 'finished' ? props.run.id : null),
  (id, signal) => asked(id, signal),
)

function ofVerification(found: Verification): string[] {
  const made = grouped(found.made_again)
  const agree = found.made_again ? `${made} did not agree and are made again` : 'all agree'
  const held = `${counted(found.batches, 'batch')}, ${counted(found.facts, 'fact')}`
  return [
    `The chain holds: ${held}, last hash ${found.hash.slice(0, 16)}.`,
    'The file is whole: SQLite finds no damage, and no row points to one that is not there.',
    ...(found.columns
      ? [`${counted(found.columns, 'file')} of columns compared with the ledger: ${agree}.`]
      : []),
    ...(found.notes ?? []),
  ]
}

const lines = computed<string[]>(() => {
  const found = answer.value
  if (!found) return []
  if (props.run.kind === 'verification') return ofVerification(found as Verification)
  if (props.run.kind === 'match') {
    const counts = Object.entries((found as MatchAnswer).counts).filter(([, n]) => n)
    return [
      counts.map(([outcome, n]) => `${grouped(n)} ${outcome.replace('_', ' ')}`).join(', ') + '.',
    ]
  }
  const read = found as TagApplied
  const facts = `${counted(read.facts, 'new fact')}, ${grouped(read.withdrawn)} taken back`
  return [`${counted(read.documents, 'kept document')} read again: ${facts}, batch ${read.batch}.`]
})
</script>

<template>
  <ProblemNote :problem="problem" />
  <p v-for="line in lines" :key="line" class="line">{{ line }}</p>
  <p v-if="run.state === 'cancelled'" class="soft line">
    It was stopped before it had an answer; nothing was changed.
  </p>
</template>

<style scoped>
.line {
  margin-top: 10px;
}
</style>

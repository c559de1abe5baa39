<script setup lang="ts">
import { listVersions } from '../api/ledger'
import type { ListVersion } from '../api/types'
import ProblemNote from '../asking/ProblemNote.vue'
import { useQuestion } from '../asking/question'
import PlainTable from '../figures/PlainTable.vue'
import { instant } from '../time/format'

/** Every change of a list, the newest first. */
const props = defineProps<{ list: string }>()
const { answer: versions, problem } = useQuestion(() => props.list, listVersions)

function some(names: string[]): string {
  return names.length > 6
    ? `${names.slice(0, 5).join(', ')} and ${names.length - 5} more`
    : names.join(', ')
}

function what(version: ListVersion): string {
  const changes = [
    version.title && `called ${version.title}`,
    version.description,
    version.archived ? 'archived' : '',
  ]
  return changes.filter(Boolean).join('; ')
}
</script>

<template>
  <ProblemNote :problem="problem" />
  <PlainTable v-if="versions?.length" label="Changes of the list">
    <thead>
      <tr>
        <th>Recorded</th>
        <th>By</th>
        <th>Change</th>
        <th class="n">Batch</th>
      </tr>
    </thead>
    <tbody>
      <tr v-for="version in versions" :key="version.batch">
        <th scope="row">{{ instant(version.recorded_at) }}</th>
        <td>{{ version.who }}</td>
        <td class="what">
          <template v-if="version.joined.length">came: {{ some(version.joined) }}. </template>
          <template v-if="version.left.length">left: {{ some(version.left) }}. </template>
          <span class="soft">{{ what(version) }}</span>
        </td>
        <td class="n">{{ version.batch }}</td>
      </tr>
    </tbody>
  </PlainTable>
</template>

<style scoped>
.what {
  white-space: normal;
  padding: 5px 12px 5px 0;
}
</style>

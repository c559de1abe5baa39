<script setup lang="ts">
import type { Run } from '../api/types'
import { grouped } from '../figures/numbers'
import PlainTable from '../figures/PlainTable.vue'
import { instant } from '../time/format'
import RunBar from './RunBar.vue'

/** The newest runs, how far they are and what they brought. */
defineProps<{ runs: Run[] }>()

function by(run: Run): string {
  if (run.schedule) return `schedule ${run.schedule}`
  return run.failed_of ? `run ${run.failed_of}, failed only` : 'people'
}
</script>

<template>
  <div class="scroll" tabindex="0" role="region" aria-label="Runs">
    <PlainTable label="Runs">
      <thead>
        <tr>
          <th>Run</th>
          <th>State</th>
          <th>Progress</th>
          <th class="n">Failed</th>
          <th class="n">New facts</th>
          <th class="n">Other records</th>
          <th class="n">Requests</th>
          <th>Began</th>
          <th>Queued by</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="r in runs" :key="r.id">
          <th scope="row">
            <router-link :to="{ name: 'run', params: { id: r.id } }"
              >{{ r.id }}, {{ r.title }}</router-link
            >
          </th>
          <td>{{ r.state.replace('_', ' ') }}</td>
          <td><RunBar :run="r" /></td>
          <template v-if="r.kind === 'collection'">
            <td class="n" :class="{ wrong: r.failed }">{{ r.failed }}</td>
            <td class="n">{{ grouped(r.facts) }}</td>
            <td class="n">
              {{ grouped(Object.values(r.records).reduce((sum, n) => sum + n, 0)) }}
            </td>
            <td class="n">{{ grouped(r.requests) }}</td>
          </template>
          <td v-else colspan="4" />
          <td>{{ instant(r.created_at) }}</td>
          <td class="soft">{{ by(r) }}</td>
        </tr>
      </tbody>
    </PlainTable>
  </div>
</template>

<style scoped>
.scroll {
  overflow: auto;
  max-height: 300px;
}
</style>

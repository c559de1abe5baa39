<script setup lang="ts">
import { computed } from 'vue'

import type { Estimates } from '../api/types'
import PlainTable from '../figures/PlainTable.vue'
import { instant } from '../time/format'
import { amount } from './amounts'

/** Who is in the consensus of a period, and the consensus as sources supply it. */
const props = defineProps<{ found: Estimates }>()
const last = computed(() => props.found.contributions.filter((c) => c.state !== 'replaced'))
</script>

<template>
  <PlainTable label="Last contributions">
    <thead>
      <tr>
        <th>Contributor</th>
        <th class="n">Value</th>
        <th>Published</th>
      </tr>
    </thead>
    <tbody>
      <tr v-for="c in last" :key="c.contributor" :class="{ soft: c.state !== 'in' }">
        <th scope="row">
          {{ c.contributor
          }}<span v-if="c.state !== 'in'" class="why">not counted: {{ c.state }}</span>
        </th>
        <td class="n">
          {{ c.value === null ? 'withdrawn' : amount(c.value, found.unit) }}
        </td>
        <td>{{ instant(c.published_at) }}</td>
      </tr>
    </tbody>
  </PlainTable>
  <PlainTable v-if="found.supplied.length" label="Consensus as supplied">
    <thead>
      <tr>
        <th>As supplied by</th>
        <th class="n">Mean</th>
        <th class="n">Low</th>
        <th class="n">High</th>
        <th class="n">By</th>
      </tr>
    </thead>
    <tbody>
      <tr
        v-for="s in found.supplied"
        :key="s.source"
        :title="`published ${instant(s.published_at)}`"
      >
        <th scope="row">{{ s.source }}</th>
        <td class="n">{{ amount(s.mean, found.unit) }}</td>
        <td class="n">{{ amount(s.low, found.unit) }}</td>
        <td class="n">{{ amount(s.high, found.unit) }}</td>
        <td class="n">{{ s.count }}</td>
      </tr>
    </tbody>
  </PlainTable>
</template>

<style scoped>
.lined tbody th {
  max-width: 190px;
}
.why {
  display: block;
  font-size: 12.5px;
}
</style>

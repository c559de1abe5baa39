<script setup lang="ts">
import type { Restatement } from '../api/types'
import { useDocument } from '../figures/document'
import DocumentDialog from '../figures/DocumentDialog.vue'
import PlainTable from '../figures/PlainTable.vue'
import { figure } from '../figures/numbers'
import { instant } from '../time/format'

/**
 * What was restated, the newest first: as it was and is, as first and last published, with the
 * document.
 */
defineProps<{ log: Restatement[] }>()

const file = useDocument()
const isCurrency = (unit: string) => unit.length === 3

function reading(value: number | null, unit: string): string {
  if (value === null) return 'withdrawn'
  return figure(
    value,
    isCurrency(unit) ? 'money' : unit.includes('/') ? 'money_per_share' : unit,
    false,
  )
}
</script>

<template>
  <PlainTable class="log" label="Restatements, the latest first">
    <thead>
      <tr>
        <th>Public since</th>
        <th>Line</th>
        <th>Period</th>
        <th class="n">Was</th>
        <th class="n">Is</th>
        <th class="n">Change, %</th>
        <th class="n">First</th>
        <th class="n">Latest</th>
        <th>Unit</th>
        <th>Document</th>
      </tr>
    </thead>
    <tbody>
      <tr v-for="r in log" :key="r.item + r.period + r.published_at">
        <th scope="row">{{ instant(r.published_at) }}</th>
        <td>{{ r.title }}</td>
        <td>{{ r.period }}</td>
        <td class="n">{{ reading(r.old, r.unit) }}</td>
        <td class="n" :class="{ missing: r.new === null }">{{ reading(r.new, r.unit) }}</td>
        <td class="n" :class="{ wrong: (r.percent ?? 0) < 0 }">
          {{ r.percent === null ? 'n/a' : r.percent.toFixed(1) }}
        </td>
        <td class="n">{{ reading(r.original, r.unit) }}</td>
        <td class="n">{{ reading(r.latest, r.unit) }}</td>
        <td>{{ isCurrency(r.unit) ? `${r.unit} mn` : r.unit }}</td>
        <td>
          <button class="link" @click="file.open(r.sha256)">{{ r.document }}</button>
        </td>
      </tr>
    </tbody>
  </PlainTable>
  <DocumentDialog :address="file.address.value" :place="file.place.value" @close="file.close" />
</template>

<style scoped>
.log {
  margin-top: 8px;
}
</style>

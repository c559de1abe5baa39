<script setup lang="ts">
import { computed } from 'vue'

import type { ListMembers } from '../api/types'
import ColumnHead from '../figures/ColumnHead.vue'
import FigureTable from '../figures/FigureTable.vue'
import { look } from '../figures/look'
import { currencyOf } from '../figures/numbers'
import { useStamp } from '../time/stamp'

/** The members of a list with the columns asked for; a row can be taken off where people keep the list. */
const props = defineProps<{
  found: ListMembers
  editable: boolean
  opened: { row: string; column: string } | null
}>()
const emit = defineEmits<{ remove: [company: string]; drop: [name: string]; open: [row: number, column: number] }>()
const { knownOn } = useStamp()
const rows = computed(() => props.found.members.map((member) => ({ ...member, key: member.id })))
const columns = computed(() => props.found.columns.map((column, n) => ({ ...column, key: String(n) })))
const plain = computed(() => !columns.value.length)
const weighed = computed(() => rows.value.some((m) => m.weight !== null))
const stateShown = computed(() => plain.value || rows.value.some((m) => !m.active))
const money = computed(() => rows.value.some((m) => m.cells.some((c) => c.currency)))

function looked(row: number, column: number) {
  const { cells } = rows.value[row]!
  return look(cells[column]!, { ...columns.value[column]!, currency: currencyOf(cells) })
}
</script>

<template>
  <FigureTable
    class="members"
    label="Members"
    :rows="rows"
    :columns="columns"
    :look="looked"
    :opened="opened"
    @open="(row, column) => emit('open', row, column)"
  >
    <template #heads-before>
      <th class="t first">Company</th>
      <th class="t">Listing</th>
      <th class="t">Country</th>
      <th v-if="plain" class="t">Industry</th>
      <th v-if="stateShown" class="t">State</th>
      <th v-if="weighed">Weight, %</th>
    </template>
    <template #head="{ column }">
      <ColumnHead :column="column" />
      <button
        class="link x"
        :aria-label="`Without ${column.expression}`"
        title="Take this column out"
        @click="emit('drop', column.name)"
      >
        ×
      </button>
    </template>
    <template #heads-after>
      <th v-if="money" class="t">Currency</th>
      <th v-if="editable"><span class="visually-hidden">Take off</span></th>
    </template>
    <template #before="{ row }">
      <td class="t first">
        <router-link :to="{ name: 'company', params: { id: row.id }, query: { known_on: knownOn } }">{{
          row.name
        }}</router-link>
      </td>
      <td class="t">{{ row.listings.map((l) => `${l.symbol}@${l.mic}`).join(', ') || 'not listed' }}</td>
      <td class="t">{{ row.country ?? 'not known' }}</td>
      <td v-if="plain" class="t wide" :title="row.industry_title ?? ''">{{ row.industry_title ?? 'not known' }}</td>
      <td v-if="stateShown" class="t soft">{{ row.active ? 'active' : 'not active' }}</td>
      <td v-if="weighed">{{ row.weight === null ? 'not given' : (row.weight * 100).toFixed(2) }}</td>
    </template>
    <template #after="{ row }">
      <td v-if="money" class="t soft">{{ currencyOf(row.cells) || 'none' }}</td>
      <td v-if="editable">
        <button
          class="link x"
          :aria-label="`Take ${row.name} off`"
          title="Take off the list, from today on"
          @click="emit('remove', row.id)"
        >
          ×
        </button>
      </td>
    </template>
  </FigureTable>
</template>

<style scoped>
.members {
  overflow: auto;
  max-height: calc(100vh - 300px);
}
.members :deep(thead th) {
  position: sticky;
  top: 0;
  background: var(--paper);
  z-index: 1;
}
.members :deep(thead th.first) {
  z-index: 2;
}
.wide {
  max-width: 230px;
  overflow: hidden;
  text-overflow: ellipsis;
}
.x {
  color: var(--soft);
  padding: 0 4px;
}
</style>

<script setup lang="ts">
import { computed } from 'vue'

import type { ListMembers } from '../api/types'
import ColumnHead from '../figures/ColumnHead.vue'
import FigureTable from '../figures/FigureTable.vue'
import { look } from '../figures/look'
import { currencyOf, heading } from '../figures/numbers'
import { inOrder } from '../figures/sorting'
import SortHead from '../figures/SortHead.vue'

/**
 * The members of a list with the columns asked for; a row can be taken off where people keep the
 * list.
 */
const props = defineProps<{
  found: ListMembers
  editable: boolean
  opened: { row: string; column: string } | null
  sort: string | undefined
}>()
const emit = defineEmits<{
  sort: [by: string | undefined]
  remove: [company: string]
  drop: [name: string]
  open: [company: string, column: number]
}>()
const columns = computed(() =>
  props.found.columns.map((column) => ({ ...column, key: column.name })),
)
const rows = computed(() =>
  inOrder(
    props.found.members.map((member) => ({ ...member, key: member.id })),
    props.sort,
    (row, by) =>
      by in row
        ? row[by as 'name']
        : row.cells[columns.value.findIndex((c) => c.key === by)]?.value,
  ),
)
const opened = computed(
  () =>
    props.opened && {
      row: props.opened.row,
      column: columns.value[Number(props.opened.column)]?.key ?? '',
    },
)
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
    label="Members"
    :rows="rows"
    :columns="columns"
    :look="looked"
    :opened="opened"
    :row-name="(row) => row.name"
    :column-name="heading"
    sortable
    :sort="sort"
    @sort="(by) => emit('sort', by)"
    @open="(row, column) => emit('open', rows[row]!.id, column)"
  >
    <template #heads-before>
      <SortHead class="t first" name="name" :sort="sort" @sort="(by) => emit('sort', by)"
        >Company</SortHead
      >
      <th class="t" scope="col">Listing</th>
      <SortHead class="t" name="country" :sort="sort" @sort="(by) => emit('sort', by)"
        >Country</SortHead
      >
      <SortHead
        v-if="plain"
        class="t"
        name="industry_title"
        :sort="sort"
        @sort="(by) => emit('sort', by)"
        >Industry</SortHead
      >
      <th v-if="stateShown" class="t" scope="col">State</th>
      <SortHead v-if="weighed" name="weight" number :sort="sort" @sort="(by) => emit('sort', by)"
        >Weight, %</SortHead
      >
    </template>
    <template #head="{ column }">
      <ColumnHead :column="column" />
      <button
        class="link x"
        :aria-label="`Remove ${column.expression}`"
        title="Remove this column"
        @click="emit('drop', column.name)"
      >
        ×
      </button>
    </template>
    <template #heads-after>
      <th v-if="money" class="t">Currency</th>
      <th v-if="editable"><span class="visually-hidden">Remove</span></th>
    </template>
    <template #before="{ row, stop }">
      <th class="t first" scope="row">
        <router-link :to="{ name: 'company', params: { id: row.id } }" v-bind="stop">{{
          row.name
        }}</router-link>
      </th>
      <td class="t">
        {{ row.listings.map((l) => `${l.symbol}@${l.mic}`).join(', ') || 'not listed' }}
      </td>
      <td class="t">{{ row.country ?? 'not known' }}</td>
      <td v-if="plain" class="t wide" :title="row.industry_title ?? ''">
        {{ row.industry_title ?? 'not known' }}
      </td>
      <td v-if="stateShown" class="t soft">{{ row.active ? 'active' : 'not active' }}</td>
      <td v-if="weighed">
        {{ row.weight === null ? 'not given' : (row.weight * 100).toFixed(2) }}
      </td>
    </template>
    <template #after="{ row, stop }">
      <td v-if="money" class="t soft">{{ currencyOf(row.cells) || 'none' }}</td>
      <td v-if="editable">
        <button
          class="link x"
          :aria-label="`Remove ${row.name}`"
          title="Remove from the list, from today on"
          v-bind="stop"
          @click="emit('remove', row.id)"
        >
          ×
        </button>
      </td>
    </template>
  </FigureTable>
</template>

<style scoped>
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

<script setup lang="ts">
import { computed } from 'vue'

import type { ListMembers } from '../api/types'
import { figure, headingScale, MARKS, reasonFull, reasonShort } from '../format'
import { useStamp } from '../time/stamp'

/** The members of a list with the columns asked for; a row can be taken off where people keep the list. */
const props = defineProps<{ found: ListMembers; editable: boolean }>()
const emit = defineEmits<{ remove: [company: string]; drop: [expression: string] }>()
const { knownOn } = useStamp()
const weighed = computed(() => props.found.members.some((m) => m.weight !== null))
const ended = computed(() => props.found.members.some((m) => !m.active))
const money = computed(() => props.found.members.some((m) => m.cells.some((c) => c.currency)))
</script>

<template>
  <div class="scroll" tabindex="0" role="region" aria-label="Members">
    <table class="lined">
      <thead>
        <tr>
          <th>Company</th>
          <th>Listing</th>
          <th>Country</th>
          <th v-if="!found.columns.length">Industry</th>
          <th v-if="ended || !found.columns.length">State</th>
          <th v-if="weighed" class="n">Weight, %</th>
          <th v-for="column in found.columns" :key="column.expression" :class="{ n: column.unit !== 'text' }">
            <span class="code">{{ column.expression }}</span><template v-if="headingScale(column)">, {{ headingScale(column) }}</template>
            <button class="link x" :aria-label="`Without ${column.expression}`" title="Take this column out" @click="emit('drop', column.expression)">×</button>
          </th>
          <th v-if="money">Currency</th>
          <th v-if="editable"><span class="visually-hidden">Take off</span></th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="member in found.members" :key="member.id">
          <td>
            <router-link :to="{ name: 'company', params: { id: member.id }, query: { known_on: knownOn } }">{{ member.name }}</router-link>
          </td>
          <td>{{ member.listings.map((l) => `${l.symbol}@${l.mic}`).join(', ') || 'not listed' }}</td>
          <td>{{ member.country ?? 'not known' }}</td>
          <td v-if="!found.columns.length" class="wide" :title="member.industry_title ?? ''">{{ member.industry_title ?? 'not known' }}</td>
          <td v-if="ended || !found.columns.length" class="soft">{{ member.active ? 'active' : 'not active' }}</td>
          <td v-if="weighed" class="n">{{ member.weight === null ? 'not given' : (member.weight * 100).toFixed(2) }}</td>
          <td
            v-for="(cell, i) in member.cells"
            :key="i"
            :class="{ n: found.columns[i]!.unit !== 'text', missing: cell.value === null, negative: typeof cell.value === 'number' && cell.value < 0 }"
            :title="[cell.period, reasonFull(cell.reason), ...cell.marks.map((m) => MARKS[m])].filter(Boolean).join(' · ')"
          >
            {{ cell.value === null ? reasonShort(cell.reason) : figure(cell.value, found.columns[i]!.unit, false) }}
          </td>
          <td v-if="money" class="soft">{{ member.cells.find((c) => c.currency)?.currency ?? 'none' }}</td>
          <td v-if="editable" class="n">
            <button class="link x" :aria-label="`Take ${member.name} off`" title="Take off the list, from today on" @click="emit('remove', member.id)">×</button>
          </td>
        </tr>
      </tbody>
    </table>
  </div>
</template>

<style scoped>
.scroll {
  overflow: auto;
  max-height: calc(100vh - 300px);
}
thead th {
  position: sticky;
  top: 0;
  background: var(--paper);
  z-index: 1;
}
th .code {
  font-size: 12px;
  font-weight: 400;
  color: var(--ink);
}
.wide {
  max-width: 230px;
  overflow: hidden;
  text-overflow: ellipsis;
}
.negative {
  color: var(--brick);
}
.x {
  color: var(--soft);
  padding: 0 4px;
}
</style>

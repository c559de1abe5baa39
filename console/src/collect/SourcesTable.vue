<script setup lang="ts">
import { ref } from 'vue'

import type { ListInfo, Plan, SourceInfo } from '../api/types'
import { counted, grouped } from '../figures/numbers'
import PlainTable from '../figures/PlainTable.vue'
import { instant } from '../time/format'

/** Sources, how much of their day is used, and what a collection would take before it is begun. */
defineProps<{
  sources: SourceInfo[]
  lists: ListInfo[]
  plan: { source: string; found: Plan } | null
}>()
const emit = defineEmits<{
  plan: [source: string, list: string]
  collect: [source: string, list: string]
  leave: []
}>()
const list = ref<Record<string, string>>({}) // of each source, for whom

function used(source: SourceInfo): string {
  const limit = source.per_day === null ? '' : ` of ${grouped(source.per_day)}`
  return grouped(source.used_today) + limit
}
</script>

<template>
  <div class="scroll" tabindex="0" role="region" aria-label="Sources">
    <PlainTable label="Sources">
      <thead>
        <tr>
          <th>Source</th>
          <th>Gives</th>
          <th class="n">Calls today</th>
          <th class="n">Calls a second</th>
          <th>Last run</th>
          <th>For</th>
          <th><span class="visually-hidden">Plan</span></th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="s in sources" :key="s.name">
          <th scope="row">{{ s.title }}</th>
          <td class="soft">{{ s.offers.join(', ') }}</td>
          <td class="n">{{ used(s) }}</td>
          <td class="n">{{ s.per_second ?? 'any' }}</td>
          <td>{{ s.last_ended ? instant(s.last_ended) : 'never' }}</td>
          <td>
            <select v-model="list[s.name]" class="field" :aria-label="`For, ${s.title}`">
              <option :value="undefined">all companies</option>
              <option v-for="l in lists.filter((x) => !x.rule)" :key="l.name" :value="l.name">
                {{ l.title }}
              </option>
            </select>
          </td>
          <td class="n">
            <button class="plain go" @click="emit('plan', s.name, list[s.name] ?? '')">Plan</button>
          </td>
        </tr>
      </tbody>
    </PlainTable>
  </div>
  <div v-if="plan" class="sheet plan" role="status">
    <p>
      {{ counted(plan.found.companies, 'company') }} to ask for,
      {{ grouped(plan.found.unchanged) }} known to be unchanged,
      {{ counted(plan.found.filings, 'new document') }}: {{ counted(plan.found.calls, 'call') }},
      about {{ Math.ceil(plan.found.seconds) }} s at the source's pace.
      <b v-if="plan.found.needs_confirmation">That is a great deal: collect only if you mean it.</b>
    </p>
    <button class="plain go" @click="emit('collect', plan.source, list[plan.source] ?? '')">
      Collect
    </button>
    <button class="plain" @click="emit('leave')">Not now</button>
  </div>
</template>

<style scoped>
.scroll {
  overflow-x: auto;
}
.plan {
  display: flex;
  gap: 12px;
  align-items: center;
  padding: 10px 14px;
  margin-top: 10px;
}
.plan p {
  flex: 1;
}
</style>

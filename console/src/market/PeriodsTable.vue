<script setup lang="ts">
import type { Estimates } from '../api/types'
import PlainTable from '../figures/PlainTable.vue'
import { bracketed } from '../figures/numbers'
import { reasonFull, reasonShort } from '../figures/reasons'
import { instant } from '../time/format'
import { amount } from './amounts'

/** The consensus of each period of a company, and what was announced; a period is chosen. */
defineProps<{ found: Estimates }>()
const emit = defineEmits<{ choose: [period: string] }>()
</script>

<template>
  <PlainTable label="Consensus by period">
    <thead>
      <tr>
        <th>Period</th>
        <th class="n">Mean</th>
        <th class="n">Low</th>
        <th class="n">High</th>
        <th class="n">By</th>
        <th class="n">Raised</th>
        <th class="n">Cut</th>
        <th class="n">Actual</th>
        <th class="n">Surprise %</th>
      </tr>
    </thead>
    <tbody>
      <tr v-for="p in found.periods" :key="p.period" :class="{ chosen: p.period === found.period }">
        <th scope="row">
          <button class="link" @click="emit('choose', p.period)">{{ p.period }}</button>
        </th>
        <template v-if="p.consensus.reason">
          <td class="n missing" colspan="6" :title="reasonFull(p.consensus.reason)">
            {{ reasonShort(p.consensus.reason) }}
          </td>
        </template>
        <template v-else>
          <td class="n">{{ amount(p.consensus.mean, found.unit) }}</td>
          <td class="n">{{ amount(p.consensus.low, found.unit) }}</td>
          <td class="n">{{ amount(p.consensus.high, found.unit) }}</td>
          <td class="n">{{ p.consensus.count }}</td>
          <td class="n">{{ p.consensus.raised }}</td>
          <td class="n">{{ p.consensus.cut }}</td>
        </template>
        <td v-if="p.announced" class="n" :title="`announced ${instant(p.announced.announced_at)}`">
          {{ amount(p.announced.actual, found.unit) }}
        </td>
        <td v-else class="n missing">not yet</td>
        <td
          class="n"
          :class="{
            down: (p.announced?.surprise_relative ?? 0) < 0,
            missing: p.announced?.surprise_relative == null,
          }"
          :title="reasonFull(p.announced?.reason ?? null)"
        >
          {{
            p.announced?.surprise_relative != null
              ? bracketed(p.announced.surprise_relative * 100, 1)
              : p.announced
                ? reasonShort(p.announced.reason)
                : 'not yet'
          }}
        </td>
      </tr>
    </tbody>
  </PlainTable>
</template>

<style scoped>
thead th {
  position: sticky;
  top: 0;
  background: var(--paper);
}
.chosen {
  background: var(--chosen);
}
.down {
  color: var(--brick);
}
</style>

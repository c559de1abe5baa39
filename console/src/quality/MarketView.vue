<script setup lang="ts">
import { computed, ref, watch } from 'vue'

import { decideMarket, marketQuality } from '../api/quality'
import type { MarketFinding } from '../api/types'
import { useAddress } from '../asking/address'
import ProblemNote from '../asking/ProblemNote.vue'
import { useAttempt, useQuestion } from '../asking/question'
import { useWho } from '../asking/who'
import PlainTable from '../figures/PlainTable.vue'
import { bracketed } from '../figures/numbers'
import { shortDay } from '../time/format'

/**
 * Prices, levels and rates in quarantine to accept or reject, and what looks odd about the market.
 */
const { one, set } = useAddress()
const { who } = useWho()
const { attempt, problem: failed } = useAttempt()
const {
  answer: found,
  problem,
  again,
} = useQuestion(
  () => ({ check: one('check'), state: one('state'), company: one('company') }),
  marketQuality,
)
const chosen = ref<number[]>([])
const why = ref('')
watch(found, () => (chosen.value = []))
const decidable = computed(() =>
  (found.value?.findings ?? [])
    .map((f, n) => (f.state === 'flagged' ? -1 : n))
    .filter((n) => n >= 0),
)

async function decide(accept: boolean): Promise<void> {
  await attempt(async () => {
    const rows = chosen.value.map((n) => found.value!.findings[n]!)
    await decideMarket(rows, accept, who.value, why.value)
    why.value = ''
    again()
  })
}
const value = (f: MarketFinding): string => bracketed(f.value, f.kind === 'rates' ? 4 : 2)
const beside = (f: MarketFinding): string => bracketed(f.beside, f.kind === 'rates' ? 4 : 2)
</script>

<template>
  <ProblemNote :problem="problem" />
  <template v-if="found">
    <p v-for="(n, name) in found.by_check" :key="name" class="check">
      <button
        class="link"
        :class="{ on: one('check') === name }"
        :aria-pressed="one('check') === name"
        @click="set({ check: one('check') === name ? undefined : String(name) })"
      >
        {{ name }}
      </button>
      <b class="count">{{ n }}</b> <span class="soft">{{ found.checks[name] }}</span>
    </p>
    <p v-if="!Object.keys(found.by_check).length" class="soft">
      No check found anything wrong about prices, levels, rates, splits and dividends.
    </p>
    <div v-if="decidable.length" class="bar">
      <input v-model="who" class="field" placeholder="Who" aria-label="Who decides" />
      <input v-model="why" class="field why" placeholder="Why" aria-label="Why" />
      <button class="plain" :disabled="!chosen.length" @click="decide(true)">
        Accept {{ chosen.length || '' }}
      </button>
      <button class="plain" :disabled="!chosen.length" @click="decide(false)">
        Reject {{ chosen.length || '' }}
      </button>
    </div>
    <ProblemNote :problem="failed" />
    <div
      v-if="found.findings.length"
      class="scroll"
      tabindex="0"
      role="region"
      aria-label="Findings about the market"
    >
      <PlainTable label="Findings of market data">
        <thead>
          <tr>
            <th><span class="visually-hidden">Choose</span></th>
            <th>State</th>
            <th>Of</th>
            <th>Company</th>
            <th>Date</th>
            <th class="n">Value</th>
            <th class="n">Beside</th>
            <th>What is wrong</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="(f, n) in found.findings" :key="f.kind + f.subject + f.date + f.check">
            <td>
              <input
                v-if="f.state !== 'flagged'"
                v-model="chosen"
                type="checkbox"
                :value="n"
                :aria-label="`Choose ${f.kind} of ${f.subject} on ${f.date}`"
              />
            </td>
            <td :class="{ wrong: f.state === 'quarantined', soft: f.state === 'rejected' }">
              {{ f.state }}
            </td>
            <th scope="row">
              {{ f.subject }} <span class="soft">{{ f.kind }}</span>
            </th>
            <td>
              <router-link v-if="f.company" :to="{ name: 'company', params: { id: f.company } }">{{
                f.name
              }}</router-link>
            </td>
            <td class="day">{{ shortDay(f.date) }}</td>
            <td class="n">{{ value(f) }}</td>
            <td class="n" :title="f.beside_date ? shortDay(f.beside_date) : ''">{{ beside(f) }}</td>
            <td>
              {{ f.detail }}<span v-if="f.who" class="soft"> · {{ f.who }}: {{ f.why }}</span>
            </td>
          </tr>
        </tbody>
      </PlainTable>
    </div>
    <p v-if="found.total > found.findings.length" class="soft">
      {{ found.findings.length }} of {{ found.total }}; the rest with wise-ledger quality market
      --limit
    </p>
  </template>
</template>

<style scoped>
.check {
  margin: 2px 0;
  font-size: 13px;
}
.count {
  margin-left: 6px;
}
.check .on {
  font-weight: 600;
  color: var(--ink);
}
.scroll {
  overflow-x: auto;
  margin-top: 8px;
}
.wrong {
  color: var(--brick);
}
.day {
  white-space: nowrap;
}
</style>

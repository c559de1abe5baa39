<script setup lang="ts">
import { computed, ref } from 'vue'

import { sources } from '../api/collecting'
import { limits, setLimit } from '../api/quality'
import type { LimitList } from '../api/types'
import ProblemNote from '../asking/ProblemNote.vue'
import { useAttempt, useQuestion } from '../asking/question'
import { useWho } from '../asking/who'
import PlainTable from '../figures/PlainTable.vue'

/** The limits that stand, in days, who set them and why; any can be set, and taken back. */
const TITLES: Record<LimitList['limits'][number]['name'], string> = {
  stale_after: 'Stale after',
  lag_of_year: 'Lag of a year',
  lag_of_other: 'Lag of other periods',
  estimate_stands: 'An estimate stands',
}
const {
  answer: found,
  problem: unread,
  again,
} = useQuestion(
  () => 'all',
  (_, signal) => limits(signal),
)
// Whatever the ledger has figures of may be named; those that are collected from are offered.
const { answer: collected, problem: sourceless } = useQuestion(() => 'all', sources)
const { who } = useWho()
const { attempt, problem } = useAttempt()
const name = ref('stale_after')
const source = ref('')
const days = ref<number | ''>('')
const why = ref('')
const ofSources = computed(() => name.value.startsWith('lag_'))
const ready = computed(() => who.value.trim() !== '' && days.value !== '')

async function say(limit: string, of: string | null, count: number | null): Promise<void> {
  await attempt(async () => {
    await setLimit({ name: limit, source: of, days: count, who: who.value, why: why.value })
    why.value = ''
    days.value = ''
    await again()
  })
}

function set(): Promise<void> {
  const of = ofSources.value ? source.value.trim() : ''
  return say(name.value, of || null, days.value || 0)
}
</script>

<template>
  <form class="bar" @submit.prevent="set">
    <select v-model="name" class="field" aria-label="Limit">
      <option v-for="(title, code) in TITLES" :key="code" :value="code">{{ title }}</option>
    </select>
    <input
      v-model.number="days"
      class="field days"
      type="number"
      min="0"
      placeholder="Days"
      aria-label="Days"
    />
    <input
      v-if="ofSources"
      v-model="source"
      class="field"
      list="limited-sources"
      placeholder="Of all sources"
      aria-label="Only of this source"
    />
    <datalist id="limited-sources">
      <option v-for="s in collected ?? []" :key="s.name" :value="s.name">{{ s.title }}</option>
      <option value="files">Files that were loaded</option>
    </datalist>
    <input v-model="who" class="field" placeholder="Who" aria-label="Who says so" />
    <input v-model="why" class="field why" placeholder="Why" aria-label="Why" />
    <button class="plain go" :disabled="!ready">Set</button>
  </form>
  <ProblemNote :problem="problem ?? unread ?? sourceless" />
  <div v-if="found" class="scroll" tabindex="0" role="region" aria-label="Limits">
    <PlainTable label="The limits that stand">
      <thead>
        <tr>
          <th scope="col">Limit</th>
          <th scope="col">Of</th>
          <th scope="col" class="number">Days</th>
          <th scope="col">So many days</th>
          <th scope="col" class="number">Usually</th>
          <th scope="col">Said by</th>
          <th scope="col"><span class="visually-hidden">Take back</span></th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="l in found.limits" :key="`${l.name}:${l.source}`">
          <th scope="row" :title="l.name">{{ TITLES[l.name] }}</th>
          <td>{{ l.source ?? 'all sources' }}</td>
          <td class="number">
            {{ l.days.toLocaleString('en') }}
          </td>
          <td class="meaning">{{ l.meaning }}</td>
          <td class="number soft">{{ l.usual }}</td>
          <td v-if="l.who">
            {{ l.who }}<template v-if="l.why">: {{ l.why }}</template
            ><span class="soft">, batch {{ l.since }}</span>
          </td>
          <td v-else class="soft">as usual</td>
          <td>
            <button
              v-if="l.who"
              class="link"
              :disabled="!who.trim()"
              :title="who.trim() ? '' : 'Say who says so first'"
              @click="say(l.name, l.source, null)"
            >
              take back
            </button>
          </td>
        </tr>
      </tbody>
    </PlainTable>
  </div>
  <p class="soft note">
    A limit counts from its batch on, in every answer, also of dates before; what is asked as
    recorded by an earlier batch keeps the limits of then.
  </p>
</template>

<style scoped>
.days {
  width: 90px;
}
.scroll {
  overflow-x: auto;
}
.number {
  text-align: right;
  white-space: nowrap;
}
.meaning {
  white-space: normal;
}
.note {
  margin-top: 12px;
}
</style>

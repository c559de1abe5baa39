<script setup lang="ts">
import { computed, ref, watch } from 'vue'

import * as ledger from '../api/ledger'
import { keepQuestion, type PanelQuestion, questions } from '../api/panels'
import type { QuestionInfo } from '../api/types'
import { useAddress } from '../asking/address'
import KeptChoice from '../asking/KeptChoice.vue'
import ProblemNote from '../asking/ProblemNote.vue'
import { useQuestion } from '../asking/question'
import ExpressionBox from '../measures/ExpressionBox.vue'
import { instant } from '../time/format'
import { useStamp } from '../time/stamp'
import {
  addressOf,
  datesOf,
  FREQUENCIES,
  instantOf,
  LEFT_OUT,
  NOTHING,
  partsOf,
  type questionOf,
} from './state'

/** What is asked of a panel: whom, when, what; kept under a name, and opened again. */
const props = defineProps<{ question: ReturnType<typeof questionOf> }>()
const { one, several, set } = useAddress()
const { knownOn } = useStamp()
const { answer: lists, problem: listless } = useQuestion(
  () => ({}),
  () => ledger.lists(),
)

const columns = computed(() => several('c'))
const dates = computed(() => datesOf(several, knownOn.value).join(', '))
const at = computed(() => instantOf(one('at'), knownOn.value))
const parts = computed(() => partsOf(dates.value))
const commas = (value: string): string[] =>
  value
    .split(',')
    .map((t) => t.trim())
    .filter(Boolean)
const by = computed(() => (one('periods') ? 'periods' : 'dates'))
const added = ref('')
const typed = ref('')
watch(dates, (d) => (typed.value = d), { immediate: true })

function add(): void {
  const text = added.value.trim()
  if (!text) return
  set({ c: [...columns.value, text] })
  added.value = ''
}
const without = (n: number): void => set({ c: columns.value.filter((_, k) => k !== n) })
function moved(n: number): void {
  const list = [...columns.value]
  ;[list[n - 1], list[n]] = [list[n]!, list[n - 1]!]
  set({ c: list })
}
function range(values: Partial<{ from: string; to: string; every: string }>): void {
  const now = { ...parts.value!, ...values }
  set({ dates: `${now.from}/${now.to} ${now.every}` })
}
function whom(event: Event): void {
  const value = (event.target as HTMLSelectElement).value
  set({ list: value || undefined, co: undefined })
}
const named = (event: Event): void => {
  const found = (event.target as HTMLInputElement).value.split(/[\s,;]+/).filter(Boolean)
  set({ co: found.length ? found : undefined })
}
const turn = (name: string, event: Event): void =>
  set({ [name]: (event.target as HTMLInputElement).checked ? 'on' : undefined })
function leave(mark: string, event: Event): void {
  const others = several('leave').filter((m) => m !== mark)
  set({ leave: (event.target as HTMLInputElement).checked ? [...others, mark] : others })
}
const text = (name: string, event: Event): void =>
  set({ [name]: (event.target as HTMLInputElement).value.trim() || undefined })

function open(one: QuestionInfo): void {
  set({ ...NOTHING, ...addressOf(one) })
}
function keep(
  name: string,
  said: { title: string; description: string; who: string },
  own: QuestionInfo | undefined,
): Promise<unknown> {
  // its layout stays too, which is not chosen here
  const { layout, beside } = (own?.question ?? {}) as Partial<PanelQuestion>
  return keepQuestion(name, { ...said, question: { layout, beside, ...props.question! } })
}
</script>

<template>
  <section class="left" aria-label="What is asked">
    <KeptChoice
      noun="panel"
      example="margins"
      :open="one('kept')"
      :keepable="!!question"
      :read="questions"
      :keep="keep"
      @open="open"
      @kept="(name) => set({ kept: name })"
    />
    <ProblemNote :problem="listless" />

    <h2>Whom</h2>
    <select
      class="field"
      aria-label="Companies"
      :value="several('co').length ? '*' : (one('list') ?? '')"
      @change="whom"
    >
      <option value="">All companies active then</option>
      <option v-for="l in lists ?? []" :key="l.name" :value="l.name">{{ l.title }}</option>
      <option v-if="several('co').length" value="*">Companies by name</option>
    </select>
    <input
      class="field"
      aria-label="Companies by name"
      :value="several('co').join(' ')"
      placeholder="or by name: AGK@ZALD PTP@ZBRE"
      spellcheck="false"
      @change="named"
    />

    <h2>When</h2>
    <p v-if="at" class="choice">
      Known at {{ instant(at) }}
      <button class="link" @click="set({ at: undefined })">take the whole day</button>
    </p>
    <p class="choice">
      <button
        class="link"
        :class="{ on: by === 'dates' }"
        :aria-pressed="by === 'dates'"
        @click="set({ periods: undefined })"
      >
        on dates
      </button>
      <button
        class="link"
        :class="{ on: by === 'periods' }"
        :aria-pressed="by === 'periods'"
        @click="set({ periods: `FY${Number(knownOn.slice(0, 4)) - 9}/FY${knownOn.slice(0, 4)}` })"
      >
        by fiscal period
      </button>
    </p>
    <template v-if="by === 'dates'">
      <div v-if="parts" class="range">
        <input
          type="date"
          class="field"
          aria-label="From"
          :value="parts.from"
          :max="parts.to"
          @change="range({ from: ($event.target as HTMLInputElement).value })"
        />
        <input
          type="date"
          class="field"
          aria-label="To"
          :value="parts.to"
          :max="knownOn"
          @change="range({ to: ($event.target as HTMLInputElement).value })"
        />
        <select
          class="field"
          aria-label="How often"
          :value="parts.every"
          @change="range({ every: ($event.target as HTMLSelectElement).value })"
        >
          <option v-for="f in FREQUENCIES" :key="f" :value="f">{{ f }}</option>
        </select>
      </div>
      <input
        v-else
        v-model="typed"
        class="field"
        aria-label="Dates"
        spellcheck="false"
        @change="set({ dates: commas(typed) })"
      />
    </template>
    <input
      v-else
      class="field"
      aria-label="Periods"
      :value="one('periods')"
      placeholder="FY2015/FY2024, FY2020Q1/FY2024Q4, 2015/2024"
      spellcheck="false"
      @change="set({ periods: ($event.target as HTMLInputElement).value.trim() || undefined })"
    />

    <h2>What</h2>
    <ol v-if="columns.length">
      <li v-for="(c, n) in columns" :key="c + n">
        <span class="code">{{ c }}</span>
        <span class="tools"
          ><button v-if="n" class="link" :aria-label="`Move ${c} up`" @click="moved(n)">↑</button
          ><button class="link" :aria-label="`Take off ${c}`" @click="without(n)">×</button></span
        >
      </li>
    </ol>
    <ExpressionBox
      id="p-add"
      v-model="added"
      data-search
      label="Add a column"
      placeholder="net_margin, m: revenue / employees"
      @enter="add"
    />
    <button class="plain" :disabled="!added.trim()" @click="add">Add the column</button>

    <details
      :open="
        !!(
          one('where') ||
          one('lag') ||
          one('close') ||
          one('first') ||
          several('ahead').length ||
          several('leave').length ||
          one('batch')
        )
      "
    >
      <summary>Rows, versions, returns ahead</summary>
      <label
        >Only rows where
        <input
          class="field code"
          :value="one('where') ?? ''"
          placeholder="market_value > 100mn EUR"
          spellcheck="false"
          @change="text('where', $event)"
      /></label>
      <label
        >Only what was known
        <input
          class="field tiny"
          type="number"
          min="0"
          max="3660"
          :value="Number(one('lag')) || 0"
          @change="
            set({
              lag: Number(($event.target as HTMLInputElement).value)
                ? ($event.target as HTMLInputElement).value
                : undefined,
            })
          "
        />
        days before</label
      >
      <label class="check"
        ><input type="checkbox" :checked="one('close') === 'on'" @change="turn('close', $event)" />
        cut off at the close of each venue</label
      >
      <label class="check"
        ><input type="checkbox" :checked="one('first') === 'on'" @change="turn('first', $event)" />
        figures as first reported</label
      >
      <label
        >Return ahead
        <input
          class="field"
          :value="several('ahead').join(', ')"
          placeholder="total 3mo"
          spellcheck="false"
          @change="set({ ahead: commas(($event.target as HTMLInputElement).value) })"
      /></label>
      <fieldset>
        <legend>Leave out figures that are</legend>
        <label v-for="(words, mark) in LEFT_OUT" :key="mark" class="check"
          ><input
            type="checkbox"
            :checked="several('leave').includes(mark)"
            @change="leave(mark, $event)"
          />
          {{ words }}</label
        >
      </fieldset>
      <label
        >As recorded by batch
        <input
          class="field tiny"
          inputmode="numeric"
          :value="one('batch') ?? ''"
          placeholder="all"
          @change="text('batch', $event)"
      /></label>
    </details>
  </section>
</template>

<style scoped>
.left {
  display: grid;
  gap: 6px;
  align-content: start;
  font-size: 13px;
}
fieldset {
  border: 0;
  margin: 6px 0 2px;
  padding: 0;
  display: flex;
  flex-wrap: wrap;
  gap: 2px 12px;
}
legend {
  padding: 0;
}
.left .field {
  width: 100%;
  box-sizing: border-box;
}
h2 {
  font-size: 15px;
  margin: 8px 0 0;
}
.choice {
  display: flex;
  gap: 10px;
  align-items: center;
}
.choice .on {
  font-weight: 600;
  text-decoration: none;
  color: var(--ink);
}
.range {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 6px;
}
.range select {
  grid-column: 1 / -1;
}
ol {
  list-style: none;
  padding: 0;
  margin: 0;
}
li {
  display: flex;
  gap: 8px;
  padding: 2px 0;
  border-bottom: 1px solid var(--rule);
}
li .code {
  overflow-wrap: anywhere;
}
.tools {
  margin-left: auto;
  display: flex;
  gap: 8px;
}
.plain {
  justify-self: start;
}
details {
  margin-top: 8px;
}
summary {
  cursor: pointer;
  font-weight: 600;
}
details label {
  display: block;
  margin-top: 6px;
}
.left .tiny {
  width: 64px;
}
.left .check input {
  width: auto;
}
</style>

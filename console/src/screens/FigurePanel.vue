<script setup lang="ts">
import { computed, ref, watch } from 'vue'

import { explain, Problem } from '../api/ledger'
import type { Column, DocumentInfo, Explanation, ScreenedCompany } from '../api/types'
import FigureTree from './FigureTree.vue'
import { figure, instant, longDay, MARKS, reasonFull, reasonShort, shortDay, unitOf } from '../format'

/** One figure looked into: inputs down to the facts, and its versions with dates and documents. */
const props = defineProps<{ company: ScreenedCompany; column: Column; at: number; knownOn: string; hindsight: boolean; currency?: string }>()
const emit = defineEmits<{ close: []; open: [document: DocumentInfo, place: string] }>()
const found = ref<Explanation | null>(null)
const problem = ref('')
const unfolded = ref<string | null>(null)
let abort = new AbortController()

watch(
  () => [props.company.company, props.column.expression, props.at, props.knownOn, props.hindsight, props.currency] as const,
  async () => {
    abort.abort()
    abort = new AbortController()
    problem.value = ''
    try {
      found.value = await explain(
        {
          company: props.company.company,
          expression: props.column.expression,
          known_on: props.knownOn,
          period_end: props.company.cells[props.at]?.period_end ?? undefined,
          hindsight: props.hindsight,
          currency: props.currency,
        },
        abort.signal,
      )
    } catch (error) {
      if (error instanceof Problem) problem.value = error.message
    }
  },
  { immediate: true },
)

// Whether the figure counts is the screen's word: a stale one is explained at its own period end.
const cell = computed(() => props.company.cells[props.at]!)
const unit = computed(() => unitOf(props.column.unit, props.column.percent, cell.value.currency))
const moneyed = (kind: string) => ['money', 'money_per_share', 'shares'].includes(kind)

function say(value: number | null, reason: string | null): string {
  if (value === null) return reasonShort(reason)
  return figure(value, props.column.unit, props.column.percent) + (props.column.percent ? ' %' : '')
}
</script>

<template>
  <aside class="sheet" aria-label="Figure">
    <div class="top">
      <h2 class="code">{{ column.expression }}</h2>
      <button class="link soft" @click="emit('close')">Esc<span class="visually-hidden"> closes the figure</span></button>
    </div>
    <p class="soft">{{ company.name }}<template v-if="cell.period"> · {{ cell.period }}</template></p>
    <p v-if="cell.value !== null" class="big">
      {{ figure(cell.value, column.unit, column.percent) }}<span v-if="unit" class="scale">{{ unit }}</span>
    </p>
    <template v-else>
      <p class="big missing">{{ reasonShort(cell.reason, company.template) }}</p>
      <p class="soft">{{ reasonFull(cell.reason) }}</p>
    </template>
    <p v-for="mark in cell.marks" :key="mark" class="mark"><b>{{ mark.replace('_', ' ') }}</b> {{ MARKS[mark] }}</p>
    <p v-if="problem" class="wrong" role="alert">{{ problem }}</p>

    <template v-if="found">
      <ul v-if="found.inputs.length" class="inputs">
        <li v-for="input in found.inputs" :key="input.expression + input.period_end">
          <button
            class="input"
            :aria-expanded="unfolded === input.expression + input.period_end"
            @click="
              unfolded = unfolded === input.expression + input.period_end ? null : input.expression + input.period_end
            "
          >
            <span>{{ input.title }}<small>{{ input.period }}, {{ input.form }}</small></span>
            <span v-if="input.value !== null" class="value">{{ figure(input.value, input.unit, false) }}</span>
            <span v-else class="value soft">{{ input.facts.length ? 'withdrawn' : 'not known' }}</span>
            <span class="soft unit">{{ unitOf(input.unit, false, input.currency) }}</span>
          </button>
          <FigureTree
            v-if="unfolded === input.expression + input.period_end && input.tree"
            :nodes="input.tree.parts.length ? input.tree.parts : [input.tree]"
            :unit="input.unit"
            :currency="input.currency"
            @open="(d, p) => emit('open', d, p)"
          />
        </li>
      </ul>

      <p v-for="c in found.conversions" :key="c.expression" class="mark">
        <b>converted</b>
        {{ c.rate === null ? 'There is no rate' : `${c.rate.toPrecision(6)} ${c.target} for 1 ${c.source}` }},
        {{ c.start ? `the mean from ${shortDay(c.start)} to ${shortDay(c.end)}` : `of ${shortDay(c.end)} or the last day before` }}
      </p>

      <template v-if="found.versions.length">
        <h2 class="heading">Versions</h2>
        <ol class="versions">
          <li v-for="(version, i) in found.versions" :key="version.known_from" :class="{ later: version.later, on: version.standing }">
            <i aria-hidden="true" />
            <div>
              <b>{{ say(version.value, version.reason) }}</b>
              <span class="soft since">{{ instant(version.known_from) }}</span>
              <span v-if="i > 0 && version.value !== null && !version.by_split" class="chip">restated</span>
              <div v-if="version.by_split" class="soft">A split of the shares moved it; nothing was restated.</div>
              <div v-for="document in version.documents" :key="document.sha256" class="document">
                {{ document.title }}
                <button class="link" :aria-label="`Open ${document.title}`" @click="emit('open', document, '')">open</button>
              </div>
              <div v-if="version.later" class="soft">not yet known on {{ longDay(knownOn) }}</div>
            </div>
          </li>
        </ol>
      </template>
      <p class="soft foot">
        {{ moneyed(column.unit) && !found.conversions.length ? 'As reported, in the currency of the company. ' : '' }}Ledger as of batch {{ found.batch }}
      </p>
    </template>
  </aside>
</template>

<style scoped>
aside {
  padding: 14px 16px;
  align-self: start;
  position: sticky;
  top: 108px;
  max-height: calc(100vh - 124px);
  overflow-y: auto;
}
.top {
  display: flex;
  justify-content: space-between;
  gap: 12px;
  align-items: baseline;
}
.top h2 {
  font-size: 12.5px;
  font-weight: 400;
  overflow-wrap: anywhere;
}
.big {
  font: 600 30px/1.2 var(--title);
  margin: 8px 0 4px;
}
.big.missing {
  font-size: 22px;
  color: var(--soft);
}
.scale {
  font-size: 20px;
  margin-left: 6px;
}
.since {
  margin-left: 6px;
}
.where .link {
  text-align: left;
  line-height: 1.3;
}
.mark {
  font-size: 13px;
  border-left: 3px solid var(--ochre);
  padding-left: 8px;
  margin: 6px 0;
}
ul,
ol {
  list-style: none;
}
.inputs {
  margin: 8px 0 12px;
}
.input {
  all: unset;
  cursor: pointer;
  display: grid;
  grid-template-columns: minmax(0, 1fr) auto 46px;
  gap: 8px;
  width: 100%;
  padding: 5px 0;
  border-bottom: 1px solid var(--rule);
  align-items: baseline;
}
.input:hover {
  color: var(--spruce);
}
.input:focus-visible {
  outline: 2px solid var(--spruce);
}
.input small {
  display: block;
  color: var(--soft);
  font-size: 12px;
  line-height: 1.3;
}
.unit {
  font-size: 12px;
}
.facts {
  background: var(--paper);
  padding: 4px 8px;
  font-size: 12.5px;
}
.facts li {
  display: grid;
  grid-template-columns: 10px 62px minmax(0, 1fr);
  gap: 6px;
  padding: 4px 0;
}
.facts .value {
  text-align: right;
}
.where {
  color: var(--soft);
}
.heading {
  margin-top: 4px;
}
.versions li {
  display: grid;
  grid-template-columns: 14px 1fr;
  gap: 8px;
  padding: 7px 0 0;
  font-size: 13.5px;
}
.versions i {
  width: 9px;
  height: 9px;
  border-radius: 9px;
  border: 1.5px solid var(--plum);
  margin-top: 6px;
}
.versions .on i {
  background: var(--plum);
}
.versions .later i {
  border-color: var(--soft);
}
.versions .later b {
  color: var(--soft);
}
.chip {
  display: inline-block;
  border: 1px solid var(--ochre);
  border-radius: 9px;
  padding: 0 8px;
  font-size: 12px;
  margin-left: 6px;
}
.wrong {
  color: var(--brick);
}
.foot {
  margin-top: 12px;
  border-top: 1px solid var(--rule);
  padding-top: 8px;
  font-size: 13px;
}
</style>

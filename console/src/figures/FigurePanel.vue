<script setup lang="ts">
import { computed, nextTick, onMounted, onUnmounted, ref, watch } from 'vue'

import { explain } from '../api/ledger'
import type { Column } from '../api/types'
import { useAddress } from '../asking/address'
import ProblemNote from '../asking/ProblemNote.vue'
import { useQuestion } from '../asking/question'
import { shortDay } from '../time/format'
import { useDocument } from './document'
import DocumentDialog from './DocumentDialog.vue'
import FigureInputs from './FigureInputs.vue'
import FigureVersions from './FigureVersions.vue'
import type { ShownCell } from './look'
import { figure, unitOf } from './numbers'
import { MARKS, reasonFull, reasonShort } from './reasons'

/** A figure to look into: whose it is, the column it stands in, the cell itself. */
export interface OpenFigure {
  company: string
  name: string
  template: string | null
  column: Column
  cell: ShownCell & { period_end: string | null; currency: string | null }
}

/**
 * One figure looked into: inputs down to the facts, its versions with dates, and the documents
 * behind it.
 */
const props = defineProps<{
  figure: OpenFigure
  knownOn: string
  hindsight: boolean
  currency?: string
}>()
const emit = defineEmits<{ close: [] }>()
const file = useDocument()
const { one, set } = useAddress()
const unfolded = computed(() => one('unfolded') ?? null)
const head = ref<HTMLElement>()

// An explanation never stands under the title of another figure.
const { answer: found, problem } = useQuestion(
  () => ({
    company: props.figure.company,
    expression: props.figure.column.expression,
    known_on: props.knownOn,
    period_end: props.figure.cell.period_end ?? undefined,
    hindsight: props.hindsight,
    currency: props.currency,
  }),
  explain,
  { keep: false },
)

// Whether the figure counts is the table's word: a stale one is explained at its own period end.
const cell = computed(() => props.figure.cell)
const column = computed(() => props.figure.column)
const unit = computed(() => unitOf(column.value.unit, column.value.percent, cell.value.currency))
const asReported = computed(
  () =>
    ['money', 'money_per_share', 'shares'].includes(column.value.unit) &&
    !found.value?.conversions.length,
)
const converted = computed(() => {
  const met = found.value?.conversions ?? []
  const several = new Set(met.map((c) => c.expression)).size > 1
  return met.map((c) => ({ ...c, of: several ? c.expression : '' }))
})

/**
 * Esc closes one thing at a time: what lies over the page first, and the figure when nothing does.
 */
function esc(event: KeyboardEvent): void {
  if (event.key !== 'Escape' || file.address.value || document.querySelector('.v-overlay--active'))
    return
  if ((event.target as HTMLElement).closest('input, textarea, select, form')) return
  emit('close')
}

// Who opens a figure with a key is led to it; the table takes the focus back when it is closed.
watch(
  () => [props.figure.company, props.figure.column.expression, props.figure.cell.period_end].join(),
  () => void nextTick(() => head.value?.focus({ preventScroll: true })),
  { immediate: true, flush: 'post' },
)

// While the event comes down, before the dialog closes itself: one press closes one thing.
onMounted(() => addEventListener('keydown', esc, true))
onUnmounted(() => removeEventListener('keydown', esc, true))

function unfold(key: string): void {
  set({ unfolded: unfolded.value === key ? undefined : key }, true)
}
</script>

<template>
  <aside class="sheet" aria-label="Figure">
    <div class="top">
      <h2 ref="head" class="code" tabindex="-1">{{ column.expression }}</h2>
      <button class="link soft" @click="emit('close')">
        Esc<span class="visually-hidden"> closes the figure</span>
      </button>
    </div>
    <p class="soft">
      {{ props.figure.name }}<template v-if="cell.period"> · {{ cell.period }}</template>
    </p>
    <p v-if="cell.value !== null" class="big">
      {{ figure(cell.value, column.unit, column.percent)
      }}<span v-if="unit" class="scale">{{ unit }}</span>
    </p>
    <template v-else>
      <p class="big missing">{{ reasonShort(cell.reason, props.figure.template) }}</p>
      <p class="soft">{{ reasonFull(cell.reason) }}</p>
    </template>
    <p v-for="mark in cell.marks" :key="mark" class="mark">
      <b>{{ mark.replace('_', ' ') }}</b> {{ MARKS[mark] }}
    </p>
    <ProblemNote :problem="problem" />

    <template v-if="found">
      <FigureInputs :found="found" :unfolded="unfolded" @unfold="unfold" @open="file.open" />

      <p v-for="(c, n) in converted" :key="n" class="mark">
        <b>converted</b> <span v-if="c.of" class="code">{{ c.of }}</span>
        {{
          c.rate === null
            ? 'There is no rate'
            : `${c.rate.toPrecision(6)} ${c.target} for 1 ${c.source}`
        }},
        {{
          c.start
            ? `the mean of ${c.rates} rates from ${shortDay(c.start)} to ${shortDay(c.end)}`
            : `of ${shortDay(c.end)} or the last day before`
        }}
      </p>

      <FigureVersions
        v-if="found.versions.length"
        :versions="found.versions"
        :column="column"
        :known-on="knownOn"
        @open="(document) => file.open(document, '')"
      />
      <p class="soft foot">
        {{ asReported ? 'As reported, in the currency of the company. ' : '' }}Ledger as of batch
        {{ found.batch }}
      </p>
    </template>
    <p v-else-if="!problem" class="soft foot" role="status">Looking where it comes from …</p>
    <DocumentDialog :address="file.address.value" :place="file.place.value" @close="file.close" />
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
.top button {
  flex: none;
}
.top h2:focus {
  outline: none;
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
.mark {
  font-size: 13px;
  border-left: 3px solid var(--ochre);
  padding-left: 8px;
  margin: 6px 0;
}
.foot {
  margin-top: 12px;
  border-top: 1px solid var(--rule);
  padding-top: 8px;
  font-size: 13px;
}
</style>

<script setup lang="ts">
import { computed, ref } from 'vue'

import * as ledger from '../api/ledger'
import { keepQuestion, type PanelQuestion, questions } from '../api/panels'
import type { QuestionInfo } from '../api/types'
import { useAddress } from '../asking/address'
import KeptChoice from '../asking/KeptChoice.vue'
import ProblemNote from '../asking/ProblemNote.vue'
import { useQuestion } from '../asking/question'
import ExpressionBox from '../measures/ExpressionBox.vue'
import MoreChoices from './MoreChoices.vue'
import { addressOf, NOTHING, type questionOf } from './state'
import WhenChoice from './WhenChoice.vue'

/** What is asked of a panel: whom, when, what; kept under a name, and opened again. */
const props = defineProps<{ question: ReturnType<typeof questionOf> }>()
const { one, several, set } = useAddress()
const { answer: lists, problem: listless } = useQuestion(
  () => ({}),
  () => ledger.lists(),
)

const columns = computed(() => several('c'))
const added = ref('')

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
function whom(event: Event): void {
  const value = (event.target as HTMLSelectElement).value
  set({ list: value || undefined, co: undefined })
}
const named = (event: Event): void => {
  const found = (event.target as HTMLInputElement).value.split(/[\s,;]+/).filter(Boolean)
  set({ co: found.length ? found : undefined })
}
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
    <WhenChoice />

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

    <MoreChoices />
  </section>
</template>

<style scoped>
.left {
  display: grid;
  gap: 6px;
  align-content: start;
  font-size: 13px;
}
.left .field {
  width: 100%;
  box-sizing: border-box;
}
h2 {
  font-size: 15px;
  margin: 8px 0 0;
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
</style>

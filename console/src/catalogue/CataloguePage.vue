<script setup lang="ts">
import { computed, onMounted, ref } from 'vue'

import { search } from '../api/catalogue'
import type { CatalogueEntry } from '../api/types'
import { useAddress } from '../asking/address'
import ProblemNote from '../asking/ProblemNote.vue'
import { useQuestion } from '../asking/question'
import PlainTable from '../figures/PlainTable.vue'
import { counted, figure, unitOf } from '../figures/numbers'
import { reasonShort } from '../figures/reasons'
import { vLeadsTo } from '../figures/stops'
import { shortDay } from '../time/format'

/** The finder: what can be asked for, by what people call it. */
const STATEMENTS = {
  '': 'Every statement',
  income: 'Income',
  balance: 'Balance sheet',
  cash_flow: 'Cash flow',
  per_share: 'Per share',
  share_count: 'Share counts',
  other: 'Other',
}
const TEMPLATES = {
  '': 'Every template',
  industrial: 'Industrial',
  bank: 'Bank',
  insurer: 'Insurer',
}
const KINDS = {
  '': 'Every kind',
  item: 'Items',
  attribute: 'Attributes',
  market: 'Market',
  function: 'Functions',
  series: 'Series',
}
const LEAST = {
  '': 'However filled',
  '0.01': 'Filled at all',
  '0.5': 'Filled for half',
  '0.9': 'Filled for nine in ten',
}
const CHOICES = { kind: KINDS, statement: STATEMENTS, template: TEMPLATES, least: LEAST }
const { one, set } = useAddress()
const asked = ref(one('company') ?? '')
const q = computed(() => one('q') ?? '')
const { answer, current, problem } = useQuestion(
  () =>
    Object.fromEntries(['q', 'company', ...Object.keys(CHOICES)].map((name) => [name, one(name)])),
  search,
)
const found = computed(() => answer.value?.entries ?? [])
const company = computed(() => answer.value?.company ?? null)
onMounted(() => document.querySelector<HTMLElement>('[data-search]')?.focus())

function value(entry: CatalogueEntry): string {
  const shown = entry.value
  if (!shown) return ''
  if (shown.value === null) return reasonShort(shown.reason)
  const unit = unitOf(entry.unit, false, shown.currency)
  return `${figure(shown.value, entry.unit, false)} ${unit}`.trim()
}

/** What it was found by, where that is not its name or meaning. */
function by(entry: CatalogueEntry): string {
  const plain = entry.found_by.toLowerCase()
  const own = ['', 'meaning', entry.title.toLowerCase(), entry.name.replaceAll('_', ' ')]
  return own.includes(plain) ? '' : entry.found_by
}
</script>

<template>
  <header>
    <h1>Catalogue</h1>
    <p class="soft">
      <template v-if="current"
        >{{ q ? `${found.length} found` : counted(found.length, 'entry') }}; </template
      >a word, a synonym or a code, spelling is forgiving
    </p>
  </header>
  <main>
    <div class="ask">
      <input
        v-leads-to="'#entries'"
        data-search
        class="field wide"
        :value="q"
        aria-label="Search the catalogue"
        placeholder="turnover, shareholders’ funds, capex …"
        spellcheck="false"
        @input="set({ q: ($event.target as HTMLInputElement).value || undefined }, true)"
      />
      <select
        v-for="(options, name) in CHOICES"
        :key="name"
        class="field"
        :aria-label="name"
        :value="one(name) ?? ''"
        @change="set({ [name]: ($event.target as HTMLSelectElement).value || undefined }, true)"
      >
        <option v-for="(title, v) in options" :key="v" :value="v">{{ title }}</option>
      </select>
      <form @submit.prevent="set({ company: asked || undefined })">
        <input
          v-model="asked"
          class="field"
          aria-label="Show the value for a company"
          placeholder="Value for: AGK@ZALD"
          spellcheck="false"
          @change="set({ company: asked || undefined })"
        />
      </form>
    </div>
    <ProblemNote :problem="problem" />
    <div id="entries" class="scroll" tabindex="0" role="region" aria-label="Catalogue">
      <PlainTable v-if="found.length" label="Catalogue">
        <thead>
          <tr>
            <th>Name</th>
            <th>Written</th>
            <th>Unit</th>
            <th class="n">Filled</th>
            <th>Since</th>
            <th v-if="company" class="n">{{ company }}</th>
            <th>Meaning</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="e in found" :key="e.kind + e.name">
            <th scope="row">
              <router-link
                v-if="e.kind === 'item'"
                :to="{ name: 'item', params: { code: e.name } }"
                >{{ e.title }}</router-link
              >
              <template v-else>{{ e.title }}</template>
              <span v-if="by(e)" class="soft small"> “{{ by(e) }}”</span>
            </th>
            <td class="code">{{ e.call }}</td>
            <td class="soft">{{ e.unit.replaceAll('_', ' ') }}</td>
            <td class="n">
              <template v-if="e.kind === 'item'">{{
                e.coverage ? `${Math.round(e.coverage.share * 100)} %` : 'never'
              }}</template>
            </td>
            <td class="soft">{{ e.coverage ? shortDay(e.coverage.first).slice(-4) : '' }}</td>
            <td v-if="company" class="n" :class="{ missing: e.value?.value === null }">
              {{ value(e) }}
            </td>
            <td class="meaning">{{ e.meaning }}</td>
          </tr>
        </tbody>
      </PlainTable>
      <p v-else-if="!answer && !problem" class="soft none">Looking …</p>
      <p v-else-if="!problem" class="soft none">
        Nothing is called “{{ q }}” here. Try fewer words, or take a filter away.
      </p>
    </div>
  </main>
</template>

<style scoped>
header {
  padding: 20px 24px 0;
}
main {
  padding: 10px 24px 32px;
}
.ask {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
  margin-bottom: 12px;
}
.ask .field {
  font-size: 13px;
}
.wide {
  flex: 1 1 200px;
}
.scroll {
  overflow-x: auto;
}
.meaning {
  white-space: normal;
  min-width: 300px;
  padding: 4px 0;
  line-height: 1.3;
}
.small {
  font-size: 12.5px;
}
.none {
  padding: 24px 0;
}
</style>

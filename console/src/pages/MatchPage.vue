<script setup lang="ts">
import { computed, onMounted, onUnmounted, ref, watch } from 'vue'

import * as ledger from '../api/ledger'
import type { MatchAnswer, MatchOutcome, MatchRow, Publications, TermsRead } from '../api/types'
import CompanyLine from '../companies/CompanyLine.vue'
import PageHead from '../shell/PageHead.vue'
import { useStamp } from '../time/stamp'

const OUTCOMES: MatchOutcome[] = ['matched', 'ambiguous', 'renamed', 'inactive', 'invalid', 'not_found']
const KEPT = 'wise-ledger-terms'
const WHO = 'wise-ledger-who'

const { knownOn } = useStamp()
const publications = ref<Publications | null>(null)
const text = ref(sessionStorage.getItem(KEPT) ?? '')
const read = ref<TermsRead | null>(null)
const answer = ref<MatchAnswer | null>(null)
const problem = ref<ledger.Problem | null>(null)
const ever = ref(false)
const allListings = ref(false)
const types = ref(['ordinary'])
const decided = ref<ledger.Decision[]>([])
const ALL_TYPES = ['ordinary', 'preference', 'depositary_receipt', 'fund', 'unit', 'warrant']
const shown = ref<MatchOutcome | 'all'>('all')
const who = ref(localStorage.getItem(WHO) ?? '')
const listName = ref('')
const said = ref('')
const over = ref(false)
const file = ref<Blob | null>(null)
let abort = new AbortController()

async function attempt(work: () => Promise<void>): Promise<void> {
  try {
    await work()
    problem.value = null
  } catch (error) {
    if (error instanceof ledger.Problem) problem.value = error
  }
}

async function take(content: Blob, column?: string): Promise<void> {
  said.value = ''
  file.value = content
  await attempt(async () => {
    read.value = await ledger.readTerms(content, column)
    await run()
  })
}

async function run(): Promise<void> {
  if (!read.value) return
  abort.abort()
  abort = new AbortController()
  const asked = {
    terms: read.value.terms,
    on: knownOn.value,
    ever: ever.value,
    all_listings: allListings.value,
    types: types.value,
  }
  answer.value = await ledger.match(asked, abort.signal)
  decided.value = await ledger.decisions()
}

function pasted(): void {
  sessionStorage.setItem(KEPT, text.value)
  void take(new Blob([text.value]))
}

async function dropped(event: DragEvent): Promise<void> {
  over.value = false
  const given = event.dataTransfer?.files[0]
  if (given) await take(given)
}

function chosen(event: Event): void {
  const given = (event.target as HTMLInputElement).files?.[0]
  if (given) void take(given)
}

watch([knownOn, ever, allListings, types], () => attempt(run))

async function takeBack(term: string): Promise<void> {
  await attempt(async () => {
    await ledger.decide(term, null, who.value || 'somebody')
    decided.value = await ledger.decisions()
    await run()
  })
}
watch(who, (name) => localStorage.setItem(WHO, name))

const rows = computed(() =>
  (answer.value?.rows ?? [])
    .map((row, place) => ({ row, place }))
    .filter(({ row }) => shown.value === 'all' || row.outcome === shown.value),
)
const matched = computed(() => (answer.value?.rows ?? []).filter((r) => r.outcome === 'matched' && r.company))

async function settle(row: MatchRow, company: string | null): Promise<void> {
  await attempt(async () => {
    await ledger.decide(row.term, company, who.value || 'somebody')
    await run()
  })
}

/** One keystroke a row: a number takes that candidate of the row in focus. */
function key(event: KeyboardEvent, row: MatchRow): void {
  const candidate = row.candidates[Number(event.key) - 1]
  if (!/^[1-9]$/.test(event.key) || !candidate) return
  event.preventDefault()
  void settle(row, candidate.id)
}

async function keep(): Promise<void> {
  const ids = [...new Set(matched.value.map((r) => r.company!.id))]
  await attempt(async () => {
    await ledger.keepList(listName.value.trim(), '', ids, who.value || 'somebody')
    said.value = `Kept as list ${listName.value.trim()}: ${ids.length} companies.`
  })
}

function esc(event: KeyboardEvent): void {
  if (event.key === 'Escape') (document.activeElement as HTMLElement | null)?.blur()
}

onMounted(async () => {
  addEventListener('keydown', esc)
  publications.value = await ledger.publications().catch(() => null)
  decided.value = await ledger.decisions().catch(() => [])
  if (text.value.trim()) pasted()
})
onUnmounted(() => removeEventListener('keydown', esc))
</script>

<template>
  <PageHead title="Match" :publications="publications">names, symbols and identifiers to companies</PageHead>
  <main>
    <form
      class="give"
      :class="{ over }"
      @submit.prevent="pasted"
      @dragover.prevent="over = true"
      @dragleave="over = false"
      @drop.prevent="dropped"
    >
      <textarea
        v-model="text"
        data-search
        class="code"
        rows="5"
        aria-label="Names, symbols or identifiers, one a line"
        placeholder="One name, symbol or identifier a line; or a table with heads. Drop a CSV or XLSX file here."
        spellcheck="false"
        @keydown.enter.ctrl.prevent="pasted"
      />
      <div class="how">
        <button class="plain go" :disabled="!text.trim()">Match</button>
        <label class="plain file">Open a file<input type="file" accept=".csv,.txt,.tsv,.xlsx" @change="chosen" /></label>
        <label class="check" title="Companies and symbols of any time, not only of the stamp's date"
          ><input v-model="ever" type="checkbox" /> Of any time</label
        >
        <label class="check" title="Every listing of a company, not the primary one alone"
          ><input v-model="allListings" type="checkbox" /> All listings</label
        >
        <details class="types">
          <summary>{{ types.length === 1 ? types[0]!.replace('_', ' ') : `${types.length} security types` }}</summary>
          <div class="sheet">
            <label v-for="t in ALL_TYPES" :key="t" class="check">
              <input v-model="types" type="checkbox" :value="t" :disabled="types.length === 1 && types[0] === t" /> {{ t.replace('_', ' ') }}
            </label>
          </div>
        </details>
        <select
          v-if="read?.columns.length"
          aria-label="Column"
          :value="read.column"
          @change="file && take(file, ($event.target as HTMLSelectElement).value)"
        >
          <option v-for="column in read.columns" :key="column">{{ column }}</option>
        </select>
      </div>
    </form>
    <div role="alert">
      <p v-for="error in problem?.errors ?? []" :key="error.at" class="wrong">
        {{ error.at }}: {{ error.problem }}<template v-if="error.mend">; {{ error.mend }}</template>
      </p>
      <p v-if="problem && !problem.errors.length" class="wrong">{{ problem.title }}. {{ problem.message }}</p>
    </div>
    <p v-for="note in read?.notes ?? []" :key="note" class="soft">{{ note }}</p>

    <template v-if="answer">
      <div class="tabs">
        <button class="tab" :class="{ on: shown === 'all' }" :aria-pressed="shown === 'all'" @click="shown = 'all'">
          {{ answer.rows.length }} rows
        </button>
        <button
          v-for="outcome in OUTCOMES"
          v-show="answer.counts[outcome]"
          :key="outcome"
          class="tab"
          :class="[outcome, { on: shown === outcome }]"
          :aria-pressed="shown === outcome"
          @click="shown = outcome"
        >
          {{ answer.counts[outcome] }} {{ outcome.replace('_', ' ') }}
        </button>
        <span class="space" />
        <span class="said" role="status">{{ said }}</span>
        <input v-model="who" class="small" aria-label="Your name" placeholder="Your name" />
        <input v-model="listName" class="small" aria-label="Name of the list" placeholder="name-of-the-list" />
        <button class="plain go" :disabled="!matched.length || !listName.trim()" @click="keep">Keep as list</button>
      </div>
      <v-virtual-scroll :items="rows" :height="'calc(100vh - 330px)'" class="rows" tabindex="0" role="region" aria-label="Rows">
        <template #default="{ item: { row, place } }">
          <div class="row" :tabindex="row.candidates.length ? 0 : undefined" :data-row="place" @keydown="key($event, row)">
            <span class="place soft">{{ place + 1 }}</span>
            <span class="term code" :title="row.term">{{ row.term || '(empty)' }}</span>
            <span class="outcome" :class="row.outcome">{{ row.outcome.replace('_', ' ') }}</span>
            <span class="what">
              <CompanyLine v-if="row.company" :company="row.company" />
              <span v-if="row.decided" class="soft note"
                >decided by {{ row.decided }} <button class="link" @click="settle(row, null)">undo</button></span
              >
              <span v-if="row.notes.length || row.repair.length" class="soft note">{{
                [...row.notes, ...(row.repair.length ? [`did you mean ${row.repair.join(', ')}?`] : [])].join('; ')
              }}</span>
              <span v-if="row.candidates.length" class="candidates">
                <button v-for="(c, i) in row.candidates" :key="c.id" class="candidate" :title="`${c.why}, ${c.score.toFixed(2)}`" @click="settle(row, c.id)">
                  <kbd>{{ i + 1 }}</kbd> <CompanyLine :company="c" />
                </button>
              </span>
            </span>
          </div>
        </template>
      </v-virtual-scroll>
    </template>
    <p v-else-if="!problem" class="soft none">
      Paste what you have: company names, symbols such as AGK@ZALD, ISINs, in any mixture. Each row gets an outcome as of
      the stamp's date; a wrong match cannot hide.
    </p>
    <section v-if="!answer && decided.some((d) => d.stands)" class="decided">
      <h2>What people decided</h2>
      <ul>
        <li v-for="d in decided.filter((d) => d.stands)" :key="d.term">
          <span class="code">{{ d.term }}</span> <b>{{ d.name }}</b>
          <span class="soft">{{ d.who }}<template v-if="d.why">, {{ d.why }}</template></span>
          <button class="link" :aria-label="`Undo ${d.term}`" @click="takeBack(d.term)">undo</button>
        </li>
      </ul>
    </section>
  </main>
</template>

<style scoped>
main {
  padding: 16px 24px 8px;
}
.give {
  display: grid;
  gap: 8px;
  grid-template-columns: minmax(0, 1fr) 150px;
  border-radius: 6px;
}
.types {
  position: relative;
  font-size: 13px;
}
.types summary {
  cursor: pointer;
}
.types .sheet {
  position: absolute;
  right: 0;
  z-index: 4;
  padding: 8px 12px;
  width: 170px;
}
.give.over {
  outline: 2px dashed var(--spruce);
  outline-offset: 4px;
}
textarea,
select,
.small {
  background: var(--sheet);
  color: var(--ink);
  border: 1px solid var(--rule);
  border-radius: 4px;
  padding: 6px 10px;
}
textarea {
  resize: vertical;
  line-height: 1.45;
}
.how {
  display: grid;
  gap: 8px;
  align-content: start;
}
.file {
  text-align: center;
}
.file input {
  position: absolute;
  width: 1px;
  height: 1px;
  opacity: 0;
}
.file:focus-within {
  outline: 2px solid var(--spruce);
}
.check {
  display: flex;
  gap: 6px;
  font-size: 13px;
  accent-color: var(--spruce);
}
.tabs {
  display: flex;
  gap: 14px;
  align-items: center;
  margin: 12px 0 6px;
}
.tab {
  all: unset;
  cursor: pointer;
  white-space: nowrap;
  border-bottom: 2px solid transparent;
}
.tab.on {
  font-weight: 600;
  color: var(--spruce);
  border-color: var(--spruce);
}
.tab:focus-visible {
  outline: 2px solid var(--spruce);
}
.space {
  flex: 1;
}
.said {
  color: var(--spruce);
  font-size: 13px;
}
.small {
  width: 138px;
  padding: 3px 8px;
  min-height: 28px;
}
.rows {
  border-top: 1.5px solid var(--ink);
}
.row {
  display: grid;
  grid-template-columns: 44px 230px 92px minmax(0, 1fr);
  gap: 10px;
  padding: 6px 0;
  min-height: 34px;
  border-bottom: 1px solid var(--rule);
  align-items: baseline;
}
.row:focus-visible {
  outline: 2px solid var(--spruce);
  outline-offset: -2px;
}
.place {
  text-align: right;
  font-size: 12.5px;
}
.term {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.outcome {
  font-size: 13px;
  font-weight: 600;
}
.outcome.matched {
  color: var(--spruce);
}
.outcome.renamed {
  color: var(--plum);
}
.outcome.invalid,
.outcome.not_found {
  color: var(--brick);
}
.what {
  display: grid;
  gap: 2px;
  min-width: 0;
  overflow: hidden;
}
.note {
  font-size: 12.5px;
}
.candidates {
  display: grid;
  gap: 2px;
  justify-items: start;
}
.candidate {
  all: unset;
  cursor: pointer;
  padding: 1px 4px;
  border-radius: 3px;
}
.candidate:hover,
.candidate:focus-visible {
  background: var(--chosen);
  outline: 1px solid var(--spruce);
}
kbd {
  font: 600 11.5px var(--code);
  border: 1px solid var(--rule);
  border-radius: 3px;
  padding: 0 5px;
}
.wrong {
  color: var(--brick);
  font-size: 13px;
  padding: 4px 0;
}
.decided li {
  display: flex;
  gap: 14px;
  padding: 5px 0;
  border-bottom: 1px solid var(--rule);
  list-style: none;
}
.none {
  padding: 32px 0;
  max-width: 640px;
}
</style>

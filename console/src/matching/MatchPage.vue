<script setup lang="ts">
import { computed, onMounted, onUnmounted, ref, shallowRef, watch } from 'vue'

import { keepList } from '../api/ledger'
import * as matching from '../api/matching'
import type { MatchRow, Run, TermsRead } from '../api/types'
import ProblemNote from '../asking/ProblemNote.vue'
import { useAttempt, useQuestion } from '../asking/question'
import { useWho } from '../asking/who'
import RunBar from '../collect/RunBar.vue'
import { counted } from '../figures/numbers'
import PageHead from '../shell/PageHead.vue'
import { useStamp } from '../time/stamp'
import DecidedTerms from './DecidedTerms.vue'
import MatchRows from './MatchRows.vue'
import { countsOf, type Group, groupOf, GROUPS, inWords } from './outcomes'
import type { Scope } from './scope'
import TermForm from './TermForm.vue'

const KEPT = 'wise-ledger-terms'

const { knownOn } = useStamp()
const { who, signed } = useWho()
const { attempt, problem: changeProblem } = useAttempt()
const text = ref(sessionStorage.getItem(KEPT) ?? '')
const scope = ref<Scope>({ ever: false, all_listings: false, types: ['ordinary'] })
const read = ref<TermsRead | null>(null)
const shown = ref<Group | 'all'>('all')
const listName = ref('')
const working = shallowRef<Run | null>(null) // many terms take a while
const status = ref('')

const {
  answer,
  problem: matchProblem,
  loading,
  again,
} = useQuestion(
  () => (read.value ? { terms: read.value.terms, on: knownOn.value, ...scope.value } : null),
  (asked, signal) => matching.match(asked, signal, (run) => (working.value = run)),
)
const {
  answer: decided,
  problem: undecided,
  again: lookAgain,
} = useQuestion(() => ({}), matching.decisions)
watch(loading, () => (working.value = null))
const problem = computed(() => changeProblem.value ?? matchProblem.value ?? undecided.value)
const rows = computed(() =>
  (answer.value?.rows ?? [])
    .map((row, place) => ({ row, place }))
    .filter(({ row }) => shown.value === 'all' || groupOf(row) === shown.value),
)
const counts = computed(() => countsOf(answer.value))
const matched = computed(() => {
  const found = (answer.value?.rows ?? []).filter((r) => r.outcome === 'matched' && r.company)
  return [...new Set(found.map((r) => r.company!.id))]
})
const standing = computed(() => (decided.value ?? []).filter((d) => d.stands))

async function give(content: Blob, column?: string): Promise<void> {
  status.value = ''
  await attempt(async () => {
    read.value = await matching.readTerms(content, column)
  })
}

function pasted(): void {
  sessionStorage.setItem(KEPT, text.value)
  void give(new Blob([text.value]))
}

async function settle(term: string, company: string | null): Promise<void> {
  await attempt(async () => {
    await matching.decide(term, company, signed.value)
    await Promise.all([lookAgain(), again()])
  })
}

async function keep(): Promise<void> {
  const name = listName.value.trim()
  await attempt(async () => {
    await keepList(name, matched.value, signed.value)
    status.value = `Kept as list ${name}: ${counted(matched.value.length, 'company')}.`
  })
}

function esc(event: KeyboardEvent): void {
  if (event.key === 'Escape') (document.activeElement as HTMLElement | null)?.blur()
}

onMounted(() => {
  addEventListener('keydown', esc)
  if (text.value.trim()) pasted()
})
onUnmounted(() => removeEventListener('keydown', esc))
</script>

<template>
  <PageHead title="Match">names, symbols and identifiers to companies</PageHead>
  <main>
    <TermForm v-model:text="text" v-model:scope="scope" :read="read" @paste="pasted" @give="give" />
    <ProblemNote :problem="problem" />
    <p v-for="note in read?.notes ?? []" :key="note" class="soft">{{ note }}</p>

    <div v-if="loading && working" class="working">
      <RunBar :run="working" words />
      <button class="plain" @click="read = null">Stop</button>
    </div>
    <template v-if="answer">
      <div class="tabs">
        <button
          class="tab"
          :class="{ on: shown === 'all' }"
          :aria-pressed="shown === 'all'"
          @click="shown = 'all'"
        >
          {{ counted(answer.rows.length, 'row') }}
        </button>
        <button
          v-for="group in GROUPS"
          v-show="counts[group]"
          :key="group"
          class="tab"
          :class="[group, { on: shown === group }]"
          :aria-pressed="shown === group"
          @click="shown = group"
        >
          {{ counts[group] }} {{ inWords(group) }}
        </button>
        <span class="space" />
        <span class="status" role="status">{{ status }}</span>
        <input v-model="who" class="small" aria-label="Your name" placeholder="Your name" />
        <input
          v-model="listName"
          class="small"
          aria-label="Name of the list"
          placeholder="name-of-the-list"
        />
        <button class="plain go" :disabled="!matched.length || !listName.trim()" @click="keep">
          Keep as list
        </button>
      </div>
      <MatchRows :rows="rows" @settle="(row: MatchRow, company) => settle(row.term, company)" />
    </template>
    <p v-else-if="!changeProblem && !matchProblem" class="soft none">
      Paste what you have: company names, symbols such as AGK@ZALD, ISINs, in any mixture. Each row
      gets an outcome as of the stamp's date; a wrong match cannot hide.
    </p>
    <DecidedTerms
      v-if="!answer && standing.length"
      :decisions="standing"
      @undo="(term) => settle(term, null)"
    />
  </main>
</template>

<style scoped>
main {
  padding: 16px 24px 8px;
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
.working {
  display: flex;
  gap: 16px;
  align-items: start;
  max-width: 640px;
  padding: 12px 0;
}
.working > :first-child {
  flex: 1;
}
.none {
  padding: 32px 0;
  max-width: 640px;
}
.status {
  color: var(--spruce);
  font-size: 13px;
}
.small {
  background: var(--sheet);
  color: var(--ink);
  border: 1px solid var(--rule);
  border-radius: 4px;
  width: 138px;
  padding: 3px 8px;
  min-height: 28px;
}
</style>

<script setup lang="ts">
import { computed, onMounted, onUnmounted, ref, watch } from 'vue'

import * as ledger from '../api/ledger'
import type { DocumentInfo, ListInfo, Publications, ScreenAnswer, Verdict } from '../api/types'
import DocumentDialog from '../screens/DocumentDialog.vue'
import FigurePanel from '../screens/FigurePanel.vue'
import ResultTable from '../screens/ResultTable.vue'
import RuleEditor from '../screens/RuleEditor.vue'
import { useScreenState } from '../screens/state'
import CurrencyChoice from '../shell/CurrencyChoice.vue'
import PageHead from '../shell/PageHead.vue'
import { useStamp } from '../time/stamp'

const state = useScreenState()
const { knownOn } = useStamp()
const lists = ref<ListInfo[] | null>(null)
const publications = ref<Publications | null>(null)
const answer = ref<ScreenAnswer | null>(null)
const problem = ref<ledger.Problem | null>(null)
const moved = ref('')
const busy = ref(false)
const document_ = ref<DocumentInfo | null>(null)
const place = ref('')

const list = computed(() => state.list.value ?? lists.value?.[0]?.name)
const asked = computed(() =>
  list.value
    ? { rule: state.rule.value, list: list.value, known_on: knownOn.value, hindsight: state.hindsight.value, currency: state.currency.value }
    : null,
)
let abort = new AbortController()

watch(list, async (name) => {
  if (name) publications.value = await ledger.publications(name).catch(() => null)
})

watch(
  asked,
  async (question) => {
    if (!question) return
    abort.abort()
    abort = new AbortController()
    busy.value = true
    try {
      const found = await ledger.screen(question, abort.signal)
      tellMove(answer.value, found)
      answer.value = found
      problem.value = null
    } catch (error) {
      if (!(error instanceof ledger.Problem)) return
      problem.value = error
    } finally {
      busy.value = false
    }
  },
  { immediate: true, deep: true },
)

/** Who joined and who left since the stamp stood elsewhere. */
function tellMove(before: ScreenAnswer | null, now: ScreenAnswer): void {
  moved.value = ''
  if (!before || before.rule !== now.rule || before.list !== now.list || before.known_on === now.known_on) return
  const passing = (a: ScreenAnswer) => new Map(a.companies.filter((c) => c.verdict === 'pass').map((c) => [c.company, c.name]))
  const [old, fresh] = [passing(before), passing(now)]
  const joined = [...fresh].filter(([id]) => !old.has(id)).map(([, name]) => name)
  const left = [...old].filter(([id]) => !fresh.has(id)).map(([, name]) => name)
  const said = [joined.length ? `joined: ${joined.join(', ')}` : '', left.length ? `left: ${left.join(', ')}` : '']
  moved.value = said.filter(Boolean).join(' · ')
}

const counts = computed(() => answer.value?.counts ?? { passed: 0, failed: 0, unknown: 0 })
const tabs = computed<{ verdict: Verdict; count: number; word: string }[]>(() => [
  { verdict: 'pass', count: counts.value.passed, word: 'pass' },
  { verdict: 'fail', count: counts.value.failed, word: 'fail' },
  { verdict: 'unknown', count: counts.value.unknown, word: 'unknown' },
])
const total = computed(() => Math.max(1, counts.value.passed + counts.value.failed + counts.value.unknown))
const shown = computed(() => (answer.value?.companies ?? []).filter((c) => c.verdict === state.show.value))
const figure = computed(() => {
  const opened = state.opened.value
  const company = answer.value?.companies.find((c) => c.company === opened?.company)
  const column = opened && answer.value?.columns[opened.column]
  return company && column ? { company, column, at: opened.column } : null
})

function key(event: KeyboardEvent): void {
  if (event.key === 'Escape' && !document_.value && state.opened.value) state.open(null)
}

async function takeAway(): Promise<void> {
  if (!asked.value) return
  const link = document.createElement('a')
  link.href = URL.createObjectURL(await ledger.screenAsCsv(asked.value))
  link.download = `screen ${asked.value.list} ${knownOn.value}.csv`
  link.click()
  URL.revokeObjectURL(link.href)
}

onMounted(async () => {
  addEventListener('keydown', key)
  try {
    lists.value = await ledger.lists()
  } catch (error) {
    if (error instanceof ledger.Problem) problem.value = error
    lists.value = []
  }
})
onUnmounted(() => removeEventListener('keydown', key))
</script>

<template>
  <PageHead title="Screens" :publications="publications">
    <template v-if="lists?.length">
      over
      <select
        class="list"
        aria-label="List"
        :value="list"
        @change="state.setList(($event.target as HTMLSelectElement).value)"
      >
        <option v-for="entry in lists" :key="entry.name" :value="entry.name">{{ entry.title }}</option>
        <option v-if="list && !lists.some((l) => l.name === list)" :value="list">{{ list }}</option></select
      ><template v-if="answer">, {{ answer.companies.length }} companies on that day</template>
    </template>
  </PageHead>
  <main v-if="lists && lists.length === 0 && !problem" class="empty">
    <h2>The ledger is empty</h2>
    <p>Collect from a source first:</p>
    <p class="code">wise-ledger collect fernmark</p>
  </main>
  <main v-else :class="{ opened: figure }">
    <div class="work">
      <RuleEditor
        :rule="state.rule.value"
        :problem="problem"
        :busy="busy"
        @run="state.setRule"
      />
      <div class="bar" aria-hidden="true">
        <i class="passed" :style="{ width: `${(100 * counts.passed) / total}%` }" />
        <i class="failed" :style="{ width: `${(100 * counts.failed) / total}%` }" />
      </div>
      <div class="tabs">
        <button
          v-for="tab in tabs"
          :key="tab.verdict"
          class="tab"
          :class="{ on: state.show.value === tab.verdict }"
          :aria-pressed="state.show.value === tab.verdict"
          @click="state.setShow(tab.verdict)"
        >
          {{ tab.count }} {{ tab.word }}
        </button>
        <span class="moved" role="status">{{ moved }}</span>
        <CurrencyChoice class="own" :value="state.currency.value" @choose="state.setCurrency" />
        <label class="hindsight" title="Mark figures that are restated after the stamp; never part of an export">
          <input
            type="checkbox"
            :checked="state.hindsight.value"
            @change="state.setHindsight(($event.target as HTMLInputElement).checked)"
          />
          Hindsight
        </label>
        <button class="plain go" :disabled="!answer || problem !== null" @click="takeAway">Export CSV</button>
      </div>
      <template v-if="answer">
        <p v-if="problem" class="soft old">Below stands the answer to the rule before.</p>
        <ResultTable
          v-if="shown.length"
          :columns="answer.columns"
          :companies="shown"
          :opened="state.opened.value"
          @open="state.open"
        />
        <p v-else class="none soft">
          {{
            answer.companies.length === 0
              ? 'Nobody stood on this list on that day: move the stamp to a later one.'
              : state.show.value === 'pass'
                ? 'Nobody passes on that day. Loosen the rule, or move the stamp.'
                : state.show.value === 'fail'
                  ? 'Nobody fails on that day.'
                  : 'Nobody is unknown on that day: every figure that the rule needs was there.'
          }}
        </p>
      </template>
    </div>
    <FigurePanel
      v-if="figure"
      :company="figure.company"
      :column="figure.column"
      :at="figure.at"
      :known-on="knownOn"
      :hindsight="state.hindsight.value"
      :currency="figure.company.cells[figure.at]?.currency ?? undefined"
      @close="state.open(null)"
      @open="(document, at) => ((document_ = document), (place = at))"
    />
  </main>
  <DocumentDialog :document="document_" :place="place" @close="document_ = null" />
</template>

<style scoped>
main {
  padding: 16px 24px 32px;
}
main.opened {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 300px;
  gap: 24px;
}
.work {
  min-width: 0;
}
.list {
  border: 0;
  border-bottom: 1px dotted var(--soft);
  font-weight: 600;
  color: var(--ink);
  background: var(--paper);
  cursor: pointer;
}
.bar {
  display: flex;
  height: 4px;
  margin: 12px 0 0;
  background: var(--faint);
  gap: 1px;
}
.bar i {
  transition: width 0.15s;
}
.passed {
  background: var(--spruce);
}
.failed {
  background: var(--soft);
  opacity: 0.5;
}
.tabs {
  display: flex;
  gap: 18px;
  align-items: center;
  margin: 8px 0 4px;
}
.tab {
  all: unset;
  cursor: pointer;
  padding-bottom: 1px;
  border-bottom: 2px solid transparent;
  white-space: nowrap;
}
.tab.on {
  color: var(--spruce);
  font-weight: 600;
  border-color: var(--spruce);
}
.tab:focus-visible {
  outline: 2px solid var(--spruce);
}
.moved {
  flex: 1;
  color: var(--plum);
  font-size: 13px;
  min-width: 0;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.hindsight {
  display: flex;
  gap: 6px;
  align-items: center;
  font-size: 13px;
  white-space: nowrap;
  accent-color: var(--spruce);
}
.old {
  font-size: 13px;
  padding: 4px 0 8px;
}
.none,
.empty {
  padding: 40px 0;
}
.empty {
  padding: 48px 24px;
  display: grid;
  gap: 8px;
}
</style>

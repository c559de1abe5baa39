<script setup lang="ts">
import { computed, ref } from 'vue'

import {
  askExtract,
  dropExtract,
  extract,
  extractFile,
  panel,
  panelFile,
  panelPlan,
} from '../api/panels'
import type { ExtractInfo } from '../api/types'
import { useAddress } from '../asking/address'
import ProblemNote from '../asking/ProblemNote.vue'
import TabLine from '../asking/TabLine.vue'
import { useAttempt, useQuestion } from '../asking/question'
import { save } from '../asking/save'
import CurrencyChoice from '../figures/CurrencyChoice.vue'
import { counted, grouped } from '../figures/numbers'
import PlainTable from '../figures/PlainTable.vue'
import { reasonShort } from '../figures/reasons'
import PageHead from '../shell/PageHead.vue'
import { useStamp } from '../time/stamp'
import ColumnLine from './ColumnLine.vue'
import PanelChoices from './PanelChoices.vue'
import PanelTable from './PanelTable.vue'
import { questionOf } from './state'

/**
 * Panels: whom, when and what; the first rows and how the columns lie as one edits; taken away,
 * kept, asked again.
 */
const AT_SIGHT = 3_000_000 // cells that are summed up while one edits
const { one, several, set } = useAddress()
const { knownOn } = useStamp()
const { attempt, problem: failed, busy } = useAttempt()

const question = computed(() => questionOf({ one, several }, knownOn.value))
const { answer: plan, problem, loading: planning } = useQuestion(() => question.value, panelPlan)
const small = computed(() => plan.value !== null && plan.value.cells <= AT_SIGHT)
const {
  answer,
  problem: wrong,
  loading,
} = useQuestion(
  () =>
    question.value && plan.value
      ? {
          question: { ...question.value, beside: ['reason' as const, 'period_end' as const] },
          limit: 200,
          summary: small.value,
        }
      : null,
  panel,
)

/** A large one is written by the service first. */
const writing = ref<ExtractInfo | null>(null)
async function take(format: string): Promise<void> {
  const asked = { ...question.value!, beside: ['reason' as const] }
  await attempt(async () => {
    if (plan.value!.at_once) return save(await panelFile(asked, format), `panel.${format}`)
    let now = (writing.value = await askExtract(asked, format === 'xlsx' ? 'csv' : format))
    while (writing.value && (now.state === 'waiting' || now.state === 'running')) {
      await new Promise((done) => setTimeout(done, 700))
      now = await extract(now.id)
      if (writing.value) writing.value = now
    }
    if (now.state === 'done') save(await extractFile(now.id), `panel.${now.format}`)
    if (now.state !== 'failed') await dropExtract(now.id).catch(() => undefined)
    writing.value = null
    if (now.state === 'failed') throw new Error(now.problem)
  })
}
async function stop(): Promise<void> {
  const id = writing.value?.id
  writing.value = null
  if (id) await dropExtract(id)
}

const size = computed(() =>
  plan.value
    ? `${counted(plan.value.rows, 'row')} × ${counted(plan.value.columns.length, 'column')}`
    : '',
)
const unknown = computed(() => Object.entries(answer.value?.unknown ?? {}))
const VIEWS = { rows: 'Rows', columns: 'How the columns lie' }
const view = computed(() => (one('view') === 'columns' && small.value ? 'columns' : 'rows'))
</script>

<template>
  <PageHead
    title="Panels"
    :list="one('list')"
    :past="question && !one('periods') ? 'each row as it was known on its date' : undefined"
    ><template v-if="plan && question">{{ plan.title }}, {{ size }}</template></PageHead
  >
  <main class="pair">
    <PanelChoices :question="question" />

    <div class="right" :aria-busy="loading || planning">
      <p v-if="!question" class="none soft">
        Add a column on the left, a measure such as
        <button
          class="link code"
          @click="set({ c: ['operating_margin', 'revenue_growth', 'price_to_earnings'] })"
        >
          operating_margin, revenue_growth, price_to_earnings</button
        >, and see it for every company and date, as it was known then, with a reason in every hole.
      </p>
      <template v-else>
        <ProblemNote :problem="problem ?? wrong ?? failed" />
        <template v-if="plan && !problem">
          <div class="bar">
            <TabLine
              label="Views"
              :tabs="VIEWS"
              :value="view"
              :off="small ? undefined : 'columns'"
              @choose="(name) => set({ view: name === 'rows' ? undefined : name })"
            />
            <span class="soft"
              >{{ size
              }}<template v-if="answer && answer.total !== null && answer.total !== plan.rows"
                >, {{ grouped(answer.total) }} of them where the condition holds</template
              ><template v-if="unknown.length"
                >; unknown:
                <template v-for="([r, n], i) in unknown" :key="r"
                  >{{ i ? ', ' : '' }}{{ reasonShort(r) }} {{ n }}</template
                ></template
              ></span
            >
            <span class="end">
              <CurrencyChoice :value="one('currency')" @choose="(c) => set({ currency: c })" />
              <button
                v-for="f in ['csv', 'xlsx', 'parquet']"
                :key="f"
                class="plain"
                :disabled="busy"
                @click="take(f)"
              >
                {{ f.toUpperCase() }}
              </button>
            </span>
          </div>
          <p v-for="f in plan.failed" :key="f.asked" class="wrong">
            {{ f.asked }}: {{ f.problem }}; {{ f.mend }}
          </p>
          <p v-if="writing" class="writing" role="status">
            The service writes it: {{ writing.done }} of {{ writing.total || '…' }} dates,
            {{ counted(writing.rows, 'row') }}
            <progress :value="writing.done" :max="writing.total || 1" />
            <button class="link" @click="stop">stop</button>
          </p>
          <div v-if="answer" :class="{ waiting: loading || planning }">
            <template v-if="view === 'rows'">
              <PanelTable v-if="answer.records.length" :answer="answer" :known-on="knownOn" />
              <p v-else class="none soft">Of no company and date is the condition true.</p>
              <p v-if="answer.total === null || answer.total > answer.records.length" class="soft">
                The first {{ counted(answer.records.length, 'row') }}. All of them: CSV, XLSX or
                Parquet.
              </p>
            </template>
            <div v-else class="across" tabindex="0" role="region" aria-label="How the columns lie">
              <PlainTable class="lies" label="How each column lies">
                <thead>
                  <tr>
                    <th>Column</th>
                    <th class="n">Filled</th>
                    <th>Missing</th>
                    <th class="n">Least</th>
                    <th class="n">Lower quartile</th>
                    <th class="n">Median</th>
                    <th class="n">Upper quartile</th>
                    <th class="n">Greatest</th>
                    <th>Greatest is</th>
                  </tr>
                </thead>
                <tbody>
                  <ColumnLine v-for="s in answer.summary" :key="s.name" :summary="s" />
                </tbody>
              </PlainTable>
            </div>
          </div>
        </template>
      </template>
    </div>
  </main>
</template>

<style scoped>
.bar {
  display: flex;
  gap: 16px;
  align-items: center;
  flex-wrap: wrap;
  font-size: 13px;
  margin-bottom: 8px;
}
.end {
  margin-left: auto;
  display: flex;
  gap: 8px;
  align-items: center;
}
.none {
  padding: 50px 0;
  max-width: 480px;
}
.wrong {
  margin-bottom: 10px;
}
.waiting {
  opacity: 0.55;
}
.across {
  overflow-x: auto;
}
.lies td {
  vertical-align: top;
}
</style>

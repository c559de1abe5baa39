<script setup lang="ts">
import { computed, onMounted, onUnmounted, ref } from 'vue'
import { useRouter } from 'vue-router'

import * as catalogue from '../api/catalogue'
import * as collecting from '../api/collecting'
import * as ledger from '../api/ledger'
import type { Plan, Run, ScheduleRequest } from '../api/types'
import ProblemNote from '../asking/ProblemNote.vue'
import { useAttempt, useQuestion } from '../asking/question'
import { useWho } from '../asking/who'
import { counted } from '../figures/numbers'
import RunBar from './RunBar.vue'
import RunsTable from './RunsTable.vue'
import SchedulesTable from './SchedulesTable.vue'
import SourcesTable from './SourcesTable.vue'
import UnmappedTags from './UnmappedTags.vue'

const router = useRouter()
const { signed } = useWho()
const { attempt, problem: refused } = useAttempt()
const {
  answer: given,
  problem: unread,
  again: readAgain,
} = useQuestion(
  () => ({}),
  async () => {
    const sources = await collecting.sources()
    const [lists, items, ...tags] = await Promise.all([
      ledger.lists(),
      catalogue.items(),
      ...sources.map((s) => collecting.unmapped(s.name)),
    ])
    return { sources, lists: lists.filter((list) => !list.rule), items, unmapped: tags.flat() }
  },
)
const {
  answer: work,
  problem: unseen,
  again: refresh,
} = useQuestion(
  () => ({}),
  async () => ({ runs: await collecting.runs(), schedules: await collecting.schedules() }),
)
const problem = computed(() => refused.value ?? unread.value ?? unseen.value)
const sources = computed(() => given.value?.sources)
const runs = computed(() => work.value?.runs ?? [])
const plan = ref<{ source: string; found: Plan } | null>(null)
const status = ref('')
const working = ref<Run | null>(null) // reads the kept documents again
const scheduleForm = ref<InstanceType<typeof SchedulesTable>>()
const busy = computed(() => runs.value.some((r) => r.state === 'running' || r.state === 'queued'))
let timer = 0

const refreshAll = (): Promise<unknown> => Promise.all([readAgain(), refresh()])

async function planned(source: string, list: string): Promise<void> {
  await attempt(async () => {
    plan.value = { source, found: await collecting.plan(source, list) }
  })
}

async function collect(source: string, list: string): Promise<void> {
  await attempt(async () => {
    const run = await collecting.collect(source, list)
    await router.push({ name: 'run', params: { id: run.id } })
  })
}

async function map({ source, tag }: collecting.SourceTag, item: string): Promise<void> {
  await attempt(async () => {
    const done = await collecting.mapTag(
      source,
      tag,
      item,
      signed.value,
      (run) => (working.value = run),
    )
    const read = counted(done.documents, 'kept document')
    status.value = `${tag} means ${item}: ${counted(done.facts, 'fact')} from ${read}.`
    await refreshAll()
  })
  working.value = null
}

async function verify(): Promise<void> {
  await attempt(async () => {
    const run = await collecting.verify()
    await router.push({ name: 'run', params: { id: run.id } })
  })
}

async function keep(schedule: Partial<ScheduleRequest>): Promise<void> {
  const kept = await attempt(() => collecting.keepSchedule(schedule))
  if (!kept) return
  scheduleForm.value?.clear()
  await refresh()
}

async function changed(work: () => Promise<unknown>): Promise<void> {
  if (await attempt(work)) await refresh()
}

onMounted(() => {
  timer = window.setInterval(() => busy.value && void refresh(), 1000)
})
onUnmounted(() => clearInterval(timer))
</script>

<template>
  <header class="head">
    <h1>Collect</h1>
    <p class="soft">From sources into the ledger: what it has already is not asked for again.</p>
  </header>
  <main>
    <ProblemNote :problem="problem" />
    <p v-if="sources && !sources.length" class="soft none">
      No source is set. Give its address and key in the settings: WISE_LEDGER_FERNMARK_URL and
      WISE_LEDGER_FERNMARK_KEY, or load files with wise-ledger load.
    </p>
    <section v-if="sources?.length">
      <SourcesTable
        :sources="sources"
        :lists="given?.lists ?? []"
        :plan="plan"
        @plan="planned"
        @collect="collect"
        @leave="plan = null"
      />
    </section>
    <section v-if="runs.length">
      <div class="with-tools">
        <h2>Runs</h2>
        <button class="plain" @click="verify">Verify the ledger</button>
      </div>
      <RunsTable :runs="runs" />
    </section>
    <section v-if="given?.unmapped.length">
      <h2>Tags without an item</h2>
      <UnmappedTags :tags="given.unmapped" :items="given.items" @map="map" />
    </section>
    <RunBar v-if="working" :run="working" words class="working" />
    <p v-if="status" class="soft" role="status">{{ status }}</p>
    <section v-if="sources && (sources.length || work?.schedules.length)">
      <h2>Schedules</h2>
      <SchedulesTable
        ref="scheduleForm"
        :schedules="work?.schedules ?? []"
        :sources="sources"
        @keep="keep"
        @run="(name) => changed(() => collecting.runSchedule(name))"
        @hold="(name, paused) => changed(() => collecting.holdSchedule(name, paused))"
      />
    </section>
  </main>
</template>

<style scoped>
.head {
  padding: 18px 24px 12px;
  border-bottom: 1px solid var(--rule);
}
.head p {
  font-size: 13px;
  margin-top: 2px;
}
main {
  padding: 14px 24px 32px;
}
section {
  margin-bottom: 22px;
}
.with-tools {
  display: flex;
  gap: 16px;
  align-items: baseline;
}
.working {
  max-width: 640px;
}
.none {
  padding: 32px 0;
}
</style>

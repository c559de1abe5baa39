<script setup lang="ts">
import { computed, onMounted, onUnmounted, ref } from 'vue'
import { useRouter } from 'vue-router'

import * as catalogue from '../api/catalogue'
import * as collecting from '../api/collecting'
import * as ledger from '../api/ledger'
import type { ListInfo, Plan, Run, Schedule, ScheduleRequest, SourceInfo } from '../api/types'
import ProblemNote from '../asking/ProblemNote.vue'
import { useAttempt } from '../asking/question'
import { useWho } from '../asking/who'
import RunBar from './RunBar.vue'
import RunsTable from './RunsTable.vue'
import SchedulesTable from './SchedulesTable.vue'
import SourcesTable from './SourcesTable.vue'
import UnmappedTags from './UnmappedTags.vue'

const router = useRouter()
const { signed } = useWho()
const { attempt, problem } = useAttempt()
const sources = ref<SourceInfo[] | null>(null)
const lists = ref<ListInfo[]>([])
const runs = ref<Run[]>([])
const schedules = ref<Schedule[]>([])
const unmapped = ref<collecting.SourceTag[]>([])
const items = ref<string[]>([])
const plan = ref<{ source: string; found: Plan } | null>(null)
const status = ref('')
const working = ref<Run | null>(null) // reads the kept documents again
const scheduleForm = ref<InstanceType<typeof SchedulesTable>>()
const busy = computed(() => runs.value.some((r) => r.state === 'running' || r.state === 'queued'))
let timer = 0

async function refresh(): Promise<void> {
  await attempt(async () => {
    runs.value = await collecting.runs()
    schedules.value = await collecting.schedules()
  })
}

async function refreshAll(): Promise<void> {
  await attempt(async () => {
    sources.value = await collecting.sources()
    lists.value = (await ledger.lists()).filter((list) => !list.rule)
    unmapped.value = (await Promise.all(sources.value.map((s) => collecting.unmapped(s.name)))).flat()
    items.value = await catalogue.items()
  })
  await refresh()
}

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
    const done = await collecting.mapTag(source, tag, item, signed.value, (run) => (working.value = run))
    const [facts, documents] = [done.facts, done.documents].map((n) => n.toLocaleString('en-GB'))
    status.value = `${tag} means ${item}: ${facts} facts from ${documents} kept documents.`
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
  void refreshAll()
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
      No source is set. Give its address and key in the settings: WISE_LEDGER_FERNMARK_URL and WISE_LEDGER_FERNMARK_KEY,
      or load files with wise-ledger load.
    </p>
    <section v-if="sources?.length">
      <SourcesTable
        :sources="sources"
        :lists="lists"
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
    <section v-if="unmapped.length">
      <h2>Tags without an item</h2>
      <UnmappedTags :tags="unmapped" :items="items" @map="map" />
    </section>
    <RunBar v-if="working" :run="working" words class="working" />
    <p v-if="status" class="soft" role="status">{{ status }}</p>
    <section v-if="sources?.length">
      <h2>Schedules</h2>
      <SchedulesTable
        ref="scheduleForm"
        :schedules="schedules"
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

<script setup lang="ts">
import { computed, onMounted, onUnmounted, ref } from 'vue'
import { useRouter } from 'vue-router'

import * as collecting from '../api/collecting'
import * as ledger from '../api/ledger'
import type { ListInfo, Plan, Run, Schedule, SourceInfo, UnmappedTag } from '../api/types'
import RunBar from '../collect/RunBar.vue'
import { instant } from '../format'

const router = useRouter()
const sources = ref<SourceInfo[] | null>(null)
const lists = ref<ListInfo[]>([])
const runs = ref<Run[]>([])
const schedules = ref<Schedule[]>([])
const unmapped = ref<(UnmappedTag & { source: string })[]>([])
const meant = ref<Record<string, string>>({})
const items = ref<string[]>([])
const plan = ref<{ source: string; found: Plan } | null>(null)
const list = ref<Record<string, string>>({}) // for each source, for whom
const problem = ref('')
const said = ref('')
const who = ref(localStorage.getItem('wise-ledger-who') ?? '')
const fresh = ref({ name: '', source: '', at: '02:30', notify: '' })
const busy = computed(() => runs.value.some((r) => r.state === 'running' || r.state === 'queued'))
let timer = 0

async function attempt(work: () => Promise<void>): Promise<void> {
  try {
    await work()
    problem.value = ''
  } catch (error) {
    if (error instanceof ledger.Problem) {
      const first = error.errors[0]
      problem.value = first ? `${first.at}: ${first.problem}; ${first.mend}` : error.message
    }
  }
}

async function look(): Promise<void> {
  await attempt(async () => {
    runs.value = await collecting.runs()
    schedules.value = await collecting.schedules()
  })
}

async function lookAtAll(): Promise<void> {
  await attempt(async () => {
    sources.value = await collecting.sources()
    fresh.value.source ||= sources.value[0]?.name ?? ''
    lists.value = await ledger.lists()
    const found = await Promise.all(
      sources.value.map(async (s) => (await collecting.unmapped(s.name)).map((u) => ({ ...u, source: s.name }))),
    )
    unmapped.value = found.flat()
    items.value = await ledger.items()
  })
  await look()
}

async function ask(source: string): Promise<void> {
  await attempt(async () => {
    plan.value = { source, found: await collecting.plan(source, list.value[source] ?? '') }
  })
}

async function collect(source: string): Promise<void> {
  await attempt(async () => {
    const run = await collecting.collect(source, list.value[source] ?? '')
    await router.push({ name: 'run', params: { id: run.id } })
  })
}

async function map(u: UnmappedTag & { source: string }): Promise<void> {
  localStorage.setItem('wise-ledger-who', who.value)
  await attempt(async () => {
    const done = await collecting.mapTag(u.source, u.tag, meant.value[u.tag]!.trim(), who.value || 'somebody')
    said.value = `${u.tag} means ${meant.value[u.tag]}: ${done.facts.toLocaleString('en-GB')} facts from ${done.documents.toLocaleString('en-GB')} kept documents.`
    await lookAtAll()
  })
}

async function keep(): Promise<void> {
  await attempt(async () => {
    await collecting.keepSchedule({
      name: fresh.value.name.trim(),
      collection: { source: fresh.value.source },
      timing: fresh.value.at.trim() ? { at: fresh.value.at.split(/[ ,]+/).filter(Boolean) } : {},
      notify: fresh.value.notify.split(/[ ,]+/).filter(Boolean),
      who: who.value || 'somebody',
    })
    fresh.value.name = ''
    await look()
  })
}

function when(s: Schedule): string {
  if (s.timing.every) return `every ${s.timing.every}`
  if (s.timing.at.length) return `at ${s.timing.at.join(', ')} UTC, ${s.timing.days}`
  return s.timing.older_than ? `when older than ${s.timing.older_than}` : 'on demand'
}

onMounted(() => {
  void lookAtAll()
  timer = window.setInterval(() => busy.value && void look(), 1000)
})
onUnmounted(() => clearInterval(timer))
</script>

<template>
  <header class="head">
    <h1>Collect</h1>
    <p class="soft">From sources into the ledger: what it has already is not asked for again.</p>
  </header>
  <main>
    <p v-if="problem" class="wrong" role="alert">{{ problem }}</p>
    <p v-if="sources && !sources.length" class="soft none">
      No source is set. Give its address and key in the settings: WISE_LEDGER_FERNMARK_URL and WISE_LEDGER_FERNMARK_KEY, or load files with
      wise-ledger load.
    </p>
    <section v-if="sources?.length">
      <table class="lined">
        <thead>
          <tr><th>Source</th><th>Gives</th><th class="n">Calls today</th><th class="n">Calls a second</th><th>Last run</th><th>For</th><th></th></tr>
        </thead>
        <tbody>
          <tr v-for="s in sources" :key="s.name">
            <td>{{ s.title }}</td>
            <td class="soft">{{ s.offers.join(', ') }}</td>
            <td class="n">{{ s.used_today.toLocaleString('en-GB') }}{{ s.per_day === null ? '' : ` of ${s.per_day.toLocaleString('en-GB')}` }}</td>
            <td class="n">{{ s.per_second ?? 'any' }}</td>
            <td>{{ s.last_ended ? instant(s.last_ended) : 'never' }}</td>
            <td>
              <select class="field" :aria-label="`For, ${s.title}`" :value="list[s.name] ?? ''" @change="list[s.name] = ($event.target as HTMLSelectElement).value">
                <option value="">everybody</option>
                <option v-for="l in lists.filter((x) => !x.rule)" :key="l.name" :value="l.name">{{ l.title }}</option>
              </select>
            </td>
            <td class="n"><button class="plain go" @click="ask(s.name)">Plan</button></td>
          </tr>
        </tbody>
      </table>
      <div v-if="plan" class="sheet plan" role="status">
        <p>
          {{ plan.found.companies.toLocaleString('en-GB') }} companies to ask for, {{ plan.found.unchanged.toLocaleString('en-GB') }} known to be unchanged,
          {{ plan.found.filings.toLocaleString('en-GB') }} new documents: {{ plan.found.calls.toLocaleString('en-GB') }} calls, about
          {{ Math.ceil(plan.found.seconds) }} s at the source's pace.
          <b v-if="plan.found.needs_confirmation">That is a great deal: collect only if you mean it.</b>
        </p>
        <button class="plain go" @click="collect(plan.source)">Collect</button>
        <button class="plain" @click="plan = null">Not now</button>
      </div>
    </section>

    <section v-if="runs.length">
      <h2>Runs</h2>
      <div class="scroll" tabindex="0" role="region" aria-label="Runs">
        <table class="lined">
          <thead>
            <tr><th>Run</th><th>State</th><th>Progress</th><th class="n">Failed</th><th class="n">New facts</th><th class="n">Requests</th><th>Began</th><th>Queued by</th></tr>
          </thead>
          <tbody>
            <tr v-for="r in runs" :key="r.id">
              <td><router-link :to="{ name: 'run', params: { id: r.id } }">{{ r.id }}, {{ r.source }}{{ r.list ? `, ${r.list}` : '' }}</router-link></td>
              <td>{{ r.state.replace('_', ' ') }}</td>
              <td><RunBar :run="r" /></td>
              <td class="n" :class="{ wrong: r.failed }">{{ r.failed }}</td>
              <td class="n">{{ r.facts.toLocaleString('en-GB') }}</td>
              <td class="n">{{ r.requests.toLocaleString('en-GB') }}</td>
              <td>{{ instant(r.created_at) }}</td>
              <td class="soft">{{ r.schedule ? `schedule ${r.schedule}` : r.failed_of ? `run ${r.failed_of}, failed only` : 'people' }}</td>
            </tr>
          </tbody>
        </table>
      </div>
    </section>

    <section v-if="unmapped.length">
      <h2>Tags without an item</h2>
      <p class="soft small">Say what one means, and the documents already kept are read again by it: nothing is fetched.</p>
      <table class="lined narrow">
        <thead>
          <tr><th>Tag</th><th class="n">Documents</th><th class="n">Companies</th><th>Such as</th><th>Means</th></tr>
        </thead>
        <tbody>
          <tr v-for="u in unmapped" :key="u.source + u.tag">
            <td class="code">{{ u.tag }}</td>
            <td class="n">{{ u.documents.toLocaleString('en-GB') }}</td>
            <td class="n">{{ u.companies.toLocaleString('en-GB') }}</td>
            <td class="soft">{{ u.example }}</td>
            <td>
              <form @submit.prevent="map(u)">
                <input v-model="meant[u.tag]" class="field code" :aria-label="`What ${u.tag} means`" list="items" placeholder="an item" />
                <button class="plain" :disabled="!meant[u.tag]?.trim()">Keep</button>
              </form>
            </td>
          </tr>
        </tbody>
      </table>
      <datalist id="items"><option v-for="item in items" :key="item" :value="item" /></datalist>
    </section>
    <p v-if="said" class="soft" role="status">{{ said }}</p>

    <section v-if="sources?.length">
      <h2>Schedules</h2>
      <table v-if="schedules.length" class="lined">
        <thead>
          <tr><th>Schedule</th><th>Collects</th><th>When</th><th>Next</th><th>Last</th><th class="n">What changed</th><th>Tells</th><th></th></tr>
        </thead>
        <tbody>
          <tr v-for="s in schedules" :key="s.name">
            <td>{{ s.name }}</td>
            <td>{{ s.source }}{{ s.list ? `, ${s.list}` : '' }}</td>
            <td>{{ when(s) }}</td>
            <td>{{ s.paused ? 'held' : s.next_at ? instant(s.next_at) : 'when asked' }}</td>
            <td>
              <router-link v-if="s.last_run" :to="{ name: 'run', params: { id: s.last_run } }">run {{ s.last_run }}, {{ s.last_state?.replace('_', ' ') }}</router-link>
              <span v-else class="soft">never</span>
            </td>
            <td class="n">{{ s.last_facts === null ? 'nothing yet' : `${s.last_facts.toLocaleString('en-GB')} facts` }}</td>
            <td class="soft tells" :title="s.notify.join(', ')">{{ s.notify.join(', ') || 'nobody' }}</td>
            <td class="n">
              <button class="link" @click="attempt(async () => { await collecting.runSchedule(s.name); await look() })">Run now</button>
              <button class="link" @click="attempt(async () => { await collecting.holdSchedule(s.name, !s.paused); await look() })">{{ s.paused ? 'Go on' : 'Hold' }}</button>
            </td>
          </tr>
        </tbody>
      </table>
      <form class="fresh" @submit.prevent="keep">
        <label>Name <input v-model="fresh.name" class="field" placeholder="nightly" /></label>
        <label>At, UTC <input v-model="fresh.at" class="field short" placeholder="02:30" /></label>
        <label>Tell <input v-model="fresh.notify" class="field" placeholder="mailto:ada@example.test" /></label>
        <label>Your name <input v-model="who" class="field short" placeholder="Your name" /></label>
        <button class="plain" :disabled="!fresh.name.trim()">Keep a schedule</button>
      </form>
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
.plan {
  display: flex;
  gap: 12px;
  align-items: center;
  padding: 10px 14px;
  margin-top: 10px;
}
.plan p {
  flex: 1;
}
.scroll {
  overflow: auto;
  max-height: 300px;
}
.narrow {
  max-width: 860px;
}
.narrow form {
  display: flex;
  gap: 8px;
}
.fresh {
  display: flex;
  gap: 12px;
  align-items: end;
  margin-top: 10px;
}
.fresh label {
  display: grid;
  gap: 2px;
  font-size: 13px;
}
.short {
  width: 110px;
}
.tells {
  max-width: 200px;
  overflow: hidden;
  text-overflow: ellipsis;
}
td .link + .link {
  margin-left: 10px;
}
.small {
  font-size: 13px;
}
.none {
  padding: 32px 0;
}
</style>

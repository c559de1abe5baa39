<script setup lang="ts">
import { computed, onUnmounted, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'

import * as collecting from '../api/collecting'
import type { Digest, Run } from '../api/types'
import ProblemNote from '../asking/ProblemNote.vue'
import { useAttempt } from '../asking/question'
import { useTitle } from '../asking/title'
import { grouped } from '../figures/numbers'
import PlainTable from '../figures/PlainTable.vue'
import { instant } from '../time/format'
import DigestView from './DigestView.vue'
import RunAnswer from './RunAnswer.vue'
import RunBar from './RunBar.vue'

const route = useRoute()
const router = useRouter()
const run = ref<Run | null>(null)
const digest = ref<Digest | null>(null)
const { attempt, problem } = useAttempt()
const shown = ref<'failed' | 'stored' | 'unchanged' | 'all'>('all')
useTitle(() => [`${String(route.params.id)}, ${run.value?.title ?? ''}`])
const collection = computed(() => run.value?.kind === 'collection')
const open = computed(() => ['queued', 'running', 'paused'].includes(run.value?.state ?? ''))
const view = computed(() => (route.query.view === 'outcomes' || open.value ? 'outcomes' : 'digest'))
const outcomes = computed(() => {
  const order = { failed: 0, stored: 1, unchanged: 2 }
  return (run.value?.outcomes ?? [])
    .filter((o) => shown.value === 'all' || o.state === shown.value)
    .sort((a, b) => order[a.state] - order[b.state])
})
let abort = new AbortController()

async function watchRun(id: number): Promise<void> {
  abort.abort()
  abort = new AbortController()
  digest.value = null
  const work = async (): Promise<void> => {
    run.value = await collecting.run(id)
    if (['queued', 'running'].includes(run.value.state)) {
      let last = 0
      await collecting.follow(
        id,
        (now) => {
          run.value = { ...now, outcomes: run.value?.outcomes ?? [] }
          if (now.done - last > 20) {
            last = now.done
            void collecting.run(id).then((whole) => (run.value = whole))
          }
        },
        abort.signal,
      )
      run.value = await collecting.run(id)
    }
    for (
      let i = 0;
      collection.value && i < 20 && !digest.value && !open.value && run.value.state !== 'cancelled';
      i++
    ) {
      digest.value = await collecting.digest(id).catch(() => null)
      if (!digest.value) await new Promise((go) => setTimeout(go, 300))
    }
  }
  await attempt(work, () => void watchRun(id))
}

watch(() => Number(route.params.id), watchRun, { immediate: true })
onUnmounted(() => abort.abort())

async function command(how: collecting.RunCommand): Promise<void> {
  await attempt(async () => {
    const now = await collecting.command(run.value!.id, how)
    if (how === 'failed') await router.push({ name: 'run', params: { id: now.id } })
    else void watchRun(now.id)
  })
}
</script>

<template>
  <header class="head">
    <div>
      <h1>Run {{ route.params.id }}</h1>
      <p v-if="run" class="soft">
        {{ run.title }} · {{ run.state.replace('_', ' ') }} · began {{ instant(run.created_at)
        }}{{ run.ended_at ? `, ended ${instant(run.ended_at)}` : ''
        }}{{ run.schedule ? ` · schedule ${run.schedule}` : '' }}
      </p>
    </div>
    <div v-if="run" class="buttons">
      <button
        v-if="collection && (run.state === 'running' || run.state === 'queued')"
        class="plain"
        @click="command('pause')"
      >
        Pause
      </button>
      <button v-if="run.state === 'paused'" class="plain go" @click="command('resume')">
        Go on
      </button>
      <button v-if="open" class="plain" @click="command('cancel')">Stop</button>
      <button v-if="!open && run.failed" class="plain go" @click="command('failed')">
        Try the {{ run.failed }} failed again
      </button>
      <router-link class="plain back" :to="{ name: 'collect' }">All runs</router-link>
    </div>
  </header>
  <main v-if="run">
    <RunBar :run="run" words />
    <p v-if="run.waits_until" class="soft">
      The source is left alone until {{ instant(run.waits_until) }}.
    </p>
    <p v-if="run.problem" class="wrong" role="alert">{{ run.problem }}</p>
    <ProblemNote :problem="problem" />
    <RunAnswer v-if="!collection" :run="run" />
    <div v-if="collection" class="tabline tabs-of-run">
      <router-link v-if="!open" :to="{ query: {} }" :class="{ on: view === 'digest' }"
        >What came in</router-link
      >
      <router-link :to="{ query: { view: 'outcomes' } }" :class="{ on: view === 'outcomes' }"
        >Companies</router-link
      >
    </div>
    <template v-if="collection && view === 'outcomes'">
      <div class="filters">
        <button
          v-for="state in ['all', 'failed', 'stored', 'unchanged'] as const"
          :key="state"
          class="plain"
          :class="{ go: shown === state }"
          :aria-pressed="shown === state"
          @click="shown = state"
        >
          {{ state === 'all' ? run.done : run[state] }}
          {{ state === 'all' ? 'all companies' : state }}
        </button>
      </div>
      <div class="scroll" tabindex="0" role="region" aria-label="Companies">
        <PlainTable label="Outcomes by company">
          <thead>
            <tr>
              <th>Company</th>
              <th>Outcome</th>
              <th class="n">New facts</th>
              <th class="n">Requests</th>
              <th>Why</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="o in outcomes" :key="o.subject">
              <th scope="row">{{ o.company ?? o.subject }}</th>
              <td :class="{ wrong: o.state === 'failed', soft: o.state === 'unchanged' }">
                {{ o.state }}
              </td>
              <td class="n">{{ grouped(o.facts) }}</td>
              <td class="n">{{ o.tries }}</td>
              <td class="why soft">{{ o.reason }}</td>
            </tr>
          </tbody>
        </PlainTable>
      </div>
    </template>
    <DigestView v-else-if="digest" :digest="digest" />
    <p v-else-if="collection" class="soft none">
      {{
        run.state === 'cancelled'
          ? 'It was stopped: what it had stored stays, and the next run goes on from there.'
          : 'The digest is being made.'
      }}
    </p>
  </main>
  <main v-else>
    <ProblemNote :problem="problem" />
    <p v-if="!problem" class="soft" role="status">Looking …</p>
  </main>
</template>

<style scoped>
.head {
  display: flex;
  justify-content: space-between;
  gap: 24px;
  padding: 18px 24px 12px;
  border-bottom: 1px solid var(--rule);
}
.head p {
  font-size: 13px;
  margin-top: 2px;
}
.buttons {
  display: flex;
  gap: 8px;
  align-items: start;
}
.back {
  color: var(--ink);
  text-decoration: none;
}
main {
  padding: 16px 24px 32px;
}
.tabs-of-run {
  margin: 14px 0 4px;
}
.filters {
  display: flex;
  gap: 8px;
  margin: 10px 0;
}
.scroll {
  overflow: auto;
  max-height: calc(100vh - 260px);
}
thead th {
  position: sticky;
  top: 0;
  background: var(--paper);
}
.why {
  max-width: 560px;
  overflow: hidden;
  text-overflow: ellipsis;
}
.none {
  padding: 32px 0;
}
</style>

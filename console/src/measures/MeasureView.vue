<script setup lang="ts">
import { computed, defineAsyncComponent, ref, watch } from 'vue'

import { archiveMeasure, measure, measureVersions } from '../api/measures'
import { panel } from '../api/panels'
import { useAddress } from '../asking/address'
import ProblemNote from '../asking/ProblemNote.vue'
import { useAttempt, useQuestion } from '../asking/question'
import { useWho } from '../asking/who'
import { reasonShort } from '../figures/reasons'
import { shortDay } from '../time/format'
import { coverage, valuesOn } from './lies'
import FilledYears from './FilledYears.vue'
import MeasureRests from './MeasureRests.vue'
import SpreadChart from './SpreadChart.vue'

/**
 * One measure: what it means and rests on, how often it is filled, how it lies, how it moved for
 * one company.
 */
const HistoryChart = defineAsyncComponent(() => import('./HistoryChart.vue'))
const props = defineProps<{
  name: string
  knownOn: string
  list: string | undefined
  lists: { name: string; title: string }[]
}>()
const emit = defineEmits<{ edit: []; changed: [] }>()
const { one, set } = useAddress()
const { signed } = useWho()
const { attempt, problem: refused } = useAttempt()
const { answer: page, problem, again } = useQuestion(() => props.name, measure)
const { answer: versions, problem: versionless } = useQuestion(
  () =>
    page.value?.owner && page.value.name === props.name
      ? { name: props.name, version: page.value.version }
      : null,
  (q, signal) => measureVersions(q.name, signal),
)
const usable = computed(
  () => page.value?.name === props.name && page.value.reads !== null && !page.value.archived,
)
const first = computed(() => `${Number(props.knownOn.slice(0, 4)) - 13}-01-01`)
const {
  answer: lies,
  problem: lying,
  loading,
} = useQuestion(
  () =>
    usable.value
      ? {
          question: {
            expressions: [props.name],
            list: props.list,
            known_on: props.knownOn,
            dates: [`${first.value}/${props.knownOn} yearly`, props.knownOn],
            beside: ['reason' as const],
          },
          limit: 50_000,
          summary: false,
        }
      : null,
  panel,
  { keep: false },
)
const years = computed(() => (lies.value ? coverage(lies.value, props.name) : []))
const now = computed(() => (lies.value ? valuesOn(lies.value, props.name, props.knownOn) : null))
const company = computed(() => one('company') ?? '')
const typed = ref(company.value)
watch(company, (c) => (typed.value = c))
const { answer: history, problem: unknown } = useQuestion(
  () =>
    usable.value && company.value
      ? {
          question: {
            expressions: [props.name],
            companies: [company.value],
            known_on: props.knownOn,
            dates: [`${first.value}/${props.knownOn} monthly`],
            beside: ['reason' as const],
          },
          limit: 1_000,
          summary: false,
        }
      : null,
  panel,
  { keep: false },
)
const unit = computed(() => page.value?.reads?.unit ?? 'pure')
async function archive(archived: boolean): Promise<void> {
  if (await attempt(() => archiveMeasure(props.name, signed.value, archived))) {
    await again()
    emit('changed')
  }
}
</script>

<template>
  <article>
    <ProblemNote :problem="problem ?? refused ?? versionless" />
    <template v-if="page">
      <div class="head">
        <h2>{{ page.title }}</h2>
        <span class="code soft">{{ page.name }}</span>
        <span class="tools">
          <router-link
            class="link"
            :to="{ name: 'panels', query: { known_on: knownOn, c: [page.name] } }"
            >in a panel</router-link
          >
          <button class="link" @click="emit('edit')">{{ page.owner ? 'edit' : 'copy' }}</button>
          <button v-if="page.owner" class="link" @click="archive(!page.archived)">
            {{ page.archived ? 'bring back' : 'archive' }}
          </button>
        </span>
      </div>
      <p v-if="page.archived" class="wrong">
        Archived: it stands in no expression until it is brought back.
      </p>
      <p v-if="page.meaning" class="about">{{ page.meaning }}</p>
      <pre class="code formula">{{ page.formula }}</pre>
      <p v-if="page.reads" class="reads">{{ page.reads.words }}</p>
      <p v-else class="wrong">It can no longer be used: {{ page.problem }}</p>
      <p class="soft">
        {{ page.subject_title }} · {{ unit.replaceAll('_', ' ') }} ·
        {{ page.templates.length === 3 ? 'all templates' : page.templates.join(', ') }} ·
        {{ page.owner ? `version ${page.version} by ${page.owner}` : 'ships with the product'
        }}<template v-if="page.source"> · {{ page.source }}</template>
      </p>
      <div class="two">
        <section>
          <template v-if="usable">
            <h3 class="over">
              How it lies on {{ shortDay(knownOn) }}
              <select
                class="field"
                aria-label="Companies"
                :value="list ?? ''"
                @change="set({ list: ($event.target as HTMLSelectElement).value || undefined })"
              >
                <option value="">of all companies active then</option>
                <option v-for="l in lists" :key="l.name" :value="l.name">{{ l.title }}</option>
              </select>
            </h3>
            <ProblemNote :problem="lying" />
            <p v-if="loading && !lies" class="soft">Reckoning …</p>
            <template v-if="now">
              <SpreadChart :values="now.values" :unit="unit" />
              <p v-if="!now.values.length" class="soft">
                No company has a number for it on that day.
              </p>
              <p v-if="now.reasons.length" class="soft">
                Missing:
                <template v-for="([reason, n], i) in now.reasons" :key="reason"
                  >{{ i ? ', ' : '' }}{{ reasonShort(reason) }} {{ n }}</template
                >
              </p>
            </template>
            <h3>How often it is filled</h3>
            <FilledYears v-if="years.length" :years="years" :known-on="knownOn" />
            <h3>Of one company</h3>
            <form @submit.prevent="set({ company: typed.trim() || undefined })">
              <input
                v-model="typed"
                class="field"
                aria-label="A company"
                placeholder="AGK@ZALD"
                spellcheck="false"
              />
              <button class="plain">Show</button>
            </form>
            <ProblemNote :problem="unknown" />
            <template v-if="history"
              ><p>{{ history.title }}, by month as known then</p>
              <HistoryChart :answer="history" :name="name" :unit="unit"
            /></template>
          </template>
        </section>
        <MeasureRests :page="page" :versions="versions ?? []" :known-on="knownOn" />
      </div>
    </template>
  </article>
</template>

<style scoped>
.head {
  display: flex;
  gap: 12px;
  align-items: baseline;
}
.head h2 {
  font-size: 22px;
}
.tools {
  margin-left: auto;
  display: flex;
  gap: 14px;
  font-size: 13px;
}
.about {
  font-size: 15px;
  margin: 4px 0;
}
.formula {
  background: var(--sheet);
  border: 1px solid var(--rule);
  border-radius: 4px;
  padding: 8px 12px;
  margin: 8px 0 6px;
  white-space: pre-wrap;
}
.reads {
  margin-bottom: 4px;
}
.two {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 270px;
  gap: 32px;
}
h3 {
  font-weight: 600;
  font-size: 14px;
  margin: 16px 0 4px;
}
.over {
  display: flex;
  gap: 12px;
  align-items: center;
  max-width: 460px;
  justify-content: space-between;
}
form {
  display: flex;
  gap: 8px;
  margin: 4px 0 6px;
}
</style>

<script setup lang="ts">
import { computed, defineAsyncComponent } from 'vue'

import { observations, sheetCsv, type SheetQuestion } from '../api/series'
import type { SeriesAsked, SeriesSheet } from '../api/types'
import { useAddress } from '../asking/address'
import ProblemNote from '../asking/ProblemNote.vue'
import { useQuestion } from '../asking/question'
import RefreshTool from '../asking/RefreshTool.vue'
import TabLine from '../asking/TabLine.vue'
import { save } from '../asking/save'
import PageHead from '../shell/PageHead.vue'
import { useStamp } from '../time/stamp'
import ChangesView from './ChangesView.vue'
import SeriesFinder from './SeriesFinder.vue'
import SeriesTable from './SeriesTable.vue'
import SheetEditor from './SheetEditor.vue'
import { common, readSeries, written } from './state'

/** Economic series: found, laid side by side with their steps, as they stood on the stamp. */
const SeriesChart = defineAsyncComponent(() => import('./SeriesChart.vue'))
const VintagesView = defineAsyncComponent(() => import('./VintagesView.vue'))
const CompareView = defineAsyncComponent(() => import('./CompareView.vue'))
const { one, several, set } = useAddress()
const { knownOn } = useStamp()
const VIEWS = { chart: 'Chart', table: 'Table', vintages: 'Vintages', compare: 'Compare' }
const WHICH = {
  known: 'as known on the stamp',
  first: 'as first released',
  last: 'as last revised (looks ahead)',
} as const

const series = computed(() => several('s').map(readSeries))
const start = computed(() => one('start'))
const which = computed(() => (one('which') ?? 'known') as SheetQuestion['which'])
const view = computed(() => one('view') ?? 'chart')
const asked = computed<SheetQuestion | null>(() =>
  series.value.length
    ? { series: series.value, known_on: knownOn.value, start: start.value, which: which.value }
    : null,
)
const { answer, problem, loading, again } = useQuestion(() => asked.value, observations)
/** Beside a single series, what was first released. */
const { answer: firsts, problem: firstless } = useQuestion(
  () =>
    asked.value && answer.value?.series.length === 1 && which.value === 'known'
      ? { ...asked.value, which: 'first' as const }
      : null,
  observations,
  { keep: false },
)
const first = computed(() =>
  answer.value?.series.length === 1 && firsts.value?.series[0]?.key === answer.value.series[0]!.key
    ? firsts.value.series[0]!
    : null,
)
const sheet = computed(() => one('sheet'))
const views = computed(() => (sheet.value ? { ...VIEWS, changes: 'What changed' } : VIEWS))
const put = (list: SeriesAsked[]): void =>
  set({ s: list.length ? list.map(written) : undefined, period: undefined })
const add = (key: string): void =>
  put([...series.value, { key, title: '', transforms: series.value[0]?.transforms ?? [] }])
const open = (kept: SeriesSheet): void =>
  set({
    s: kept.series.map(written),
    start: kept.start ?? undefined,
    sheet: kept.name,
    view: undefined,
  })
const single = computed(() => answer.value?.series[0]?.key)
const shownKey = computed(() =>
  answer.value?.series.some((s) => s.key === one('of')) ? one('of')! : single.value,
)
const subtitle = computed(() => {
  const titles = (answer.value?.series ?? []).map((s) => s.title)
  const what = titles.length > 1 ? common(titles) || 'a sheet' : titles[0]
  return [`${titles.length} series`, what].filter(Boolean).join(': ')
})
async function csv(): Promise<void> {
  if (asked.value) save(await sheetCsv(asked.value), 'series.csv')
}
</script>

<template>
  <PageHead title="Series"
    ><template v-if="answer && series.length">{{ subtitle }}</template></PageHead
  >
  <main class="pair">
    <SeriesFinder class="stays" :known-on="knownOn" :chosen="series.map((s) => s.key)" @add="add" />
    <div class="right" :aria-busy="loading">
      <SheetEditor
        :series="series"
        :start="start"
        :sheet="sheet"
        @change="put"
        @open="open"
        @kept="(n) => set({ sheet: n })"
      >
        <RefreshTool
          v-if="series.length"
          :answer="answer"
          :loading="loading"
          :every="Number(one('every') ?? 0)"
          @again="again"
          @every="(m) => set({ every: m }, true)"
        />
      </SheetEditor>
      <p v-if="!series.length" class="soft none">
        Choose a series on the left, or narrow a family and take all of it as one key: then see it
        as it was on any date, with every vintage.
      </p>
      <template v-else>
        <div class="tools">
          <TabLine
            label="Views"
            :tabs="views"
            :value="view"
            @choose="(name) => set({ view: name === 'chart' ? undefined : name })"
          />
          <label class="end"
            ><span class="soft">from</span
            ><input
              class="field short"
              :value="start ?? ''"
              aria-label="The first period"
              placeholder="2000"
              spellcheck="false"
              @change="
                set({ start: ($event.target as HTMLInputElement).value.trim() || undefined })
              "
          /></label>
          <select
            v-if="view === 'chart' || view === 'table'"
            class="field"
            aria-label="Which release"
            :value="which"
            @change="
              set({
                which:
                  ($event.target as HTMLSelectElement).value === 'known'
                    ? undefined
                    : ($event.target as HTMLSelectElement).value,
              })
            "
          >
            <option v-for="(title, name) in WHICH" :key="name" :value="name">{{ title }}</option>
          </select>
        </div>
        <ProblemNote :problem="problem ?? firstless" />
        <div v-if="answer && !problem" :class="{ waiting: loading }">
          <SeriesChart
            v-if="view === 'chart'"
            :answer="answer"
            :first="first"
            :known-on="knownOn"
            @csv="csv"
          />
          <SeriesTable v-else-if="view === 'table'" :answer="answer" />
          <template v-else-if="view === 'vintages' && shownKey">
            <label v-if="answer.series.length > 1" class="of"
              ><span class="soft">of</span>
              <select
                class="field"
                aria-label="Whose vintages"
                :value="shownKey"
                @change="set({ of: ($event.target as HTMLSelectElement).value, period: undefined })"
              >
                <option v-for="s in answer.series" :key="s.key" :value="s.key">
                  {{ s.title }}
                </option>
              </select>
            </label>
            <VintagesView :series-key="shownKey" :known-on="knownOn" />
          </template>
          <CompareView
            v-else-if="view === 'compare'"
            :series="series"
            :known-on="knownOn"
            :start="start"
          />
          <ChangesView v-else-if="view === 'changes' && sheet" :sheet="sheet" :known-on="knownOn" />
        </div>
      </template>
    </div>
  </main>
</template>

<style scoped>
.tools {
  display: flex;
  gap: 14px;
  align-items: center;
  margin: 12px 0 8px;
  font-size: 13px;
  flex-wrap: wrap;
}
.end {
  margin-left: auto;
}
.tools label,
.of {
  display: inline-flex;
  gap: 6px;
  align-items: center;
  font-size: 13px;
}
.short {
  width: 84px;
}
.none {
  padding: 60px 0;
  max-width: 460px;
}
.waiting {
  opacity: 0.55;
}
</style>

<script setup lang="ts">
import { computed, ref, watch } from 'vue'

import { description, releasesFile, revisions, vintages } from '../api/series'
import { useAddress } from '../asking/address'
import ProblemNote from '../asking/ProblemNote.vue'
import { useQuestion } from '../asking/question'
import { save } from '../asking/save'
import PlainTable from '../figures/PlainTable.vue'
import { bracketed } from '../figures/numbers'
import { shade } from '../figures/shades'
import { instant, longDay, shortDay } from '../time/format'
import RevisionChart from './RevisionChart.vue'

/**
 * Every vintage of a series: periods down, releases across, darker where a release moved a value
 * more.
 */
const props = defineProps<{ seriesKey: string; knownOn: string }>()
const { one, set } = useAddress()
const ACROSS = 14
const DOWN = 24
const {
  answer: found,
  problem,
  loading,
} = useQuestion(() => ({ key: props.seriesKey, known_on: props.knownOn, most: ACROSS }), vintages)
const { answer: about, problem: unknown } = useQuestion(
  () => ({ key: props.seriesKey, known_on: props.knownOn }),
  description,
)
const table = ref<HTMLElement>()
/** It opens at the newest release. */
watch(found, () => table.value?.scrollTo({ left: 100_000 }), { flush: 'post' })
const rows = computed(() => {
  const { periods, values } = found.value ?? { periods: [], values: [] }
  const begin = Math.max(0, periods.length - DOWN)
  return periods
    .slice(begin)
    .map((period, n) => ({ period, values: values[begin + n]! }))
    .reverse()
})
const period = computed(() =>
  found.value?.periods.includes(one('period') ?? '')
    ? one('period')!
    : rows.value.find((r) => r.values.filter((v) => v !== null).length > 1)?.period,
)
const { answer: story, problem: untraced } = useQuestion(
  () =>
    period.value ? { key: props.seriesKey, period: period.value, known_on: props.knownOn } : null,
  revisions,
  { keep: false },
)

async function file(format: 'csv' | 'sdmx'): Promise<void> {
  const asked = { key: props.seriesKey, known_on: props.knownOn }
  save(await releasesFile(asked, format), format === 'csv' ? 'releases.csv' : 'releases.sdmx.csv')
}

/** How far a value moved against the release before, as a share of itself. */
function moved(values: (number | null)[], n: number): number {
  const [before, now] = [values[n - 1], values[n]]
  const rebased = n > 0 && found.value!.releases[n]!.base !== found.value!.releases[n - 1]!.base
  return rebased || before == null || now == null || before === 0
    ? 0
    : (now - before) / Math.abs(before)
}
const largest = computed(() =>
  Math.max(
    1e-9,
    ...rows.value.flatMap((r) =>
      r.values.map((_, n) => Math.min(0.05, Math.abs(moved(r.values, n)))),
    ),
  ),
)
function ground(values: (number | null)[], n: number): Record<string, string> {
  const by = moved(values, n)
  if (!by) return {}
  return shade(by, 15 + 60 * Math.min(1, Math.abs(by) / largest.value))
}
function title(values: (number | null)[], n: number): string {
  const by = moved(values, n)
  if (!by) return ''
  const percent = (Math.abs(by) * 100).toFixed(2)
  return `${by > 0 ? 'up' : 'down'} ${percent} % against the release before`
}
</script>

<template>
  <section :aria-busy="loading">
    <ProblemNote :problem="problem ?? unknown ?? untraced" />
    <dl v-if="about" class="facts">
      <div>
        <dt>Comes</dt>
        <dd>{{ about.days_late ?? '?' }} days after its period</dd>
      </div>
      <div>
        <dt>Revised</dt>
        <dd>
          {{ about.revised ? `${(about.revised * 100).toFixed(0)} % of its periods` : 'never'
          }}<template v-if="about.revision"
            >, by {{ (about.revision * 100).toFixed(2) }} % in the middle</template
          >
        </dd>
      </div>
      <div>
        <dt>Next</dt>
        <dd>
          {{
            about.next_period && about.next_release
              ? `${about.next_period}, about ${longDay(about.next_release)}`
              : 'nothing: it has ended'
          }}
        </dd>
      </div>
      <div v-if="about.bases.length">
        <dt>Base</dt>
        <dd :title="about.bases.map((b) => `${b.base} since ${shortDay(b.since)}`).join('; ')">
          {{ about.base }} since {{ shortDay(about.bases[about.bases.length - 1]!.since) }}
        </dd>
      </div>
    </dl>
    <div v-if="found" class="two">
      <div ref="table" class="scroll" tabindex="0" role="region" aria-label="Vintages">
        <PlainTable label="Values by period and release">
          <thead>
            <tr>
              <th class="stay">Period</th>
              <th
                v-for="(r, n) in found.releases"
                :key="r.at"
                class="n"
                :title="`${instant(r.at)}: ${r.new} new, ${r.revised} revised`"
              >
                {{ shortDay(r.at).replace(/ 20/, ' ’')
                }}<span v-if="n > 0 && r.base !== found.releases[n - 1]!.base" class="turn">{{
                  r.base
                }}</span>
              </th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="r in rows" :key="r.period" :class="{ chosen: r.period === period }">
              <th scope="row" class="stay">
                <button class="link" @click="set({ period: r.period }, true)">
                  {{ r.period }}
                </button>
              </th>
              <td
                v-for="(v, n) in r.values"
                :key="n"
                class="n"
                :style="ground(r.values, n)"
                :title="title(r.values, n)"
              >
                {{ v === null ? '' : bracketed(v, 2, 1) }}
              </td>
            </tr>
            <tr class="soft">
              <th scope="row" class="stay">revised</th>
              <td v-for="r in found.releases" :key="r.at" class="n">{{ r.revised }}</td>
            </tr>
          </tbody>
        </PlainTable>
      </div>
      <div v-if="story">
        <h3>{{ story.period }}, release by release</h3>
        <RevisionChart :revisions="story" />
      </div>
    </div>
    <p v-if="found" class="soft small">
      Green where a release raised a value, red where it cut it, darker the further; no colour where
      it came on another base. The empty corner had not been released yet. All releases:
      <button class="link" @click="file('csv')">CSV</button> ·
      <button class="link" @click="file('sdmx')">SDMX-CSV</button>
    </p>
  </section>
</template>

<style scoped>
.facts {
  display: flex;
  gap: 4px 20px;
  margin: 4px 0 8px;
  flex-wrap: wrap;
}
.facts dt {
  color: var(--soft);
  font-size: 12px;
}
.facts dd {
  margin: 0;
}
.two {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 240px;
  gap: 24px;
}
.scroll {
  overflow: auto;
  max-height: 380px;
}
table {
  font-size: 12.5px;
}
.lined :is(td, tbody th) {
  height: 24px;
  padding-right: 8px;
}
.lined thead th {
  padding-right: 8px;
  white-space: nowrap;
}
.chosen .stay {
  font-weight: 600;
}
h3 {
  font-size: 13px;
}
.turn {
  display: block;
  color: var(--ochre-ink);
}
.small {
  font-size: 12.5px;
}
</style>

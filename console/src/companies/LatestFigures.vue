<script setup lang="ts">
import { computed } from 'vue'

import { screen } from '../api/ledger'
import { calendar } from '../api/market'
import ProblemNote from '../asking/ProblemNote.vue'
import { useQuestion } from '../asking/question'
import { look } from '../figures/look'
import { unitOf } from '../figures/numbers'
import { plusDays } from '../time/days'
import { shortDay } from '../time/format'

/**
 * What one looks for first: the newest figures known on the day, and when the next report is
 * expected.
 */
const props = defineProps<{ company: string; knownOn: string; template: string | null }>()
const LINES: [title: string, column: string][] = [
  ['Revenue', 'revenue.fy'],
  ['Operating margin', 'operating_income.fy / revenue.fy'],
  ['Net income', 'net_income.fy'],
  ['Total assets', 'total_assets'],
  ['Equity', 'shareholders_equity'],
  ['Earnings a share, diluted', 'diluted_eps.fy'],
]
const { answer, problem, loading } = useQuestion(
  () => ({
    rule: 'active',
    list: null,
    companies: [props.company],
    show: LINES.map(([, column], n) => `f${n}: ${column}`),
    known_on: props.knownOn,
    hindsight: false,
  }),
  screen,
)
const cells = computed(() => {
  const found = answer.value
  const row = found?.companies[0]
  return LINES.map(([title], n) => {
    const at = found?.columns.findIndex((c) => c.name === `f${n}`) ?? -1
    const [cell, column] = [row?.cells[at], found?.columns[at]]
    if (!cell || !column) return found || problem.value ? null : { title }
    const percent = title.endsWith('margin')
    return {
      title,
      look: look(cell, { unit: column.unit, percent, template: props.template }),
      unit: unitOf(column.unit, percent, cell.currency),
      period: cell.period,
      known: cell.known_at,
    }
  }).filter((cell) => cell !== null)
})
const { answer: coming, problem: unknown } = useQuestion(
  () => ({
    company: [props.company],
    measure: 'eps',
    known_on: props.knownOn,
    start: props.knownOn,
    end: plusDays(props.knownOn, 400),
  }),
  calendar,
)
const next = computed(() => (coming.value?.entries ?? []).find((e) => e.state !== 'announced'))
</script>

<template>
  <section class="latest" :aria-busy="loading">
    <h2>Latest figures</h2>
    <ProblemNote :problem="problem ?? unknown" />
    <dl>
      <div v-for="cell in cells" :key="cell.title">
        <dt class="soft">{{ cell.title }}</dt>
        <template v-if="cell.look">
          <dd :title="cell.look.about">
            <b :class="{ negative: cell.look.negative, missing: cell.look.missing }">{{
              cell.look.text
            }}</b>
            <span v-if="!cell.look.missing" class="soft">{{ cell.unit }}</span>
          </dd>
          <dd class="soft small">
            {{
              [cell.period, cell.known && `since ${shortDay(cell.known)}`]
                .filter(Boolean)
                .join(', ') || 'none'
            }}
          </dd>
        </template>
        <template v-else>
          <dd><b class="soft">…</b></dd>
          <dd class="small">&nbsp;</dd>
        </template>
      </div>
    </dl>
    <p v-if="next" class="soft">
      Next report expected on {{ shortDay(next.at) }}, for {{ next.period }}.
      <router-link :to="{ name: 'calendar' }">Calendar</router-link>
    </p>
  </section>
</template>

<style scoped>
.latest {
  margin: 4px 0 18px;
}
dl {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(150px, 1fr));
  gap: 8px 20px;
  margin: 8px 0;
}
dt,
.small {
  font-size: 12.5px;
}
dd {
  margin: 0;
}
b {
  font: 600 19px/1.3 var(--title);
}
b + span {
  margin-left: 5px;
}
b.negative {
  color: var(--brick);
}
b.missing {
  color: var(--soft);
  font-size: 15px;
}
</style>

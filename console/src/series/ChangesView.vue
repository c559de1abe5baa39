<script setup lang="ts">
import { computed } from 'vue'

import { sheetChanges } from '../api/series'
import { useAddress } from '../asking/address'
import ProblemNote from '../asking/ProblemNote.vue'
import { useQuestion } from '../asking/question'
import PlainTable from '../figures/PlainTable.vue'
import { bracketed, counted } from '../figures/numbers'
import { monthEnd } from '../time/days'

/** What changed in the series of a kept sheet between an earlier day and the stamp. */
const MOST = 200
const props = defineProps<{ sheet: string; knownOn: string }>()
const { one, set } = useAddress()
const since = computed(() => one('since') ?? monthEnd(props.knownOn, -2))
const { answer: changed, problem: wrong } = useQuestion(
  () => ({ name: props.sheet, since: since.value, known_on: props.knownOn }),
  sheetChanges,
  { keep: false },
)
const shown = (value: number | null, percent: boolean): string =>
  value === null ? '' : percent ? `${bracketed(value * 100, 3)} %` : bracketed(value, 3)
</script>

<template>
  <section>
    <label class="of"
      ><span class="soft">against what was known on</span
      ><input
        type="date"
        class="field"
        :value="since"
        :max="knownOn"
        @change="set({ since: ($event.target as HTMLInputElement).value || undefined })"
    /></label>
    <ProblemNote :problem="wrong" />
    <p v-if="changed && !changed.length" class="soft">Nothing changed.</p>
    <PlainTable v-else-if="changed" label="What changed in the series">
      <thead>
        <tr>
          <th>Series</th>
          <th>Period</th>
          <th>What</th>
          <th class="n">Before</th>
          <th class="n">After</th>
          <th class="n">By</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="c in changed.slice(0, MOST)" :key="c.key + c.period + c.kind">
          <th scope="row" :title="c.key">
            {{ c.title }}<span v-if="c.head !== 'level'" class="soft">, {{ c.head }}</span>
          </th>
          <td>{{ c.period }}</td>
          <td>{{ c.kind }}</td>
          <td class="n">{{ shown(c.before, c.percent) }}</td>
          <td class="n">{{ shown(c.after, c.percent) }}</td>
          <td class="n">
            {{ c.before !== null && c.after !== null ? shown(c.after - c.before, c.percent) : '' }}
          </td>
        </tr>
      </tbody>
    </PlainTable>
    <p v-if="changed && changed.length > MOST" class="soft small">
      The first {{ MOST }} of {{ counted(changed.length, 'change') }}: choose a later day, or keep
      fewer series on the sheet.
    </p>
  </section>
</template>

<style scoped>
.of {
  display: inline-flex;
  gap: 6px;
  align-items: center;
  font-size: 13px;
}
.small {
  font-size: 12.5px;
}
</style>

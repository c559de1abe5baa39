<script setup lang="ts">
import { computed, defineAsyncComponent } from 'vue'

import { estimates } from '../api/market'
import ProblemNote from '../asking/ProblemNote.vue'
import { useQuestion } from '../asking/question'
import { amount, amountIn } from './amounts'

/** What is expected of a company next, and how that walked: nothing where nobody contributed. */
const props = defineProps<{ company: string; knownOn: string }>()
const WalkChart = defineAsyncComponent(() => import('./WalkChart.vue'))
const { answer: found, problem } = useQuestion(
  () => ({ company: props.company, known_on: props.knownOn, measure: 'eps' }),
  estimates,
  { keep: false },
)
const chosen = computed(() => found.value?.periods.find((p) => p.period === found.value?.period))
</script>

<template>
  <ProblemNote :problem="problem" />
  <section v-if="found?.walk.length">
    <h2>
      Estimates
      <span class="soft">
        {{ found.measure }} {{ found.period
        }}<template v-if="chosen && !chosen.consensus.reason"
          >: {{ amount(chosen.consensus.mean, found.unit) }}
          {{ amountIn(found.unit, found.estimate_currency) }} by
          {{ chosen.consensus.count }}</template
        >
        ·
        <router-link :to="{ name: 'estimates', query: { company, known_on: knownOn } }"
          >all periods</router-link
        >
      </span>
    </h2>
    <WalkChart :estimates="found" />
  </section>
</template>

<style scoped>
h2 {
  margin: 18px 0 4px;
}
h2 span {
  font-weight: 400;
  font-size: 13px;
  margin-left: 8px;
}
</style>

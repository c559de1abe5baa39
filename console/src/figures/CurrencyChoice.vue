<script setup lang="ts">
import { computed } from 'vue'

import { currencies } from '../api/catalogue'
import { useQuestion } from '../asking/question'

/** The currency that amounts are shown in: each company's own, or one that there are rates of. */
defineProps<{ value: string | undefined }>()
const emit = defineEmits<{ choose: [currency: string | undefined] }>()
const { answer, problem } = useQuestion(() => ({}), currencies)
const known = computed(() => answer.value ?? [])
</script>

<template>
  <label v-if="known.length || value || problem">
    <span class="visually-hidden">Currency</span>
    <select
      class="field choice"
      :value="value ?? ''"
      @change="emit('choose', ($event.target as HTMLSelectElement).value || undefined)"
    >
      <option value="">Own currency</option>
      <option v-if="problem" disabled>Others cannot be read: {{ problem.title }}</option>
      <option v-for="c in known" :key="c" :value="c">in {{ c }}</option>
      <option v-if="value && !known.includes(value)" :value="value">in {{ value }}</option>
    </select>
  </label>
</template>

<style scoped>
.choice {
  font-size: 13px;
  min-height: 28px;
  padding: 2px 6px;
}
</style>

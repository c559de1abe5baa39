<script setup lang="ts">
import { computed } from 'vue'

import { lists } from '../api/ledger'
import { useQuestion } from '../asking/question'

/** Which list a page is about; everybody without one. */
defineProps<{ value: string | undefined }>()
const emit = defineEmits<{ choose: [list: string | undefined] }>()
const { answer, problem } = useQuestion(
  () => ({}),
  () => lists(),
)
const known = computed(() => answer.value ?? [])
</script>

<template>
  <label>
    <span class="visually-hidden">List</span>
    <select
      class="field"
      :value="value ?? ''"
      @change="emit('choose', ($event.target as HTMLSelectElement).value || undefined)"
    >
      <option value="">All companies</option>
      <option v-if="problem" disabled>Lists cannot be read: {{ problem.title }}</option>
      <option v-for="l in known" :key="l.name" :value="l.name">{{ l.title }}</option>
      <option v-if="value && !known.some((l) => l.name === value)" :value="value">
        {{ value }}
      </option>
    </select>
  </label>
</template>

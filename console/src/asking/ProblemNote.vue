<script setup lang="ts">
import type { Problem } from '../api/http'
import { problemLines } from './problems'

/** What is wrong, where, and the mend; what was asked in vain can be asked again. */
defineProps<{ problem: Problem | null }>()
</script>

<template>
  <div v-if="problem" role="alert" class="problem">
    <p v-for="line in problemLines(problem)" :key="line" class="wrong">{{ line }}</p>
    <button v-if="problem.again" class="plain" @click="problem.again()">Try again</button>
  </div>
</template>

<style scoped>
.problem {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 4px 14px;
  padding: 6px 0;
}
</style>

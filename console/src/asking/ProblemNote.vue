<script setup lang="ts">
import type { Problem } from '../api/http'
import { problemLines } from './problems'

/** What is wrong, where, and the mend. */
defineProps<{ problem: Problem | null }>()
</script>

<template>
  <div v-if="problem" role="alert">
    <p v-for="line in problemLines(problem)" :key="line" class="wrong small">{{ line }}</p>
  </div>
</template>

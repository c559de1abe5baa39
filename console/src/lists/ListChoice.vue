<script setup lang="ts">
import { onMounted, ref } from 'vue'

import { lists } from '../api/ledger'
import type { ListInfo } from '../api/types'

/** Which list a page is about; everybody without one. */
defineProps<{ value: string | undefined }>()
const emit = defineEmits<{ choose: [list: string | undefined] }>()
const known = ref<ListInfo[]>([])
onMounted(async () => {
  known.value = await lists().catch(() => [])
})
</script>

<template>
  <label>
    <span class="visually-hidden">List</span>
    <select class="field" :value="value ?? ''" @change="emit('choose', ($event.target as HTMLSelectElement).value || undefined)">
      <option value="">All companies</option>
      <option v-for="l in known" :key="l.name" :value="l.name">{{ l.title }}</option>
      <option v-if="value && !known.some((l) => l.name === value)" :value="value">{{ value }}</option>
    </select>
  </label>
</template>

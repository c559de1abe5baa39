<script setup lang="ts">
import { onMounted, ref } from 'vue'

import { currencies } from '../api/catalogue'

/** The currency that amounts are shown in: each company's own, or one that there are rates of. */
defineProps<{ value: string | undefined }>()
const emit = defineEmits<{ choose: [currency: string | undefined] }>()
const known = ref<string[]>([])

onMounted(async () => {
  known.value = await currencies().catch(() => [])
})
</script>

<template>
  <label v-if="known.length || value">
    <span class="visually-hidden">Currency</span>
    <select class="field choice" :value="value ?? ''" @change="emit('choose', ($event.target as HTMLSelectElement).value || undefined)">
      <option value="">Own currency</option>
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

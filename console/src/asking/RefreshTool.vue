<script setup lang="ts">
import { onUnmounted, ref, watch } from 'vue'

/**
 * When an answer was read, to read it again by hand, or every so many minutes while the page is
 * open.
 */
const props = defineProps<{ answer: unknown; loading: boolean; every: number }>()
const emit = defineEmits<{ again: []; every: [minutes: number | undefined] }>()
const MINUTES = [1, 5, 15, 60]
const read = ref('')
let timer: ReturnType<typeof setInterval> | undefined

watch(
  () => props.answer,
  (answer) => {
    if (answer) read.value = new Date().toLocaleTimeString('en-GB')
  },
  { immediate: true },
)
watch(
  () => props.every,
  (minutes) => {
    clearInterval(timer)
    if (minutes > 0) timer = setInterval(() => emit('again'), minutes * 60_000)
  },
  { immediate: true },
)
onUnmounted(() => clearInterval(timer))

function choose(event: Event): void {
  const minutes = Number((event.target as HTMLSelectElement).value)
  emit('every', minutes > 0 ? minutes : undefined)
}
</script>

<template>
  <span class="soft refresh">
    <span v-if="read" aria-live="off">read at {{ read }}</span>
    <button class="link" :disabled="loading" @click="emit('again')">Refresh</button>
    <label>
      <span class="visually-hidden">Refresh by itself</span>
      <select class="field" :value="every" @change="choose">
        <option :value="0">by hand</option>
        <option v-for="n in MINUTES" :key="n" :value="n">
          every {{ n === 1 ? 'minute' : `${n} minutes` }}
        </option>
        <option v-if="every > 0 && !MINUTES.includes(every)" :value="every">
          every {{ every }} minutes
        </option>
      </select>
    </label>
  </span>
</template>

<style scoped>
.refresh {
  display: inline-flex;
  gap: 8px;
  align-items: center;
  font-size: 12.5px;
  white-space: nowrap;
}
.refresh .field {
  font-size: 12.5px;
  padding: 2px 4px;
}
</style>

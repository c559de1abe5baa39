<script setup lang="ts">
import { computed, ref, watch } from 'vue'

import { useAddress } from '../asking/address'
import { instant } from '../time/format'
import { useStamp } from '../time/stamp'
import { commas, datesOf, FREQUENCIES, instantOf, partsOf } from './state'

/** When a panel is asked of: dates, or a range of them, or fiscal periods. */
const { one, several, set } = useAddress()
const { knownOn } = useStamp()
const at = computed(() => instantOf(one('at'), knownOn.value))
const by = computed(() => (one('periods') ? 'periods' : 'dates'))
const dates = computed(() => datesOf(several, knownOn.value).join(', '))
const parts = computed(() => partsOf(dates.value))
const typed = ref('')
watch(dates, (d) => (typed.value = d), { immediate: true })

function range(values: Partial<{ from: string; to: string; every: string }>): void {
  const now = { ...parts.value!, ...values }
  set({ dates: `${now.from}/${now.to} ${now.every}` })
}
</script>

<template>
  <div class="when">
    <p v-if="at" class="choice">
      Known at {{ instant(at) }}
      <button class="link" @click="set({ at: undefined })">take the whole day</button>
    </p>
    <p class="choice">
      <button
        class="link"
        :class="{ on: by === 'dates' }"
        :aria-pressed="by === 'dates'"
        @click="set({ periods: undefined })"
      >
        on dates
      </button>
      <button
        class="link"
        :class="{ on: by === 'periods' }"
        :aria-pressed="by === 'periods'"
        @click="set({ periods: `FY${Number(knownOn.slice(0, 4)) - 9}/FY${knownOn.slice(0, 4)}` })"
      >
        by fiscal period
      </button>
    </p>
    <template v-if="by === 'dates'">
      <div v-if="parts" class="range">
        <input
          type="date"
          class="field"
          aria-label="From"
          :value="parts.from"
          :max="parts.to"
          @change="range({ from: ($event.target as HTMLInputElement).value })"
        />
        <input
          type="date"
          class="field"
          aria-label="To"
          :value="parts.to"
          :max="knownOn"
          @change="range({ to: ($event.target as HTMLInputElement).value })"
        />
        <select
          class="field"
          aria-label="How often"
          :value="parts.every"
          @change="range({ every: ($event.target as HTMLSelectElement).value })"
        >
          <option v-for="f in FREQUENCIES" :key="f" :value="f">{{ f }}</option>
        </select>
      </div>
      <input
        v-else
        v-model="typed"
        class="field"
        aria-label="Dates"
        spellcheck="false"
        @change="set({ dates: commas(typed) })"
      />
    </template>
    <input
      v-else
      class="field"
      aria-label="Periods"
      :value="one('periods')"
      placeholder="FY2015/FY2024, FY2020Q1/FY2024Q4, 2015/2024"
      spellcheck="false"
      @change="set({ periods: ($event.target as HTMLInputElement).value.trim() || undefined })"
    />
  </div>
</template>

<style scoped>
.when {
  display: grid;
  gap: 6px;
}
.field {
  width: 100%;
  box-sizing: border-box;
}
.choice {
  display: flex;
  gap: 10px;
  align-items: center;
}
.choice .on {
  font-weight: 600;
  text-decoration: none;
  color: var(--ink);
}
.range {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 6px;
}
.range select {
  grid-column: 1 / -1;
}
</style>

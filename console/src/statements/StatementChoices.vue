<script setup lang="ts">
import CurrencyChoice from '../figures/CurrencyChoice.vue'
import { type Choice, CHOICES, useStatementState } from './state'

/** How statements are shown: frequency, versions, lines, scale, currency, orientation. */
defineProps<{ exportable: boolean }>()
const emit = defineEmits<{ export: [] }>()
const { choice, set, currency, calendar, transposed } = useStatementState()
const names = Object.keys(CHOICES) as Choice[]

/** The options of a choice, and what the address asks for beyond them. */
function options(name: Choice): Record<string, string> {
  const known: Record<string, string> = CHOICES[name]
  const now = choice(name)
  return now in known ? known : { ...known, [now]: name === 'periods' ? `Newest ${now}` : now }
}
</script>

<template>
  <div class="choices">
    <label v-for="name in names" :key="name">
      <span class="visually-hidden">{{ name }}</span>
      <select
        class="field"
        :value="choice(name)"
        @change="set({ [name]: ($event.target as HTMLSelectElement).value })"
      >
        <option v-for="(title, value) in options(name)" :key="value" :value="value">{{ title }}</option>
      </select>
    </label>
    <CurrencyChoice :value="currency" @choose="(chosen) => set({ currency: chosen })" />
    <button
      class="plain"
      :aria-pressed="calendar"
      title="Head the columns by calendar or by fiscal periods"
      @click="set({ calendar: calendar ? undefined : 'yes' })"
    >
      {{ calendar ? 'Calendar' : 'Fiscal' }}
    </button>
    <button
      class="plain"
      :aria-pressed="transposed"
      @click="set({ transposed: transposed ? undefined : 'yes' })"
    >
      Transpose
    </button>
    <button class="plain go" :disabled="!exportable" @click="emit('export')">Export</button>
  </div>
</template>

<style scoped>
.choices {
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
  margin: 8px 0 10px;
}
.choices .field {
  font-size: 13px;
  min-height: 28px;
  padding: 2px 4px;
}
.choices .plain {
  font-size: 13px;
  min-height: 28px;
  padding: 2px 7px;
}
.choices .go {
  margin-left: auto;
}
</style>

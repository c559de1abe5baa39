<script setup lang="ts">
import { computed, ref } from 'vue'

import CurrencyChoice from '../figures/CurrencyChoice.vue'
import { isDay, today } from '../time/days'
import { AT_SIGHT, BEHIND, type Choice, CHOICES, useStatementState } from './state'

/**
 * How statements are shown: three choices at sight, the others behind *More*, which says how many
 * of them are made.
 */
defineProps<{ exportable: boolean }>()
const emit = defineEmits<{ export: [] }>()
const { choice, set, currency, calendar, transposed, ratios, hindsight, compared } =
  useStatementState()
const more = ref(false)
const day = ref(compared.value ?? '')

const made = computed(() => {
  const chosen = BEHIND.filter((name) => choice(name) !== Object.keys(CHOICES[name])[0]).length
  return (
    chosen +
    [calendar.value, transposed.value, !hindsight.value, compared.value].filter(Boolean).length
  )
})

/** The options of a choice, and what the address asks for beyond them. */
function options(name: Choice): Record<string, string> {
  const known: Record<string, string> = CHOICES[name]
  const now = choice(name)
  return now in known ? known : { ...known, [now]: name === 'periods' ? `Newest ${now}` : now }
}

function compare(): void {
  if (!day.value || isDay(day.value)) set({ compare: day.value || undefined })
}

const yes = (on: boolean) => (on ? 'yes' : undefined)
</script>

<template>
  <div class="choices">
    <label v-for="name in AT_SIGHT" :key="name">
      <span class="visually-hidden">{{ name }}</span>
      <select
        class="field"
        :value="choice(name)"
        @change="set({ [name]: ($event.target as HTMLSelectElement).value, figure: undefined })"
      >
        <option v-for="(title, value) in options(name)" :key="value" :value="value">
          {{ title }}
        </option>
      </select>
    </label>
    <CurrencyChoice :value="currency" @choose="(chosen) => set({ currency: chosen })" />
    <label
      class="check"
      title="Growth on the year before, and the share of revenue, under the lines that count"
    >
      <input type="checkbox" :checked="ratios" @change="set({ ratios: yes(!ratios) })" /> Growth and
      margins
    </label>
    <button class="plain" :aria-expanded="more" aria-controls="more-choices" @click="more = !more">
      {{ more ? 'Less' : made ? `More (${made} set)` : 'More' }}
    </button>
    <button class="plain go" :disabled="!exportable" @click="emit('export')">Export</button>
  </div>
  <div v-if="more" id="more-choices" class="choices behind">
    <label v-for="name in BEHIND" :key="name">
      <span class="visually-hidden">{{ name }}</span>
      <select
        class="field"
        :value="choice(name)"
        @change="set({ [name]: ($event.target as HTMLSelectElement).value })"
      >
        <option v-for="(title, value) in options(name)" :key="value" :value="value">
          {{ title }}
        </option>
      </select>
    </label>
    <label class="check"
      ><input type="checkbox" :checked="calendar" @change="set({ calendar: yes(!calendar) })" />
      Calendar heads</label
    >
    <label class="check"
      ><input
        type="checkbox"
        :checked="transposed"
        @change="set({ transposed: yes(!transposed) })"
      />
      Transpose</label
    >
    <label
      class="check"
      title="Mark figures that are restated after the stamp; never part of an export"
      ><input
        type="checkbox"
        :checked="hindsight"
        @change="set({ hindsight: hindsight ? 'off' : undefined })"
      />
      Hindsight</label
    >
    <form class="check" @submit.prevent="compare">
      <label for="compare">Compare with</label>
      <input
        id="compare"
        v-model="day"
        class="field code day"
        placeholder="any date"
        :max="today()"
        :aria-invalid="!!day && !isDay(day)"
        @change="compare"
      />
      <button
        v-if="compared"
        type="button"
        class="link"
        @click="((day = ''), set({ compare: undefined }))"
      >
        Remove
      </button>
    </form>
  </div>
</template>

<style scoped>
.choices {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 6px 8px;
  margin: 8px 0 10px;
}
.behind {
  margin-top: -4px;
  padding-left: 10px;
  border-left: 2px solid var(--rule);
}
.choices .field {
  font-size: 13px;
  min-height: 28px;
  padding: 2px 4px;
}
.choices .plain {
  font-size: 13px;
  min-height: 28px;
  padding: 2px 9px;
}
.choices .go {
  margin-left: auto;
}
.choices .day {
  width: 96px;
  padding: 2px 6px;
}
.check {
  display: flex;
  gap: 5px;
  align-items: center;
  font-size: 13px;
  white-space: nowrap;
  accent-color: var(--spruce);
  margin-right: 4px;
}
</style>

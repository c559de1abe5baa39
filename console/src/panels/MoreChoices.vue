<script setup lang="ts">
import { computed } from 'vue'

import { useAddress } from '../asking/address'
import { commas, LEFT_OUT } from './state'

/** What else is asked of a panel; open while anything of it is. */
const { one, several, set } = useAddress()
const MORE = ['where', 'lag', 'close', 'first', 'ahead', 'leave', 'batch']
const any = computed(() => MORE.some((name) => several(name).length))
const turn = (name: string, event: Event): void =>
  set({ [name]: (event.target as HTMLInputElement).checked ? 'on' : undefined })
function leave(mark: string, event: Event): void {
  const others = several('leave').filter((m) => m !== mark)
  set({ leave: (event.target as HTMLInputElement).checked ? [...others, mark] : others })
}
const text = (name: string, event: Event): void =>
  set({ [name]: (event.target as HTMLInputElement).value.trim() || undefined })
</script>

<template>
  <details :open="any">
    <summary>Rows, versions, returns ahead</summary>
    <label
      >Only rows where
      <input
        class="field code"
        :value="one('where') ?? ''"
        placeholder="market_value > 100mn EUR"
        spellcheck="false"
        @change="text('where', $event)"
    /></label>
    <label
      >Only what was known
      <input
        class="field tiny"
        type="number"
        min="0"
        max="3660"
        :value="Number(one('lag')) || 0"
        @change="
          set({
            lag: Number(($event.target as HTMLInputElement).value)
              ? ($event.target as HTMLInputElement).value
              : undefined,
          })
        "
      />
      days before</label
    >
    <label class="check"
      ><input type="checkbox" :checked="one('close') === 'on'" @change="turn('close', $event)" />
      cut off at the close of each venue</label
    >
    <label class="check"
      ><input type="checkbox" :checked="one('first') === 'on'" @change="turn('first', $event)" />
      figures as first reported</label
    >
    <label
      >Return ahead
      <input
        class="field"
        :value="several('ahead').join(', ')"
        placeholder="total 3mo"
        spellcheck="false"
        @change="set({ ahead: commas(($event.target as HTMLInputElement).value) })"
    /></label>
    <fieldset>
      <legend>Leave out figures that are</legend>
      <label v-for="(words, mark) in LEFT_OUT" :key="mark" class="check"
        ><input
          type="checkbox"
          :checked="several('leave').includes(mark)"
          @change="leave(mark, $event)"
        />
        {{ words }}</label
      >
    </fieldset>
    <label
      >As recorded by batch
      <input
        class="field tiny"
        inputmode="numeric"
        :value="one('batch') ?? ''"
        placeholder="all"
        @change="text('batch', $event)"
    /></label>
  </details>
</template>

<style scoped>
.field {
  width: 100%;
  box-sizing: border-box;
}
details {
  margin-top: 8px;
}
summary {
  cursor: pointer;
  font-weight: 600;
}
details label {
  display: block;
  margin-top: 6px;
}
.tiny {
  width: 64px;
}
.check input {
  width: auto;
}
fieldset {
  border: 0;
  margin: 6px 0 2px;
  padding: 0;
  display: flex;
  flex-wrap: wrap;
  gap: 2px 12px;
}
legend {
  padding: 0;
}
</style>

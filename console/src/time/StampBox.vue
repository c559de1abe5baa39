<script setup lang="ts">
import { computed, nextTick, ref } from 'vue'

import { longDay } from './format'
import { isDay, stepMonth, today } from './days'
import { useStamp } from './stamp'

const { knownOn, isToday, move, step } = useStamp()
const open = ref(false)
const typed = ref('')
const field = ref<HTMLInputElement>()
const wrong = computed(() => typed.value !== '' && !isDay(typed.value))
const later = computed(() => isDay(typed.value) && typed.value > today())

function show(): void {
  typed.value = knownOn.value
  if (open.value) void nextTick(() => setTimeout(() => field.value?.select(), 60))
}

function settle(): void {
  if (!isDay(typed.value) || later.value) return
  move(typed.value)
  open.value = false
}
</script>

<template>
  <div class="when">
    <button
      class="plain step"
      data-step="["
      aria-label="To the month end before"
      @click="step((day) => stepMonth(day, -1))"
    >
      ‹
    </button>
    <v-menu
      v-model="open"
      :close-on-content-click="false"
      location="bottom"
      @update:model-value="show"
    >
      <template #activator="{ props: activator }">
        <button v-bind="activator" class="stamp" title="Change the date">
          <small>Known on{{ ' ' }}</small>
          <b>{{ longDay(knownOn) }}</b>
        </button>
      </template>
      <div role="dialog" aria-label="The date of the stamp">
        <form class="sheet pick" @submit.prevent="settle">
          <label for="stamp-date">As known at the end of</label>
          <input
            id="stamp-date"
            ref="field"
            v-model="typed"
            class="code"
            placeholder="YYYY-MM-DD"
            autofocus
            :aria-invalid="wrong || later"
            aria-describedby="stamp-wrong"
          />
          <p v-if="wrong" id="stamp-wrong" class="wrong" role="alert">
            Write the date as YYYY-MM-DD, such as 2023-06-30.
          </p>
          <p v-else-if="later" id="stamp-wrong" class="wrong" role="alert">
            Nobody knows yet what will be known then.
          </p>
          <button class="plain go" :disabled="!isDay(typed) || later">Set the stamp</button>
        </form>
      </div>
    </v-menu>
    <button
      class="plain step"
      data-step="]"
      :disabled="isToday"
      aria-label="To the next month end"
      @click="step((day) => stepMonth(day, 1))"
    >
      ›
    </button>
    <button class="plain" :disabled="isToday" @click="move(today())">Today</button>
  </div>
</template>

<style scoped>
.when {
  display: flex;
  align-items: center;
  gap: 12px;
}
.stamp {
  border: 2px solid var(--plum);
  outline: 1px solid var(--plum);
  outline-offset: 2px;
  color: var(--plum);
  background: var(--sheet);
  border-radius: 3px;
  padding: 3px 12px 4px;
  width: 186px; /* the longest month: what stands beside does not run from under the pointer */
  text-align: center;
  transform: rotate(-1.2deg);
  cursor: pointer;
}
.stamp:focus-visible {
  outline: 3px solid var(--plum);
}
.stamp small {
  display: block;
  font: 600 9.5px/1.5 var(--body);
  text-transform: uppercase;
  letter-spacing: 0.16em;
}
.stamp b {
  font: 600 17px/1.15 var(--title);
  white-space: nowrap;
}
.step {
  width: 24px;
  padding: 3px 0;
}
.pick {
  display: grid;
  gap: 8px;
  padding: 14px 16px;
  margin-top: 8px;
  width: 232px;
  box-shadow: 0 4px 16px #0002;
}
.pick input {
  border: 1px solid var(--rule);
  border-radius: 4px;
  padding: 4px 8px;
  background: var(--paper);
  color: var(--ink);
  font-size: 14px;
}
.wrong {
  color: var(--brick);
  font-size: 13px;
}
</style>

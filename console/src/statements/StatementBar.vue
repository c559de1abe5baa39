<script setup lang="ts">
import { arrowTabs } from '../asking/tabs'
import CompanyFinder from './CompanyFinder.vue'
import { partOf } from './open'
import { TABS, useStatementState } from './state'

/** Which statement of whom: the tabs, the basis of a single company, and another company. */
defineProps<{ bases: string[] }>()
const { knownOn, companies, tab, basis, set } = useStatementState()

function add(company: string, beside: boolean): void {
  const shown = beside ? [...companies.value, company].join(',') : company
  set({ company: shown, figure: undefined, basis: undefined })
}
</script>

<template>
  <div class="bar">
    <div class="tabline" role="tablist" aria-label="Statements" @keydown="arrowTabs">
      <button
        v-for="(title, name) in TABS"
        :id="`tab-${name}`"
        :key="name"
        class="tab"
        :class="{ on: tab === name }"
        role="tab"
        :aria-selected="tab === name"
        :tabindex="tab === name ? 0 : -1"
        aria-controls="statement"
        @click="set({ statement: name, figure: undefined })"
      >
        {{ title }}
      </button>
    </div>
    <div class="find">
      <label v-if="bases.length || (basis && companies.length === 1)">
        <span class="visually-hidden">basis</span>
        <select
          class="field basis"
          :value="basis ?? ''"
          @change="
            set({
              basis: ($event.target as HTMLSelectElement).value || undefined,
              figure: undefined,
            })
          "
        >
          <option value="">Consolidated</option>
          <option v-for="b in bases" :key="b" :value="b">{{ partOf(b) }}</option>
        </select>
      </label>
      <CompanyFinder :known-on="knownOn" :beside="companies.length > 0" @choose="add" />
    </div>
  </div>
</template>

<style scoped>
.bar {
  display: flex;
  justify-content: space-between;
  align-items: center;
  gap: 16px;
}
.find {
  display: flex;
  gap: 8px;
}
.basis {
  font-size: 13px;
}
</style>

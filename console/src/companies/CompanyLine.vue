<script setup lang="ts">
import type { CompanyInfo } from '../api/types'

/** A company in one line, so that a person can see by eye whether it is the right one. */
defineProps<{ company: CompanyInfo }>()
</script>

<template>
  <span class="line" :title="[company.description, company.website].filter(Boolean).join(' · ')">
    <b>{{ company.name }}</b>
    <span v-for="listing in company.listings" :key="listing.id" class="soft"
      >{{ listing.symbol }}@{{ listing.mic }}</span
    >
    <span class="soft">{{ [company.country, company.seat].filter(Boolean).join(', ') }}</span>
    <span
      v-if="company.listings[0] && company.listings[0].security_type !== 'ordinary'"
      class="soft"
      >{{ company.listings[0].security_type.replace('_', ' ') }}</span
    >
    <span v-if="!company.active" class="ended">not active</span>
  </span>
</template>

<style scoped>
.line {
  display: inline-flex;
  gap: 10px;
  align-items: baseline;
  min-width: 0;
  white-space: nowrap;
}
.line b {
  font-weight: 600;
}
.soft {
  font-size: 12.5px;
}
.ended {
  font-size: 12px;
  border: 1px solid var(--ochre);
  border-radius: 9px;
  padding: 0 7px;
}
</style>

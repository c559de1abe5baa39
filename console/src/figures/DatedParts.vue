<script setup lang="ts">
import type { InputOnDate } from '../api/types'
import { shortDay } from '../time/format'
import { figure, unitOf } from './numbers'
import { reasonFull, reasonShort } from './reasons'

/** What a value of a day was reckoned of, and since when each part is known. */
defineProps<{ parts: InputOnDate[] }>()

function where(part: InputOnDate): string {
  const since = part.known_at && `known since ${shortDay(part.known_at.slice(0, 10))}`
  return [part.about, since].filter(Boolean).join(', ')
}
</script>

<template>
  <ul>
    <li v-for="(part, n) in parts" :key="n">
      <div class="row">
        <span v-if="part.value !== null" class="value"
          >{{ figure(part.value, part.unit, false)
          }}<small>&nbsp;{{ unitOf(part.unit, false, part.currency) }}</small></span
        >
        <span v-else class="value" :title="reasonFull(part.reason)">{{
          reasonShort(part.reason)
        }}</span>
        <span class="where">
          <span class="name">{{ part.expression }}</span><template
            v-if="part.about || part.known_at"
            ><br />{{ where(part) }}</template
          >
        </span>
      </div>
      <DatedParts v-if="part.parts.length" :parts="part.parts" />
    </li>
  </ul>
</template>

<style scoped src="./hanging.css"></style>
<style scoped>
.row {
  grid-template-columns: minmax(84px, max-content) 1fr;
  gap: 10px;
}
.name {
  color: var(--ink);
}
</style>

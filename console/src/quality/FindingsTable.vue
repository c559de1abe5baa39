<script setup lang="ts">
import { computed } from 'vue'

import type { Finding } from '../api/types'
import { bracketed } from '../figures/numbers'

/** What checks found, a figure a row; those that a person can decide on can be chosen. */
const props = defineProps<{ findings: Finding[]; choosable: number[] }>()
const emit = defineEmits<{ open: [finding: Finding] }>()
const chosen = defineModel<number[]>('chosen', { required: true })
const all = computed(() => props.choosable.length > 0 && chosen.value.length === props.choosable.length)

function choose(event: Event): void {
  chosen.value = (event.target as HTMLInputElement).checked ? [...props.choosable] : []
}

/** In full: a slip of scale is seen by its digits. */
function reading(value: number | null, unit: string): string {
  return value === null ? 'none' : `${bracketed(value, 2, 0)} ${unit}`
}
</script>

<template>
  <table class="lined">
    <thead>
      <tr>
        <th>
          <input v-if="choosable.length" type="checkbox" aria-label="Choose all" :checked="all" @change="choose" />
        </th>
        <th>State</th>
        <th>Company</th>
        <th>Line</th>
        <th>Period</th>
        <th class="n">Figure</th>
        <th>What is wrong</th>
        <th>Document</th>
      </tr>
    </thead>
    <tbody>
      <tr v-for="f in findings" :key="f.fact + f.check">
        <td>
          <input
            v-if="choosable.includes(f.fact)"
            v-model="chosen"
            type="checkbox"
            :value="f.fact"
            :aria-label="`Choose ${f.title} of ${f.name}`"
          />
        </td>
        <td :class="{ wrong: f.state === 'quarantined', soft: f.state === 'rejected' }">{{ f.state }}</td>
        <td>
          <router-link :to="{ name: 'statements', query: { company: f.company } }">{{ f.name }}</router-link>
        </td>
        <td>{{ f.title }}</td>
        <td>{{ f.period }}</td>
        <td class="n">{{ reading(f.value, f.unit) }}</td>
        <td class="what">
          {{ f.detail }}<span v-if="f.who" class="soft"> · {{ f.who }}: {{ f.why }}</span>
        </td>
        <td>
          <button class="link" @click="emit('open', f)">{{ f.document }}</button>
        </td>
      </tr>
    </tbody>
  </table>
</template>

<style scoped>
.what {
  white-space: normal;
  min-width: 220px;
  line-height: 1.3;
}
</style>

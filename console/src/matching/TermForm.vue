<script setup lang="ts">
import { ref } from 'vue'

import type { TermsRead } from '../api/types'
import type { Scope } from './scope'

/** What is to be matched: pasted, dropped or opened, and among what it is sought. */
defineProps<{ read: TermsRead | null }>()
const emit = defineEmits<{ paste: []; give: [content: Blob, column?: string] }>()
const text = defineModel<string>('text', { required: true })
const scope = defineModel<Scope>('scope', { required: true })
const TYPES: Scope['types'] = [
  'ordinary',
  'preference',
  'depositary_receipt',
  'fund',
  'unit',
  'warrant',
]
const over = ref(false)
const file = ref<Blob | null>(null)

function give(content: Blob | undefined, column?: string): void {
  if (!content) return
  file.value = content
  emit('give', content, column)
}

function dropped(event: DragEvent): void {
  over.value = false
  give(event.dataTransfer?.files[0])
}

/** A pasted table is read again by another column just as a file is. */
function byColumn(event: Event): void {
  give(file.value ?? new Blob([text.value]), (event.target as HTMLSelectElement).value)
}

function pasted(): void {
  file.value = null
  emit('paste')
}

const words = (type: string) => type.replace('_', ' ')
</script>

<template>
  <form
    class="give"
    :class="{ over }"
    @submit.prevent="pasted"
    @dragover.prevent="over = true"
    @dragleave="over = false"
    @drop.prevent="dropped"
  >
    <textarea
      v-model="text"
      data-search
      class="code"
      rows="5"
      aria-label="Names, symbols or identifiers, one a line"
      placeholder="One name, symbol or identifier a line; or a table with heads. Drop a CSV or XLSX file here."
      spellcheck="false"
      @keydown.enter.ctrl.prevent="pasted"
    />
    <div class="how">
      <button class="plain go" :disabled="!text.trim()">Match</button>
      <label class="plain file"
        >Open a file<input
          type="file"
          accept=".csv,.txt,.tsv,.xlsx"
          @change="give(($event.target as HTMLInputElement).files?.[0])"
      /></label>
      <label class="check" title="Companies and symbols of any date, not only of the stamp's"
        ><input v-model="scope.ever" type="checkbox" /> Any date</label
      >
      <label class="check" title="Every listing of a company, not the primary one alone"
        ><input v-model="scope.all_listings" type="checkbox" /> All listings</label
      >
      <details class="types">
        <summary>
          {{
            scope.types.length === 1
              ? words(scope.types[0]!)
              : `${scope.types.length} security types`
          }}
        </summary>
        <div class="sheet">
          <label v-for="t in TYPES" :key="t" class="check">
            <input
              v-model="scope.types"
              type="checkbox"
              :value="t"
              :disabled="scope.types.length === 1 && scope.types[0] === t"
            />
            {{ words(t) }}
          </label>
        </div>
      </details>
      <select
        v-if="read?.columns.length"
        aria-label="Column"
        :value="read.column"
        @change="byColumn"
      >
        <option v-for="column in read.columns" :key="column">{{ column }}</option>
      </select>
    </div>
  </form>
</template>

<style scoped>
.give {
  display: grid;
  gap: 8px;
  grid-template-columns: minmax(0, 1fr) 150px;
  border-radius: 6px;
}
.types {
  position: relative;
  font-size: 13px;
}
.types summary {
  cursor: pointer;
}
.types .sheet {
  position: absolute;
  right: 0;
  z-index: 4;
  padding: 8px 12px;
  width: 170px;
}
.give.over {
  outline: 2px dashed var(--spruce);
  outline-offset: 4px;
}
textarea,
select {
  background: var(--sheet);
  color: var(--ink);
  border: 1px solid var(--rule);
  border-radius: 4px;
  padding: 6px 10px;
}
textarea {
  resize: vertical;
  line-height: 1.45;
}
.how {
  display: grid;
  gap: 8px;
  align-content: start;
}
.file {
  text-align: center;
}
.file input {
  position: absolute;
  width: 1px;
  height: 1px;
  opacity: 0;
}
.file:focus-within {
  outline: 2px solid var(--spruce);
}
.check {
  display: flex;
  gap: 6px;
  font-size: 13px;
  accent-color: var(--spruce);
}
</style>

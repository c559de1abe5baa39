<script setup lang="ts">
import { computed, ref } from 'vue'

import { search } from '../api/catalogue'
import { useQuestion } from '../asking/question'

/** A column to be added to a screen, as an expression; what fits the last word is offered. */
const emit = defineEmits<{ add: [column: string] }>()
const column = ref('')

function add(): void {
  if (column.value.trim()) emit('add', column.value.trim())
  column.value = ''
}

// The last word typed finds measures and items, by what people call them.
const { answer: offered } = useQuestion(
  () => {
    const word = /\w[\w ]+$/.exec(column.value)?.[0].trim()
    return word ? { q: word, kind: ['measure', 'item', 'market', 'attribute'], limit: '10' } : null
  },
  search,
  { apart: true },
)
const suggested = computed(() => {
  const before = column.value.replace(/\w[\w ]*$/, '')
  return (offered.value?.entries ?? []).map((entry) => ({
    value: before + entry.name,
    title: entry.title,
  }))
})
</script>

<template>
  <form @submit.prevent="add">
    <input
      v-model="column"
      class="field code"
      aria-label="Add a column"
      placeholder="Add a column"
      list="measures-and-items"
      spellcheck="false"
      title="A measure or an expression; with a name of its own: margin: operating_income / revenue"
    />
    <datalist id="measures-and-items">
      <option v-for="s in suggested" :key="s.value" :value="s.value">{{ s.title }}</option>
    </datalist>
  </form>
</template>

<style scoped>
.field {
  width: 108px;
  font-size: 12px;
  min-height: 28px;
  padding: 2px 8px;
}
</style>

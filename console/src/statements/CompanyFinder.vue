<script setup lang="ts">
import { ref } from 'vue'

import { companies } from '../api/ledger'
import { useQuestion } from '../asking/question'

/** Another company, by name, symbol or identifier: in the place of the one shown, or beside it. */
const props = defineProps<{ knownOn: string; beside: boolean }>()
const emit = defineEmits<{ choose: [company: string, beside: boolean] }>()
const text = ref('')
const { answer: found } = useQuestion(
  () => (text.value.length > 1 ? { query: text.value, on: props.knownOn, with_inactive: true } : null),
  companies,
  { keep: false },
)

function choose(company: string, beside: boolean): void {
  text.value = ''
  emit('choose', company, beside)
}
</script>

<template>
  <div class="finder">
    <input
      v-model="text"
      data-search
      class="field"
      placeholder="Another company"
      aria-label="Another company"
      spellcheck="false"
      @keydown.esc.stop="text = ''"
    />
    <ul v-if="found?.companies.length" class="sheet">
      <li v-for="c in found.companies.slice(0, 8)" :key="c.id">
        <button class="link" @click="choose(c.id, false)">{{ c.name }}</button>
        <button v-if="beside" class="link soft" :aria-label="`${c.name} beside`" @click="choose(c.id, true)">
          beside
        </button>
      </li>
    </ul>
  </div>
</template>

<style scoped>
.finder {
  position: relative;
}
ul {
  position: absolute;
  right: 0;
  top: 34px;
  z-index: 5;
  list-style: none;
  padding: 6px 12px;
  width: 320px;
}
li {
  display: flex;
  justify-content: space-between;
  padding: 3px 0;
}
</style>

<script setup lang="ts">
import { ref, watch } from 'vue'

import type { Problem } from '../api/http'

/** The rule, run by Enter; an error stands under it with the place, the quote and the mend. */
const props = defineProps<{ rule: string; problem: Problem | null; busy: boolean }>()
const emit = defineEmits<{ run: [rule: string] }>()
const text = ref(props.rule)
watch(
  () => props.rule,
  (rule) => (text.value = rule),
)

function run(): void {
  emit('run', text.value.trim())
}
</script>

<template>
  <form class="rule" @submit.prevent="run">
    <label for="rule">Rule</label>
    <div class="entry" :class="{ wrong: problem }">
      <textarea
        id="rule"
        v-model="text"
        data-search
        class="code"
        :rows="Math.min(6, text.split('\n').length)"
        spellcheck="false"
        autocapitalize="off"
        :aria-invalid="problem !== null"
        aria-describedby="rule-problem"
        @keydown.enter.exact.prevent="run"
      />
      <button class="plain" :class="{ go: text.trim() !== rule }" :disabled="busy || !text.trim()">
        Run
      </button>
    </div>
    <div id="rule-problem" aria-live="polite">
      <p v-for="error in problem?.errors ?? []" :key="error.at" class="mistake">
        <span class="code quote">{{ error.value }}</span>
        <span
          >{{ error.problem }}<template v-if="error.mend">: {{ error.mend }}</template></span
        >
        <span class="soft">{{ error.at }}</span>
      </p>
      <p v-if="problem && problem.errors.length === 0" class="mistake">
        {{ problem.title }}. {{ problem.message }}
      </p>
      <button
        v-if="problem?.again && problem.errors.length === 0"
        class="plain"
        @click="problem.again()"
      >
        Try again
      </button>
    </div>
  </form>
</template>

<style scoped>
.rule {
  display: grid;
  grid-template-columns: auto minmax(0, 1fr);
  gap: 4px 14px;
  align-items: start;
}
label {
  font-weight: 600;
  padding-top: 6px;
}
.entry {
  display: grid;
  grid-template-columns: minmax(0, 1fr) auto;
  gap: 8px;
}
textarea {
  background: var(--sheet);
  color: var(--ink);
  border: 1px solid var(--rule);
  border-radius: 4px;
  padding: 5px 10px;
  font-size: 13px;
  line-height: 20px;
  resize: none;
  min-height: 32px;
}
.entry.wrong textarea {
  border-color: var(--brick);
}
.plain {
  min-height: 32px;
  align-self: start;
}
#rule-problem {
  grid-column: 2;
  min-width: 0;
  overflow-wrap: anywhere;
}
.mistake {
  color: var(--brick);
  font-size: 13px;
  display: flex;
  gap: 10px;
  flex-wrap: wrap;
  padding: 2px 0;
}
.quote {
  text-decoration: underline wavy var(--brick);
  text-underline-offset: 3px;
}
</style>

<script setup lang="ts">
import { ref } from 'vue'

import { keepMeasure } from '../api/measures'
import type { MeasurePage } from '../api/types'
import ProblemNote from '../asking/ProblemNote.vue'
import { useAttempt } from '../asking/question'
import { useWho } from '../asking/who'
import ExpressionBox from './ExpressionBox.vue'

/** A measure as one writes it: new, another version of one's own, or a copy of one that ships. */
const props = defineProps<{ from: MeasurePage | null; subjects: Record<string, string> }>()
const emit = defineEmits<{ kept: [name: string]; close: [] }>()
const own = props.from?.owner ? props.from : null
const name = ref(own?.name ?? (props.from ? `my_${props.from.name}` : ''))
const title = ref(props.from?.title ?? '')
const formula = ref(props.from?.formula ?? '')
const meaning = ref(props.from?.meaning ?? '')
const subject = ref(props.from?.subject ?? 'other')
const { who, signed } = useWho()
const { attempt, problem, busy } = useAttempt()

async function keep(): Promise<void> {
  const kept = {
    formula: formula.value,
    title: title.value,
    meaning: meaning.value,
    subject: subject.value,
    who: signed.value,
    templates: props.from?.templates ?? [],
    source: props.from?.source ?? '',
    synonyms: own?.synonyms ?? [],
  }
  if (await attempt(() => keepMeasure(name.value.trim(), kept))) emit('kept', name.value.trim())
}
</script>

<template>
  <form @submit.prevent="keep">
    <h2>{{ own ? `Another version of ${own.title}` : 'A new measure' }}</h2>
    <label for="m-name">Name</label>
    <input
      id="m-name"
      v-model="name"
      class="field code"
      :disabled="!!own"
      placeholder="cash_return"
      spellcheck="false"
      required
    />
    <label for="m-formula">Formula</label>
    <ExpressionBox
      id="m-formula"
      v-model="formula"
      label="Formula"
      :rows="3"
      placeholder="free_cash_flow / invested_capital"
      @enter="keep"
    />
    <label for="m-title">Title</label>
    <input id="m-title" v-model="title" class="field" placeholder="Cash return" />
    <label for="m-meaning">Meaning</label>
    <input id="m-meaning" v-model="meaning" class="field" placeholder="What it is, in a sentence" />
    <label for="m-subject">Subject</label>
    <select id="m-subject" v-model="subject" class="field">
      <option v-for="(word, code) in subjects" :key="code" :value="code">{{ word }}</option>
    </select>
    <label for="m-who">Kept by</label>
    <input id="m-who" v-model="who" class="field" placeholder="your name" />
    <div class="row">
      <ProblemNote :problem="problem" />
      <button class="plain go" :disabled="busy || !formula.trim() || !name.trim()">Keep</button>
      <button type="button" class="link" @click="emit('close')">do not keep</button>
    </div>
  </form>
</template>

<style scoped>
form {
  display: grid;
  grid-template-columns: 90px minmax(0, 560px);
  gap: 8px 12px;
  align-items: start;
}
h2,
.row {
  grid-column: 1 / -1;
}
label {
  padding-top: 6px;
  font-weight: 600;
}
.row {
  display: flex;
  gap: 14px;
  align-items: center;
}
select {
  justify-self: start;
}
</style>

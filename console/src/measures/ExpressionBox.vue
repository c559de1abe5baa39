<script setup lang="ts">
import { computed, nextTick, ref, watch } from 'vue'

import { search } from '../api/catalogue'
import { check } from '../api/measures'
import type { CatalogueEntry } from '../api/types'
import { useQuestion } from '../asking/question'
import { completed, placeOf, wordAt } from './words'

/**
 * An expression as one types it: names are completed, what it means stands beneath, a mistake is
 * underlined.
 */
const props = defineProps<{
  modelValue: string
  label: string
  rows?: number
  placeholder?: string
  id: string
}>()
const emit = defineEmits<{ 'update:modelValue': [text: string]; enter: [] }>()
const box = ref<HTMLTextAreaElement>()
const word = ref('')
const at = ref(0)
const settled = ref(props.modelValue)
let later: ReturnType<typeof setTimeout> | undefined
watch(
  () => props.modelValue,
  (text) => {
    clearTimeout(later)
    later = setTimeout(() => (settled.value = text), 250)
  },
)
const plain = computed(() => settled.value.replace(/^\s*[a-z][a-z0-9_]*\s*:/, ''))
const { answer: meaning, problem } = useQuestion(() => plain.value.trim() || null, check, {
  keep: false,
})
const { answer: found } = useQuestion(
  () =>
    word.value.length > 1
      ? { q: word.value, kind: ['measure', 'item', 'market', 'attribute', 'function'], limit: '8' }
      : null,
  search,
  { keep: false },
)
const offered = computed<CatalogueEntry[]>(() =>
  (found.value?.entries ?? []).filter((e) => e.name !== word.value),
)
const wrong = computed(() => problem.value?.errors[0] ?? null)
const marked = computed(() => {
  const place = wrong.value && placeOf(plain.value, wrong.value)
  return place && settled.value === plain.value
    ? [
        plain.value.slice(0, place.begin),
        plain.value.slice(place.begin, place.end),
        plain.value.slice(place.end),
      ]
    : null
})

function typed(event: Event): void {
  const area = event.target as HTMLTextAreaElement
  emit('update:modelValue', area.value)
  word.value = wordAt(area.value, area.selectionStart)
  at.value = 0
}
async function take(entry: CatalogueEntry): Promise<void> {
  const area = box.value!
  const made = completed(
    area.value,
    area.selectionStart,
    entry.kind === 'function' ? `${entry.name}(` : entry.name,
  )
  emit('update:modelValue', made.text)
  word.value = ''
  await nextTick()
  area.focus()
  area.setSelectionRange(made.caret, made.caret)
}
function key(event: KeyboardEvent): void {
  if (offered.value.length && (event.key === 'ArrowDown' || event.key === 'ArrowUp')) {
    event.preventDefault()
    at.value =
      (at.value + (event.key === 'ArrowDown' ? 1 : offered.value.length - 1)) % offered.value.length
  } else if (offered.value.length && (event.key === 'Tab' || event.key === 'Enter')) {
    event.preventDefault()
    void take(offered.value[at.value]!)
  } else if (event.key === 'Escape') {
    word.value = ''
  } else if (event.key === 'Enter' && !event.shiftKey) {
    event.preventDefault()
    emit('enter')
  }
}
</script>

<template>
  <div class="box">
    <textarea
      :id="id"
      ref="box"
      class="field code"
      :class="{ bad: wrong }"
      :value="modelValue"
      :rows="Math.max(rows ?? 1, modelValue.split('\n').length)"
      :aria-label="label"
      :placeholder="placeholder"
      spellcheck="false"
      autocapitalize="off"
      aria-autocomplete="list"
      :aria-controls="`${id}-names`"
      :aria-activedescendant="offered.length ? `${id}-name-${at}` : undefined"
      :aria-invalid="wrong !== null"
      :aria-describedby="`${id}-problems`"
      @input="typed"
      @keydown="key"
      @blur="word = ''"
    />
    <ul v-show="offered.length" :id="`${id}-names`" class="names" role="listbox" aria-label="Names">
      <li
        v-for="(entry, n) in offered"
        :id="`${id}-name-${n}`"
        :key="entry.kind + entry.name"
        role="option"
        :aria-selected="n === at"
        :class="{ on: n === at }"
        @mousedown.prevent="take(entry)"
      >
        <span class="code">{{ entry.kind === 'function' ? entry.call : entry.name }}</span><span
          class="soft"
          >{{ entry.title }},
          {{ entry.kind === 'function' ? 'function' : entry.unit.replaceAll('_', ' ') }}</span
        >
      </li>
    </ul>
    <div :id="`${id}-problems`" class="problems" aria-live="polite">
      <template v-if="wrong">
        <p v-if="marked" class="code line">
          <span>{{ marked[0] }}</span><u>{{ marked[1] || '⌃' }}</u
          ><span>{{ marked[2] }}</span>
        </p>
        <p class="wrong">
          {{ wrong.problem }}<template v-if="wrong.mend">: {{ wrong.mend }}</template>
        </p>
      </template>
      <p v-else-if="problem" class="wrong">{{ problem.title }}. {{ problem.message }}</p>
      <p v-else-if="meaning" class="soft">
        <b>{{ meaning.unit === 'truth' ? 'yes or no' : meaning.unit.replaceAll('_', ' ') }}</b> ·
        {{ meaning.words }}
      </p>
    </div>
  </div>
</template>

<style scoped>
.box {
  position: relative;
}
textarea {
  width: 100%;
  resize: none;
  box-sizing: border-box;
  font: 13px/20px var(--code);
}
textarea.bad {
  border-color: var(--brick);
}
.names {
  position: absolute;
  z-index: 4;
  list-style: none;
  background: var(--sheet);
  border: 1px solid var(--rule);
  border-radius: 4px;
  box-shadow: 0 6px 18px rgb(0 0 0 / 12%);
  min-width: 320px;
  max-width: 100%;
}
.names li {
  padding: 4px 10px;
  display: flex;
  gap: 10px;
  font-size: 13px;
  cursor: pointer;
  white-space: nowrap;
  overflow: hidden;
}
.names li.on {
  background: color-mix(in srgb, var(--spruce) 12%, transparent);
}
.problems {
  font-size: 12.5px;
  min-height: 19px;
}
.line {
  white-space: pre-wrap;
  font-size: 12px;
}
.line u {
  text-decoration: underline wavy var(--brick);
  text-underline-offset: 3px;
}
</style>

<script setup lang="ts">
import { computed, onMounted, ref } from 'vue'

import { keepSheet, sheets } from '../api/series'
import type { SeriesAsked, SeriesSheet } from '../api/types'
import { wordsOf } from '../asking/kept'
import ProblemNote from '../asking/ProblemNote.vue'
import { useAttempt } from '../asking/question'
import { useWho } from '../asking/who'
import { STEPS } from './state'

/** What stands on the sheet: each series with its steps in their order; kept under a name, and opened again. */
const props = defineProps<{ series: SeriesAsked[]; start: string | undefined; sheet: string | undefined }>()
const emit = defineEmits<{ change: [series: SeriesAsked[]]; open: [sheet: SeriesSheet]; kept: [name: string] }>()
const { who, signed } = useWho()
const { attempt, problem, busy } = useAttempt()
const known = ref<SeriesSheet[]>([])
const name = ref('')
const title = ref('')
const keeping = ref(false)
const read = async (): Promise<void> => void (known.value = await sheets().catch(() => []))
onMounted(read)

function put(n: number, transforms: string[]): void {
  emit('change', props.series.map((s, m) => (m === n ? { ...s, transforms } : s)))
}
function add(n: number, event: Event): void {
  const box = event.target as HTMLInputElement
  const step = box.value.trim()
  box.value = ''
  if (step) put(n, [...(props.series[n]!.transforms ?? []), step])
}
const toAll = (): void => emit('change', props.series.map((s) => ({ ...s, transforms: props.series[0]!.transforms })))
const alike = computed(() => new Set(props.series.map((s) => (s.transforms ?? []).join())).size < 2)
function open(event: Event): void {
  const found = known.value.find((s) => s.name === (event.target as HTMLSelectElement).value)
  if (found) emit('open', found)
}
async function keep(): Promise<void> {
  const own = known.value.find((s) => s.name === name.value.trim())
  const words = wordsOf(own, title.value)
  const asked = { ...words, series: props.series, start: props.start, who: signed.value }
  if (await attempt(() => keepSheet(name.value.trim(), asked))) {
    keeping.value = false
    emit('kept', name.value.trim())
    await read()
  }
}
function begin(): void {
  keeping.value = !keeping.value
  const own = known.value.find((s) => s.name === props.sheet)
  name.value = own?.name ?? ''
  title.value = own?.title ?? ''
}
</script>

<template>
  <section aria-label="The sheet" class="editor">
    <div class="head">
      <h2>On the sheet</h2>
      <slot />
      <select class="field" aria-label="Open a kept sheet" :value="sheet ?? ''" @change="open">
        <option value="" disabled>{{ known.length ? 'Open a kept sheet …' : 'No sheet is kept yet' }}</option>
        <option v-for="s in known" :key="s.name" :value="s.name">{{ s.title }}, version {{ s.version }}</option>
      </select>
      <button v-if="series.length" class="link" @click="begin">{{ keeping ? 'do not keep' : 'keep it' }}</button>
    </div>
    <form v-if="keeping" class="keep" @submit.prevent="keep">
      <input v-model="name" class="field" aria-label="Name" placeholder="name: house-prices" spellcheck="false" required />
      <input v-model="title" class="field wide" aria-label="Title" placeholder="title" />
      <input v-model="who" class="field" aria-label="Your name" placeholder="your name" />
      <button class="plain go" :disabled="busy">Keep</button>
    </form>
    <ProblemNote :problem="problem" />
    <ol v-if="series.length">
      <li v-for="(s, n) in series" :key="s.key + n">
        <span class="code">{{ s.key }}</span>
        <span v-for="(step, m) in s.transforms ?? []" :key="step + m" class="step">
          {{ step }}
          <button class="link" :aria-label="`Remove ${step} of ${s.key}`" @click="put(n, s.transforms!.filter((_, k) => k !== m))">×</button>
        </span>
        <input class="field add" list="series-steps" :aria-label="`Add a step to ${s.key}`" :placeholder="s.transforms?.length ? 'then …' : 'level; a step …'" @change="add(n, $event)" />
        <button v-if="n === 0 && series.length > 1 && !alike" class="link" @click="toAll">to all</button>
        <button class="link end" :aria-label="`Remove ${s.key} from the sheet`" @click="emit('change', series.filter((_, k) => k !== n))">Remove</button>
      </li>
    </ol>
    <datalist id="series-steps"><option v-for="step in STEPS" :key="step" :value="step" /></datalist>
  </section>
</template>

<style scoped>
.head,
.keep {
  display: flex;
  gap: 12px;
  align-items: center;
}
.head .field {
  margin-left: auto;
  max-width: 300px;
}
.keep {
  margin: 8px 0;
}
.wide {
  flex: 1;
}
ol {
  list-style: none;
  padding: 0;
  margin: 4px 0 0;
  max-height: 132px;
  overflow-y: auto;
}
li {
  display: flex;
  gap: 8px;
  align-items: center;
  flex-wrap: wrap;
  border-bottom: 1px solid var(--rule);
  padding: 3px 0;
}
.step {
  border: 1px solid var(--rule);
  border-radius: 4px;
  background: var(--sheet);
  padding: 0 6px;
  font-size: 13px;
}
.add {
  width: 150px;
  min-height: 26px;
  padding: 1px 8px;
  font-size: 13px;
}
.end {
  margin-left: auto;
}
</style>

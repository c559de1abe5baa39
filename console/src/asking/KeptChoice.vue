<script
  setup
  lang="ts"
  generic="Kept extends { name: string; title: string; description: string; version: number }"
>
import { computed, ref } from 'vue'

import { wordsOf } from './kept'
import ProblemNote from './ProblemNote.vue'
import { useAttempt, useQuestion } from './question'
import { useWho } from './who'

/**
 * What is kept under names of what a page asks: one opened again, or what stands there kept as
 * another version.
 */
const props = defineProps<{
  noun: string
  example: string
  open: string | undefined
  keepable: boolean
  read: () => Promise<Kept[]>
  keep: (
    name: string,
    said: { title: string; description: string; who: string },
    own: Kept | undefined,
  ) => Promise<unknown>
}>()
const emit = defineEmits<{ open: [one: Kept]; kept: [name: string] }>()
const { who, signed } = useWho()
const { attempt, problem: refused, busy } = useAttempt()
const {
  answer: known,
  problem,
  again,
} = useQuestion(
  () => ({}),
  () => props.read(),
)
const choices = computed(() => known.value ?? [])
const invitation = computed(() => {
  if (!known.value) return '…'
  return known.value.length ? `Open a kept ${props.noun} …` : `No ${props.noun} is kept yet`
})
const keeping = ref(false)
const name = ref('')
const title = ref('')

function chosen(event: Event): void {
  const one = choices.value.find((k) => k.name === (event.target as HTMLSelectElement).value)
  if (one) emit('open', one)
}

function begin(): void {
  keeping.value = !keeping.value
  const own = choices.value.find((k) => k.name === props.open)
  name.value = own?.name ?? ''
  title.value = own?.title ?? ''
}

async function kept(): Promise<void> {
  const under = name.value.trim()
  const own = choices.value.find((k) => k.name === under)
  const words = wordsOf(own, title.value)
  if (await attempt(() => props.keep(under, { ...words, who: signed.value }, own))) {
    keeping.value = false
    emit('kept', under)
    await again()
  }
}
</script>

<template>
  <div class="kept">
    <slot />
    <select class="field" :aria-label="`Open a kept ${noun}`" :value="open ?? ''" @change="chosen">
      <option value="" disabled>{{ invitation }}</option>
      <option v-for="k in choices" :key="k.name" :value="k.name">
        {{ k.title }}, version {{ k.version }}
      </option>
    </select>
    <button v-if="keepable" class="link" @click="begin">
      {{ keeping ? 'do not keep' : 'keep it' }}
    </button>
  </div>
  <form v-if="keeping" class="keep" @submit.prevent="kept">
    <input
      v-model="name"
      class="field"
      aria-label="Name"
      :placeholder="`name: ${example}`"
      spellcheck="false"
      required
    />
    <input v-model="title" class="field wide" aria-label="Title" placeholder="title" />
    <input v-model="who" class="field" aria-label="Your name" placeholder="your name" />
    <button class="plain go" :disabled="busy">Keep</button>
  </form>
  <ProblemNote :problem="refused ?? problem" />
</template>

<style scoped>
.kept,
.keep {
  display: flex;
  flex-wrap: wrap;
  gap: 8px 12px;
  align-items: center;
}
.kept .field {
  max-width: 300px;
}
.keep {
  margin: 8px 0;
}
.wide {
  flex: 1;
}
</style>

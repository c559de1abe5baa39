<script setup lang="ts">
import { computed, nextTick, ref, watch } from 'vue'

import { documentText, Problem } from '../api/ledger'
import type { DocumentInfo } from '../api/types'
import { instant } from '../format'

/** A document's raw bytes as the source sent them, the place of the figure marked. */
const props = defineProps<{ document: DocumentInfo | null; place: string }>()
const emit = defineEmits<{ close: [] }>()
const text = ref('')
const problem = ref('')
const body = ref<HTMLElement>()

/** Where the JSON pointer's element stands in the text: the n-th object of the array that it names. */
function locate(source: string, pointer: string): [number, number] | null {
  const [, name, index] = pointer.split('/')
  let at = name ? source.indexOf(`"${name}"`) : -1
  if (at < 0 || index === undefined) return null
  let end = at
  for (let i = 0; i <= Number(index); i++) {
    at = source.indexOf('{', end)
    if (at < 0) return null
    end = source.indexOf('}', at) + 1
  }
  return [at, end]
}

const parts = computed(() => {
  const found = locate(text.value, props.place)
  if (!found) return { before: text.value, marked: '', after: '' }
  return {
    before: text.value.slice(0, found[0]),
    marked: text.value.slice(...found),
    after: text.value.slice(found[1]),
  }
})

watch(
  () => props.document,
  async (document) => {
    text.value = problem.value = ''
    if (!document) return
    try {
      text.value = await documentText(document.sha256)
      await nextTick()
      setTimeout(() => body.value?.querySelector('mark')?.scrollIntoView({ block: 'center' }), 50)
    } catch (error) {
      problem.value = error instanceof Problem ? error.message : 'The document cannot be shown.'
    }
  },
)
</script>

<template>
  <v-dialog :model-value="document !== null" aria-label="Document" max-width="820" scrollable @update:model-value="emit('close')">
    <section v-if="document" class="sheet">
      <header>
        <div>
          <h2>{{ document.title }}</h2>
          <p class="soft">
            {{ document.published_at ? `Published ${instant(document.published_at)}` : 'No publication date given' }} ·
            {{ document.source }} · {{ document.key }} · batch {{ document.batch }}
          </p>
          <p class="code soft address">sha256 {{ document.sha256 }}</p>
        </div>
        <button class="plain" @click="emit('close')">Close</button>
      </header>
      <p v-if="problem" class="wrong" role="alert">{{ problem }}</p>
      <pre v-else ref="body" class="code" tabindex="0">{{ parts.before }}<mark v-if="parts.marked">{{ parts.marked }}</mark>{{ parts.after }}</pre>
    </section>
  </v-dialog>
</template>

<style scoped>
section {
  display: flex;
  flex-direction: column;
  max-height: 80vh;
  background: var(--sheet);
  color: var(--ink);
}
header {
  display: flex;
  justify-content: space-between;
  gap: 16px;
  align-items: start;
  padding: 16px 20px 12px;
  border-bottom: 1px solid var(--rule);
}
h2 {
  font: 600 18px/1.3 var(--title);
}
.address {
  font-size: 11.5px;
  overflow-wrap: anywhere;
}
pre {
  margin: 0;
  padding: 14px 20px;
  overflow: auto;
  line-height: 1.5;
}
mark {
  background: color-mix(in srgb, var(--ochre) 32%, transparent);
  color: inherit;
}
.wrong {
  color: var(--brick);
  padding: 16px 20px;
}
</style>

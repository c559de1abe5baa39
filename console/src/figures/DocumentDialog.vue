<script setup lang="ts">
import { computed, nextTick, ref, watch } from 'vue'

import { documentInfo, documentText } from '../api/ledger'
import ProblemNote from '../asking/ProblemNote.vue'
import { useQuestion } from '../asking/question'
import { instant } from '../time/format'
import { locate } from './locate'

/** A document's raw bytes as the source sent them, the place of the figure marked. */
const props = defineProps<{ address: string | null; place: string }>()
const emit = defineEmits<{ close: [] }>()
const body = ref<HTMLElement>()
const { answer: found, problem } = useQuestion(
  () => props.address,
  async (sha256, signal) => {
    const [document, text] = await Promise.all([
      documentInfo(sha256, signal),
      documentText(sha256, signal),
    ])
    return { document, text }
  },
  { keep: false },
)
const document = computed(() => found.value?.document)
const text = computed(() => found.value?.text ?? null)

const parts = computed(() => {
  const whole = text.value ?? ''
  const found = locate(whole, props.place)
  if (!found) return { before: whole, marked: '', after: '' }
  return {
    before: whole.slice(0, found[0]),
    marked: whole.slice(...found),
    after: whole.slice(found[1]),
  }
})

watch(text, async () => {
  await nextTick()
  setTimeout(() => body.value?.querySelector('mark')?.scrollIntoView({ block: 'center' }), 50)
})
</script>

<template>
  <v-dialog
    :model-value="address !== null"
    aria-label="Document"
    max-width="820"
    scrollable
    @update:model-value="emit('close')"
  >
    <section v-if="address" class="sheet">
      <header>
        <div>
          <h2>{{ document?.title ?? 'Document' }}</h2>
          <p v-if="document" class="soft">
            {{
              document.published_at
                ? `Published ${instant(document.published_at)}`
                : 'No publication date given'
            }}
            · {{ document.source }} · {{ document.key }} · batch {{ document.batch }}
          </p>
          <p class="code soft address">sha256 {{ address }}</p>
        </div>
        <button class="plain" @click="emit('close')">Close</button>
      </header>
      <ProblemNote :problem="problem" />
      <p v-if="text === null && !problem" class="soft looking" role="status">Looking …</p>
      <pre
        v-if="text !== null"
        ref="body"
        class="code"
        tabindex="0">{{ parts.before }}<mark v-if="parts.marked">{{ parts.marked }}</mark>{{ parts.after }}</pre>
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
.looking {
  padding: 16px 20px;
}
mark {
  background: color-mix(in srgb, var(--ochre) 32%, transparent);
  color: inherit;
}
</style>

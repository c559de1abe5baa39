<script setup lang="ts">
import { Comment, computed, Text, useSlots } from 'vue'

import { publications } from '../api/ledger'
import { useQuestion } from '../asking/question'
import { useTitle } from '../asking/title'
import { longDay } from '../time/format'
import PublicationRuler from '../time/PublicationRuler.vue'
import { useStamp } from '../time/stamp'
import StampBox from '../time/StampBox.vue'

/**
 * The head of every page that depends on time: title, stamp and ruler; it says so when the stamp
 * is not today.
 */
const props = defineProps<{
  title: string
  about?: string
  list?: string
  company?: string
  past?: string
}>()
const { knownOn, isToday } = useStamp()
const { answer: published } = useQuestion(
  () => ({ list: props.list, company: props.company }),
  publications,
  { apart: true },
)
const when = computed(
  () =>
    props.past ?? (isToday.value ? '' : `as it was known at the end of ${longDay(knownOn.value)}`),
)
const slots = useSlots()
/** Whether the page says anything of its own before it. */
const says = (): boolean =>
  (slots.default?.() ?? []).some(
    ({ type, children }) => type !== Comment && !(type === Text && !String(children).trim()),
  )
useTitle(() => [props.title, props.about])
</script>

<template>
  <header>
    <div class="title">
      <h1>{{ title }}</h1>
      <p class="soft">
        <slot />
        <span v-if="when" class="past">{{ says() ? ' · ' : '' }}{{ when }}</span>
      </p>
    </div>
    <StampBox />
    <PublicationRuler class="ruler" :publications="published" />
  </header>
</template>

<style scoped>
header {
  position: sticky;
  top: 0;
  z-index: 5;
  background: var(--paper);
  display: grid;
  grid-template-columns: minmax(0, 1fr) auto;
  gap: 0 24px;
  align-items: start;
  padding: 18px 24px 0;
  border-bottom: 1px solid var(--rule);
}
@media (max-height: 520px) {
  header {
    position: static;
  }
}
.title p {
  font-size: 13px;
  margin-top: 2px;
}
.past {
  color: var(--plum);
}
.ruler {
  grid-column: 1 / -1;
  margin-top: 8px;
}
</style>

<script setup lang="ts">
import { computed } from 'vue'

import type { DocumentInfo, Explanation, FigureInput } from '../api/types'
import DatedParts from './DatedParts.vue'
import FigureTree from './FigureTree.vue'
import { figure, unitOf } from './numbers'
import { reasonFull, reasonShort } from './reasons'

/**
 * What a figure was reckoned of: figures of periods, and what lives on dates. One at a time unfolds
 * into what it was formed of.
 */
const props = defineProps<{ found: Explanation; unfolded: string | null }>()
const emit = defineEmits<{
  unfold: [key: string]
  open: [document: DocumentInfo, place: string]
}>()

const missing = (input: FigureInput) => (input.facts.length ? 'withdrawn' : 'not known')

const rows = computed(() => [
  ...props.found.inputs.map((input) => ({
    ...input,
    key: input.expression + input.period_end,
    name: input.title,
    about: `${input.period}, ${input.form}`,
    missing: missing(input),
    why: '',
    nodes: input.tree ? (input.tree.parts.length ? input.tree.parts : [input.tree]) : [],
    parts: [],
  })),
  // Two of one name, such as figures of one measure on two days, are two.
  ...props.found.dated.map((dated, n) => ({
    ...dated,
    key: `${dated.expression} ${n + 1}`,
    name: dated.expression,
    missing: reasonShort(dated.reason),
    why: reasonFull(dated.reason),
    nodes: [],
  })),
])

const opens = (row: (typeof rows.value)[number]) => row.nodes.length > 0 || row.parts.length > 0

// The figure itself, which stands above: only what it was reckoned of is new.
const alone = computed(() => {
  const [only, ...more] = rows.value
  return !more.length && only?.parts.length && only.name === props.found.expression ? only : null
})
</script>

<template>
  <div v-if="alone" class="alone">
    <p v-if="alone.about" class="soft">{{ alone.about }}</p>
    <DatedParts :parts="alone.parts" />
  </div>
  <ul v-else-if="rows.length">
    <li v-for="row in rows" :key="row.key">
      <component
        :is="opens(row) ? 'button' : 'div'"
        class="input"
        :aria-expanded="opens(row) ? unfolded === row.key : undefined"
        @click="opens(row) && emit('unfold', row.key)"
      >
        <span
          >{{ row.name }}<small v-if="row.about">{{ row.about }}</small></span
        >
        <span v-if="row.value !== null" class="value">{{
          figure(row.value, row.unit, false)
        }}</span>
        <span v-else class="value soft" :title="row.why">{{ row.missing }}</span>
        <span class="soft unit">{{ unitOf(row.unit, false, row.currency) }}</span>
      </component>
      <template v-if="unfolded === row.key">
        <FigureTree
          v-if="row.nodes.length"
          :nodes="row.nodes"
          :unit="row.unit"
          :currency="row.currency"
          @open="(document, place) => emit('open', document, place)"
        />
        <DatedParts v-else :parts="row.parts" />
      </template>
    </li>
  </ul>
</template>

<style scoped>
ul {
  list-style: none;
  margin: 8px 0 12px;
}
.alone {
  margin: 8px 0 12px;
  font-size: 13px;
}
.input {
  all: unset;
  display: grid;
  grid-template-columns: minmax(0, 1fr) auto 46px;
  gap: 8px;
  width: 100%;
  padding: 5px 0;
  border-bottom: 1px solid var(--rule);
  align-items: baseline;
}
button.input {
  cursor: pointer;
}
button.input:hover {
  color: var(--spruce);
}
.input:focus-visible {
  outline: 2px solid var(--spruce);
}
.input small {
  display: block;
  color: var(--soft);
  font-size: 12px;
  line-height: 1.3;
  overflow-wrap: anywhere;
}
.unit {
  font-size: 12px;
}
</style>

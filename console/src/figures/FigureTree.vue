<script setup lang="ts">
import type { DocumentInfo, FigureNode } from '../api/types'
import { shortDay } from '../time/format'
import { figure } from './numbers'

/** A figure and what it was formed from, down to what the documents say. */
defineProps<{ nodes: FigureNode[]; unit: string; currency: string | null }>()
const emit = defineEmits<{ open: [document: DocumentInfo, place: string] }>()

type Fact = NonNullable<FigureNode['fact']>

function span(fact: Fact): string {
  const end = shortDay(fact.period_end)
  return fact.period_start ? `${shortDay(fact.period_start)} – ${end}` : `at ${end}`
}

/** What was done to the reported number, in words; a scale is shown beside it. */
function changed(node: FigureNode, fact: Fact): string {
  const turned = fact.turned ? ', sign changed' : ''
  return node.value !== null && fact.value !== node.value ? `${turned}, before a split` : turned
}
</script>

<template>
  <ul>
    <li v-for="(node, n) in nodes" :key="n">
      <div class="row">
        <span class="sign">{{ node.sign > 0 ? '+' : '−' }}</span>
        <span class="value"
          >{{ node.value === null ? 'withdrawn' : figure(node.value, unit, false)
          }}<small v-if="node.currency && node.currency !== currency"
            >&nbsp;{{ node.currency }}</small
          ></span
        >
        <span v-if="node.fact" class="where">
          {{ span(node.fact) }}<br />
          <button class="link" @click="emit('open', node.fact.document, node.fact.place)">
            {{ node.fact.document.title }}</button><br />
          <span class="soft code"
            >{{ node.fact.tag ? `${node.fact.tag}: ` : '' }}{{ node.fact.reported || 'withdrawn'
            }}<template v-if="node.fact.scale">
              × 10<sup>{{ node.fact.scale }}</sup></template
            >{{ changed(node, node.fact) }}</span
          >
          <span class="soft"> · {{ node.fact.source }}, batch {{ node.fact.batch }}</span>
        </span>
        <span v-else class="where soft">{{ node.form }}, to {{ shortDay(node.period_end) }}</span>
      </div>
      <FigureTree
        v-if="node.parts.length"
        :nodes="node.parts"
        :unit="unit"
        :currency="currency"
        @open="(d, p) => emit('open', d, p)"
      />
    </li>
  </ul>
</template>

<style scoped src="./hanging.css"></style>
<style scoped>
.row {
  grid-template-columns: 12px minmax(64px, max-content) 1fr;
  gap: 6px;
}
.where .link {
  text-align: left;
  line-height: 1.3;
}
.code {
  font-size: 11.5px;
}
</style>

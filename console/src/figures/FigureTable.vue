<script setup lang="ts" generic="Row extends { key: string }, Column extends { key: string; unit?: string }">
import { nextTick, ref, watch } from 'vue'

import FigureCell from './FigureCell.vue'
import type { Look } from './look'
import { step } from './steps'

/**
 * A table of figures: what stands before and after them is the page's, given by slots; the figures, their signs, the
 * arrow keys between them and opening one are the same everywhere. What is open stays in view.
 */
const props = defineProps<{
  label: string
  rows: Row[]
  columns: Column[]
  look: (row: number, column: number) => Look
  opened: { row: string; column: string } | null
  strong?: (row: Row) => boolean
  dense?: boolean
  wrap?: boolean
}>()
const emit = defineEmits<{ open: [row: number, column: number] }>()
const body = ref<HTMLElement>()

const isOpen = (row: Row, column: Column) => props.opened?.row === row.key && props.opened.column === column.key

async function arrow(event: KeyboardEvent): Promise<void> {
  const from = (event.target as HTMLElement).dataset.cell
  const to = from && step(from, event.key)
  if (!to) return
  event.preventDefault()
  await nextTick()
  body.value?.querySelector<HTMLElement>(`[data-cell="${to}"]`)?.focus()
}

watch(
  () => [props.opened?.row, props.opened?.column, props.columns.length],
  async () => {
    await nextTick()
    body.value?.querySelector('.figure.on')?.scrollIntoView({ block: 'nearest', inline: 'center' })
  },
  { immediate: true, flush: 'post' },
)
</script>

<template>
  <div class="scroll" tabindex="0" role="region" :aria-label="label">
    <table :class="{ dense, wrap }">
      <thead>
        <tr>
          <slot name="heads-before" />
          <th v-for="(column, c) in columns" :key="column.key" :class="{ t: column.unit === 'text' }">
            <slot name="head" :column="column" :index="c" />
          </th>
          <slot name="heads-after" />
        </tr>
      </thead>
      <tbody ref="body" @keydown="arrow">
        <tr v-for="(row, r) in rows" :key="row.key" :class="{ strong: strong?.(row), on: opened?.row === row.key }">
          <slot name="before" :row="row" :index="r" />
          <FigureCell
            v-for="(column, c) in columns"
            :key="column.key"
            :look="look(r, c)"
            :place="`${r}:${c}`"
            :on="isOpen(row, column)"
            @open="emit('open', r, c)"
          />
          <slot name="after" :row="row" :index="r" />
        </tr>
      </tbody>
    </table>
  </div>
</template>

<style scoped>
.scroll {
  overflow-x: auto;
}
table {
  border-collapse: collapse;
  min-width: 100%;
}
table :deep(th) {
  font-weight: 600;
  font-size: 12.5px;
  line-height: 1.25;
  text-align: right;
  color: var(--ink);
  border-bottom: 1.5px solid var(--ink);
  padding: 3px 9px 4px;
  vertical-align: bottom;
  white-space: nowrap;
}
.wrap :deep(th) {
  white-space: normal;
  min-width: 84px;
}
table :deep(th small) {
  display: block;
  font-weight: 400;
  font-size: 11.5px;
  color: var(--soft);
}
table :deep(td) {
  height: 32px;
  text-align: right;
  border-bottom: 1px solid var(--rule);
  padding: 0 9px;
  white-space: nowrap;
  position: relative;
}
.dense :deep(td) {
  height: 28px;
}
table :deep(.t) {
  text-align: left;
}
table :deep(.first) {
  position: sticky;
  left: 0;
  background: var(--paper);
  padding-left: 0;
  padding-right: 18px;
  z-index: 1;
}
table :deep(.small) {
  font-size: 12.5px;
}
.strong :deep(td),
.strong :deep(.figure) {
  font-weight: 600;
}
.strong :deep(td) {
  border-bottom-color: var(--soft);
}
table:not(.dense) tr.on :deep(td) {
  background: var(--chosen);
}
</style>

<script setup lang="ts">
import { computed, nextTick, ref, watch } from 'vue'

import type { Statement, StatementCell, StatementLine } from '../api/statements'
import { figure, MARKS, reasonFull, reasonShort, shortDay } from '../format'
import { comparable } from './comparable'
import SparkLine from './SparkLine.vue'

/** A statement: lines down, periods across, or turned; arrows move between figures, Enter opens one. */
const props = defineProps<{ found: Statement; calendar: boolean; turned: boolean; chosen: string[]; opened: string | null; scale: string }>()
const emit = defineEmits<{ open: [line: StatementLine, column: number]; choose: [item: string] }>()
const body = ref<HTMLElement>()
const percent = computed(() => props.found.show !== 'amounts')
const heads = computed(() => props.found.columns.map((c) => (props.calendar ? c.calendar : c.label)))

/** What the figures are in: a currency where there are amounts, a scale where there is anything to scale. */
const corner = computed(() => {
  const units = new Set(props.found.lines.map((l) => l.unit))
  const scaled = units.has('money') || units.has('shares') ? props.scale : ''
  if (!units.has('money') && !units.has('money_per_share')) return scaled
  return props.found.currency ? `${props.found.currency} ${scaled}`.trim() : [scaled, 'in each period’s currency'].filter(Boolean).join(', ')
})

function text(line: StatementLine, cell: StatementCell): string {
  if (cell.value === null) return reasonShort(cell.reason, line.applies ? null : props.found.template)
  return figure(cell.value, line.unit, percent.value, props.scale)
}

function about(line: StatementLine, column: number): string {
  const cell = line.cells[column]!
  const said = cell.marks.map((m) => MARKS[m] ?? m)
  if (cell.formed && !cell.marks.includes('implied')) said.push('Formed of other figures.')
  if (cell.restated) said.push('Restated: it first read differently.')
  else if (cell.restated_later) said.push('Restated later: after this date it reads differently.')
  if (cell.reason) said.push(reasonFull(cell.reason))
  if (cell.flags.length) said.push(`Flagged: ${cell.flags.join(', ').replaceAll('_', ' ')}.`)
  if (cell.known_at) said.push(`Reads like this since ${shortDay(cell.known_at)}.`)
  return said.join(' ')
}

/** What is open stays in view, also when the panel beside it takes its place. */
watch(
  () => [props.opened, props.found.columns.length],
  async () => {
    await nextTick()
    body.value?.querySelector('.figure.on')?.scrollIntoView({ block: 'nearest', inline: 'center' })
  },
  { immediate: true, flush: 'post' },
)

async function arrow(event: KeyboardEvent, row: number, column: number): Promise<void> {
  const steps: Record<string, [number, number]> = { ArrowUp: [-1, 0], ArrowDown: [1, 0], ArrowLeft: [0, -1], ArrowRight: [0, 1] }
  const by = steps[event.key]
  if (!by) return
  event.preventDefault()
  const [down, across] = props.turned ? [by[1], by[0]] : by
  await nextTick()
  body.value?.querySelector<HTMLElement>(`[data-cell="${row + down}:${column + across}"]`)?.focus()
}
</script>

<template>
  <div class="scroll" tabindex="0" role="region" :aria-label="`${found.name}, ${found.statement.replace('_', ' ')}`">
    <table v-if="!turned">
      <thead>
        <tr>
          <th class="first t">{{ percent ? '%' : corner }}</th>
          <th v-for="(head, i) in heads" :key="i">
            {{ head }}<small>{{ shortDay(found.columns[i]!.published_at) }}</small>
            <small v-if="!found.currency && found.columns[i]!.currency">{{ found.columns[i]!.currency }}</small>
          </th>
          <th class="t"><small>Trend</small></th>
        </tr>
      </thead>
      <tbody ref="body">
        <tr v-for="(line, row) in found.lines" :key="line.item" :class="{ total: line.indent === 0, chosen: chosen.includes(line.item) }">
          <td class="first t" :style="{ paddingLeft: `${line.indent * 14}px` }">
            <button class="name" :title="`Draw ${line.title}`" :aria-pressed="chosen.includes(line.item)" @click="emit('choose', line.item)">{{ line.title }}<template v-if="line.unit === 'money_per_share' && !percent">, {{ found.currency }}</template></button>
          </td>
          <td
            v-for="(cell, column) in line.cells"
            :key="column"
            :class="{ restated: cell.restated, later: !cell.restated && cell.restated_later }"
          >
            <button
              class="figure"
              :class="{ missing: cell.value === null, negative: (cell.value ?? 0) < 0, formed: cell.formed, on: opened === `${line.item}:${found.columns[column]!.nominal_end}` }"
              :data-cell="`${row}:${column}`"
              :title="about(line, column)"
              :aria-description="about(line, column) || undefined"
              @click="emit('open', line, column)"
              @keydown="arrow($event, row, column)"
            >{{ text(line, cell) }}</button><span v-if="cell.marks.includes('flagged')" class="flag" aria-hidden="true">!</span>
          </td>
          <td class="spark"><SparkLine :values="comparable(found, line)" :title="line.title" /></td>
        </tr>
      </tbody>
    </table>
    <table v-else class="turned">
      <thead>
        <tr>
          <th class="first t">Period<small>{{ percent ? '%' : corner }}</small></th>
          <th class="t">Public since</th>
          <th v-for="line in found.lines" :key="line.item">{{ line.title }}</th>
        </tr>
      </thead>
      <tbody ref="body">
        <tr v-for="(head, column) in heads" :key="column">
          <td class="first t">{{ head }}</td>
          <td class="t soft">{{ shortDay(found.columns[column]!.published_at) }}</td>
          <td
            v-for="(line, row) in found.lines"
            :key="line.item"
            :class="{ restated: line.cells[column]!.restated, later: !line.cells[column]!.restated && line.cells[column]!.restated_later }"
          >
            <button
              class="figure"
              :class="{ missing: line.cells[column]!.value === null, negative: (line.cells[column]!.value ?? 0) < 0, formed: line.cells[column]!.formed }"
              :data-cell="`${row}:${column}`"
              :title="about(line, column)"
              @click="emit('open', line, column)"
              @keydown="arrow($event, row, column)"
            >{{ text(line, line.cells[column]!) }}</button><span v-if="line.cells[column]!.marks.includes('flagged')" class="flag" aria-hidden="true">!</span>
          </td>
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
th {
  font-weight: 600;
  font-size: 12.5px;
  text-align: right;
  color: var(--ink);
  border-bottom: 1.5px solid var(--ink);
  padding: 2px 10px 4px;
  vertical-align: bottom;
  white-space: nowrap;
}
th small {
  display: block;
  font-weight: 400;
  font-size: 11.5px;
  color: var(--soft);
}
.turned th {
  white-space: normal;
  min-width: 84px;
}
td {
  height: 28px;
  text-align: right;
  border-bottom: 1px solid var(--rule);
  padding: 0 10px;
  white-space: nowrap;
  position: relative;
}
.t {
  text-align: left;
}
.first {
  position: sticky;
  left: 0;
  background: var(--paper);
  padding-left: 0;
  padding-right: 18px;
  z-index: 1;
}
.total td,
.total .figure {
  font-weight: 600;
}
.total td {
  border-bottom-color: var(--soft);
}
.chosen .name {
  color: var(--spruce);
}
.name {
  all: unset;
  cursor: pointer;
}
.name:hover {
  color: var(--spruce);
}
.name:focus-visible,
.figure:focus-visible {
  outline: 2px solid var(--spruce);
}
.spark {
  padding-right: 0;
}
.figure {
  all: unset;
  cursor: pointer;
  padding: 3px 2px;
  border-radius: 2px;
}
.figure:hover {
  color: var(--spruce);
  text-decoration: underline;
}
.figure.on {
  outline: 1.5px solid var(--spruce);
}
.figure.formed {
  font-style: italic;
}
.figure.missing {
  color: var(--soft);
  font-size: 12px;
  font-weight: 400;
}
.flag {
  color: var(--ochre);
  font-weight: 700;
  margin-left: 2px;
}
.negative {
  color: var(--brick);
}
</style>

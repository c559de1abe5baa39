<script
  setup
  lang="ts"
  generic="Row extends { key: string }, Column extends { key: string; unit?: string }"
>
import { computed, nextTick, ref, useTemplateRef, watch } from 'vue'

import { useFit } from './fit'
import type { Look } from './look'
import { step } from './steps'

/**
 * A table of figures: what stands before and after them is the page's, given by slots; the
 * figures, their signs, the arrow keys between them and opening one are the same everywhere. The
 * tab key stops at it once. What is open stays in view, and gets the focus back when it is closed.
 * `rowName` and `columnName` say, for who cannot see where a figure stands, what it is of; `sort`
 * names the column by whose figures the rows stand, with `-` before it for the highest first.
 */
const props = defineProps<{
  label: string
  rows: Row[]
  columns: Column[]
  look: (row: number, column: number) => Look
  opened: { row: string; column: string } | null
  rowName: (row: Row) => string
  columnName: (column: Column) => string
  rowClass?: (row: Row) => string
  sort?: string
  sortable?: boolean
  dense?: boolean
  wrap?: boolean
  fromEnd?: boolean
}>()
const emit = defineEmits<{ open: [row: number, column: number]; sort: [by: string | undefined] }>()
const place = useTemplateRef<HTMLElement>('place')
const stop = ref('0:0')
const { spare, first, fit } = useFit(place, props)

const isOpen = (row: Row, column: Column) =>
  props.opened?.row === row.key && props.opened.column === column.key
const at = (key: string): HTMLElement | null =>
  place.value?.querySelector(`[data-cell="${key}"]`) ?? null
/**
 * What a page binds to something in its own columns that can be reached by the arrows: -1 before,
 * the count after.
 */
const stopAt = (row: number, column: number) => ({
  'data-cell': `${row}:${column}`,
  tabindex: stop.value === `${row}:${column}` ? 0 : -1,
})

const looks = computed(() =>
  props.rows.map((_, r) => props.columns.map((_, c) => props.look(r, c))),
)

function spoken(row: Row, column: Column, look: Look): string {
  const what = `${props.rowName(row)}, ${props.columnName(column)}: ${look.currency} ${look.text}`
  return look.about ? `${what}. ${look.about}` : what
}

function key(event: KeyboardEvent): void {
  const from = (event.target as HTMLElement).dataset.cell
  if (!from) return
  for (const to of step(from, event.key, props.rows.length, props.columns.length)) {
    const next = at(to)
    event.preventDefault()
    if (!next) continue
    stop.value = to
    next.focus()
    return
  }
}

function focused(event: FocusEvent): void {
  const to = (event.target as HTMLElement).dataset.cell
  if (to) stop.value = to
}

function pressed(event: MouseEvent): void {
  const cell = (event.target as HTMLElement).closest<HTMLElement>('button.figure')?.dataset.cell
  if (!cell) return
  const [row, column] = cell.split(':').map(Number)
  emit('open', row!, column!)
}

/** By a column: the highest first, then the lowest, then as the page has them. */
function sorted(column: Column): void {
  const now = props.sort
  emit(
    'sort',
    now === `-${column.key}` ? column.key : now === column.key ? undefined : `-${column.key}`,
  )
}

function direction(column: Column): 'ascending' | 'descending' | 'none' | undefined {
  if (!props.sortable) return undefined
  if (props.sort === column.key) return 'ascending'
  return props.sort === `-${column.key}` ? 'descending' : 'none'
}

watch(
  () => [props.opened?.row, props.opened?.column],
  async ([row], before) => {
    await nextTick()
    if (row !== undefined) {
      place.value
        ?.querySelector('.figure.on')
        ?.scrollIntoView({ block: 'nearest', inline: 'center' })
      if (props.fromEnd) void fit(false)
      return
    }
    const r = props.rows.findIndex((x) => x.key === before?.[0])
    const c = props.columns.findIndex((x) => x.key === before?.[1])
    if (r >= 0 && c >= 0) at(`${r}:${c}`)?.focus({ preventScroll: true })
  },
  { immediate: true, flush: 'post' },
)
watch(
  () => [props.rows.length, props.columns.length],
  () => {
    const [row, column] = stop.value.split(':').map(Number)
    if (row! >= props.rows.length || column! >= props.columns.length) stop.value = '0:0'
  },
)
</script>

<template>
  <div
    ref="place"
    class="scroll"
    role="region"
    :aria-label="label"
    :tabindex="columns.length ? undefined : 0"
    :style="
      fromEnd ? { scrollPaddingLeft: `${first}px`, scrollSnapType: 'x proximity' } : undefined
    "
  >
    <table
      :class="{ dense, wrap }"
      :style="spare ? { borderRight: `${spare}px solid transparent` } : undefined"
    >
      <caption class="visually-hidden" v-text="label" />
      <thead>
        <tr>
          <slot name="heads-before" />
          <th
            v-for="(column, c) in columns"
            :key="column.key"
            scope="col"
            class="column"
            :class="{ t: column.unit === 'text' }"
            :aria-sort="direction(column)"
          >
            <slot name="head" :column="column" :index="c" />
            <button
              v-if="sortable"
              class="order"
              :class="{ by: sort?.replace('-', '') === column.key }"
              :aria-label="`Sort by ${columnName(column)}`"
              title="Sort: highest first, lowest first, as they were"
              @click="sorted(column)"
            >
              {{ { ascending: '↑', descending: '↓', none: '↕' }[direction(column)!] }}
            </button>
          </th>
          <slot name="heads-after" />
        </tr>
      </thead>
      <tbody @keydown="key" @focusin="focused" @click="pressed">
        <tr
          v-for="(row, r) in rows"
          :key="row.key"
          :class="[rowClass?.(row), { on: opened?.row === row.key }]"
        >
          <slot name="before" :row="row" :index="r" :stop="stopAt(r, -1)" />
          <td
            v-for="(column, c) in columns"
            :key="column.key"
            :class="{
              restated: looks[r]![c]!.restated,
              later: looks[r]![c]!.later,
              words: looks[r]![c]!.words,
              moved: looks[r]![c]!.was,
            }"
          >
            <span
              v-if="looks[r]![c]!.words"
              :class="{ missing: looks[r]![c]!.missing }"
              :title="looks[r]![c]!.about"
              >{{ looks[r]![c]!.text }}</span><button
              v-else
              class="figure"
              :class="{
                missing: looks[r]![c]!.missing,
                negative: looks[r]![c]!.negative,
                formed: looks[r]![c]!.formed,
                on: isOpen(row, column),
              }"
              :data-cell="`${r}:${c}`"
              :tabindex="stop === `${r}:${c}` ? 0 : -1"
              :title="looks[r]![c]!.about"
              :aria-label="spoken(row, column, looks[r]![c]!)"
            >
              <small v-if="looks[r]![c]!.currency" class="currency"
                >{{ looks[r]![c]!.currency }}&nbsp;</small
              ><small v-if="looks[r]![c]!.was" class="was">{{ looks[r]![c]!.was }} →&nbsp;</small
              >{{ looks[r]![c]!.text }}</button
            ><span v-if="looks[r]![c]!.flagged" class="flag" aria-hidden="true">!</span>
          </td>
          <slot name="after" :row="row" :index="r" :stop="stopAt(r, columns.length)" />
        </tr>
      </tbody>
    </table>
  </div>
</template>

<style scoped>
.scroll {
  overflow: auto;
  max-height: calc(100vh - 126px);
}
table {
  border-collapse: separate;
  border-spacing: 0;
  min-width: 100%;
}
table :deep(th) {
  font-weight: 600;
  font-size: 12.5px;
  line-height: 1.25;
  text-align: right;
  color: var(--ink);
  padding: 3px 9px 4px;
  white-space: nowrap;
}
table :deep(thead th) {
  position: sticky;
  top: 0;
  z-index: 2;
  background: var(--paper);
  border-bottom: 1.5px solid var(--ink);
  vertical-align: bottom;
}
thead th.column {
  scroll-snap-align: start;
}
.wrap :deep(thead th) {
  white-space: normal;
  min-width: 84px;
}
table :deep(th small) {
  display: block;
  font-weight: 400;
  font-size: 11.5px;
  color: var(--soft);
}
table :deep(tbody :is(td, th)) {
  height: 32px;
  text-align: right;
  border-bottom: 1px solid var(--rule);
  padding: 0 9px;
  white-space: nowrap;
}
table :deep(tbody th) {
  font-weight: 400;
  font-size: 14px;
}
tbody td {
  position: relative;
}
.dense :deep(tbody :is(td, th)) {
  height: 28px;
}
table :deep(:is(td, th).t) {
  text-align: left;
}
table :deep(:is(td, th).first) {
  position: sticky;
  left: 0;
  background: var(--paper);
  padding-left: 0;
  padding-right: 18px;
  z-index: 1;
}
table :deep(thead th.first) {
  z-index: 3;
}
table :deep(.small) {
  font-size: 12.5px;
}
tr.strong :deep(:is(td, th)),
tr.strong .figure {
  font-weight: 600;
}
tr.strong :deep(:is(td, th)) {
  border-bottom-color: var(--soft);
}
tr.part :deep(:is(td, th)),
tr.part .figure {
  color: var(--soft);
  font-size: 13px;
}
table tbody tr.quiet :deep(:is(td, th)),
tr.quiet .figure {
  color: var(--soft);
  font-size: 12.5px;
  height: 22px;
  padding-block: 0;
}
table:not(.dense) tr.on :deep(:is(td, th)) {
  background: var(--chosen);
}
.order {
  all: unset;
  cursor: pointer;
  color: var(--soft);
  font-weight: 400;
  padding: 0 2px;
  opacity: 0.55;
}
.order:hover,
.order.by {
  color: var(--spruce);
  opacity: 1;
}
.order:focus-visible {
  outline: 2px solid var(--spruce);
  opacity: 1;
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
.figure:focus-visible {
  outline: 2px solid var(--spruce);
}
.figure.on {
  outline: 1.5px solid var(--spruce);
}
.currency {
  color: var(--soft);
  font-size: 11.5px;
  font-style: normal;
  margin-right: 2px;
}
.was {
  color: var(--plum);
  font-size: 11.5px;
}
td.moved {
  background: color-mix(in srgb, var(--plum) 8%, transparent);
}
.formed {
  font-style: italic;
}
.figure.missing,
.missing {
  color: var(--soft);
  font-size: 12.5px;
  font-weight: 400;
  font-style: normal;
}
.figure.negative {
  color: var(--brick);
}
td.words {
  text-align: left;
}
.flag {
  color: var(--ochre-ink);
  font-weight: 700;
  margin-left: 2px;
}
</style>

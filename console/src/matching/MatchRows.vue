<script setup lang="ts">
import type { MatchRow } from '../api/types'
import CompanyLine from '../companies/CompanyLine.vue'
import { groupOf, inWords } from './outcomes'

/**
 * Terms with their outcomes; of an ambiguous one a candidate is settled on by a press or its
 * number.
 */
defineProps<{ rows: { row: MatchRow; place: number }[] }>()
const emit = defineEmits<{ settle: [row: MatchRow, company: string | null] }>()

function notes(row: MatchRow): string {
  const repair = row.repair.length ? [`did you mean ${row.repair.join(', ')}?`] : []
  return [...row.notes, ...repair].join('; ')
}

/** One keystroke a row: a number takes that candidate of the row in focus. */
function key(event: KeyboardEvent, row: MatchRow): void {
  const candidate = row.candidates[Number(event.key) - 1]
  if (!/^[1-9]$/.test(event.key) || !candidate) return
  event.preventDefault()
  emit('settle', row, candidate.id)
}
</script>

<template>
  <v-virtual-scroll
    :items="rows"
    :height="'calc(100vh - 330px)'"
    class="rows"
    tabindex="0"
    role="region"
    aria-label="Rows"
  >
    <template #default="{ item: { row, place } }">
      <div
        class="row"
        :tabindex="row.candidates.length ? 0 : undefined"
        :data-row="place"
        @keydown="key($event, row)"
      >
        <span class="place soft">{{ place + 1 }}</span>
        <span class="term code" :title="row.term">{{ row.term || '(empty)' }}</span>
        <span class="outcome" :class="groupOf(row)">{{ inWords(groupOf(row)) }}</span>
        <span class="what">
          <CompanyLine v-if="row.company" :company="row.company" />
          <span v-if="row.decided" class="soft note"
            >decided by {{ row.decided }}
            <button class="link" @click="emit('settle', row, null)">undo</button></span
          >
          <span v-if="notes(row)" class="soft note">{{ notes(row) }}</span>
          <span v-if="row.candidates.length" class="candidates">
            <button
              v-for="(c, i) in row.candidates"
              :key="c.id"
              class="candidate"
              :title="`${c.why}, ${c.score.toFixed(2)}`"
              @click="emit('settle', row, c.id)"
            >
              <kbd>{{ i + 1 }}</kbd> <CompanyLine :company="c" />
            </button>
          </span>
        </span>
      </div>
    </template>
  </v-virtual-scroll>
</template>

<style scoped>
.rows {
  border-top: 1.5px solid var(--ink);
}
.row {
  display: grid;
  grid-template-columns: 44px 230px 92px minmax(0, 1fr);
  gap: 10px;
  padding: 6px 0;
  min-height: 34px;
  border-bottom: 1px solid var(--rule);
  align-items: baseline;
}
.row:focus-visible {
  outline: 2px solid var(--spruce);
  outline-offset: -2px;
}
.place {
  text-align: right;
  font-size: 12.5px;
}
.term {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.outcome {
  font-size: 13px;
  font-weight: 600;
}
.outcome.matched {
  color: var(--spruce);
}
.outcome.renamed {
  color: var(--plum);
}
.outcome.invalid,
.outcome.not_found {
  color: var(--brick);
}
.what {
  display: grid;
  gap: 2px;
  min-width: 0;
  overflow: hidden;
}
.note {
  font-size: 12.5px;
}
.candidates {
  display: grid;
  gap: 2px;
  justify-items: start;
}
.candidate {
  all: unset;
  cursor: pointer;
  padding: 1px 4px;
  border-radius: 3px;
}
.candidate:hover,
.candidate:focus-visible {
  background: var(--chosen);
  outline: 1px solid var(--spruce);
}
kbd {
  font: 600 11.5px var(--code);
  border: 1px solid var(--rule);
  border-radius: 3px;
  padding: 0 5px;
}
</style>

<script setup lang="ts">
import type { Column, DocumentInfo, FigureVersion } from '../api/types'
import { instant, longDay } from '../time/format'
import { figure } from './numbers'
import { reasonShort } from './reasons'

/** How a figure read over time, each version with the documents it rests on. */
const props = defineProps<{ versions: FigureVersion[]; column: Column; knownOn: string }>()
defineEmits<{ open: [document: DocumentInfo] }>()

/** What moved a figure of which nothing was published. */
const BECAUSE = {
  split: 'A split of the shares moved it; nothing was restated.',
  fiscal_year: 'Nothing was published of it: its fiscal year end became known.',
  template: 'Nothing was published of it: its template became known.',
  rate: 'Nothing was published of it: a rate became known.',
}

function reading(version: FigureVersion): string {
  if (version.value === null) return reasonShort(version.reason)
  const text = figure(version.value, props.column.unit, props.column.percent)
  return props.column.percent ? `${text} %` : text
}

const restated = (version: FigureVersion, n: number) =>
  n > 0 && version.value !== null && version.documents.length > 0
</script>

<template>
  <h2 class="heading">Versions</h2>
  <ol class="versions">
    <li v-for="(v, n) in versions" :key="v.known_from" :class="{ later: v.later, on: v.standing }">
      <i aria-hidden="true" />
      <div>
        <b>{{ reading(v) }}</b>
        <span class="soft since">{{ instant(v.known_from) }}</span>
        <span v-if="restated(v, n)" class="chip">restated</span>
        <div v-if="v.because" class="soft">{{ BECAUSE[v.because] }}</div>
        <div v-for="document in v.documents" :key="document.sha256" class="document">
          {{ document.title }}
          <button
            class="link"
            :aria-label="`Open ${document.title}`"
            @click="$emit('open', document)"
          >
            open
          </button>
        </div>
        <div v-if="v.later" class="soft">not yet known on {{ longDay(knownOn) }}</div>
      </div>
    </li>
  </ol>
</template>

<style scoped>
.heading {
  margin-top: 4px;
}
ol {
  list-style: none;
}
.since {
  margin-left: 6px;
}
.versions li {
  display: grid;
  grid-template-columns: 14px 1fr;
  gap: 8px;
  padding: 7px 0 0;
  font-size: 13.5px;
}
.versions i {
  width: 9px;
  height: 9px;
  border-radius: 9px;
  border: 1.5px solid var(--plum);
  margin-top: 6px;
}
.versions .on i {
  background: var(--plum);
}
.versions .later i {
  border-color: var(--soft);
}
.versions .later b {
  color: var(--soft);
}
.chip {
  display: inline-block;
  border: 1px solid var(--ochre);
  border-radius: 9px;
  padding: 0 8px;
  font-size: 12px;
  margin-left: 6px;
}
</style>

<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { useRoute } from 'vue-router'

import { measure, measures } from '../api/measures'
import * as ledger from '../api/ledger'
import type { MeasureInfo, MeasurePage } from '../api/types'
import { useAddress } from '../asking/address'
import ProblemNote from '../asking/ProblemNote.vue'
import { useQuestion } from '../asking/question'
import { vLeadsTo, vOneStop } from '../figures/stops'
import PageHead from '../shell/PageHead.vue'
import { useStamp } from '../time/stamp'
import MeasureEditor from './MeasureEditor.vue'
import MeasureView from './MeasureView.vue'

/** The library of measures: by subject, searched; one of them looked at, or written. */
const route = useRoute()
const { one, set, router } = useAddress()
const { knownOn } = useStamp()
const { answer: all, problem, again } = useQuestion(() => ({}), measures)
const { answer: lists, problem: listless } = useQuestion(
  () => ({}),
  () => ledger.lists(),
)
const typed = ref(one('q') ?? '')
watch(typed, (q) => set({ q: q || undefined }, true))
const name = computed(() => (route.params.name ? String(route.params.name) : undefined))
const writing = ref(false)
const from = ref<MeasurePage | null>(null)
watch(name, () => (writing.value = false))
const subjects = computed(() =>
  Object.fromEntries((all.value ?? []).map((m) => [m.subject, m.subject_title])),
)
const choices = computed(() => ({ ...subjects.value, other: 'Other' }))
function meant(m: MeasureInfo): boolean {
  const words = typed.value.toLowerCase().split(/\s+/).filter(Boolean)
  const text = [m.name.replaceAll('_', ' '), m.title, m.meaning, m.owner, m.formula, ...m.synonyms]
    .join(' ')
    .toLowerCase()
  return words.every((w) => text.includes(w))
}
const found = computed(() => (all.value ?? []).filter(meant))
const groups = computed(() =>
  Object.entries(choices.value)
    .map(([code, title]) => ({ code, title, of: found.value.filter((m) => m.subject === code) }))
    .filter((g) => g.of.length),
)
const people = computed(() => (all.value ?? []).filter((m) => m.owner).length)

function to(n: string): object {
  return { name: 'measures', params: { name: n }, query: route.query }
}
async function edit(): Promise<void> {
  from.value = name.value ? await measure(name.value) : null
  writing.value = true
}
function begin(): void {
  from.value = null
  writing.value = true
}
async function kept(n: string): Promise<void> {
  await again()
  writing.value = false
  void router.push(to(n))
}
</script>

<template>
  <PageHead title="Measures"
    ><template v-if="all"
      >{{ all.length - people }} that ship, {{ people }} kept by people</template
    ></PageHead
  >
  <main class="pair">
    <nav class="left stays" aria-label="Measures">
      <div class="ask">
        <input
          v-model="typed"
          v-leads-to="'#measures'"
          data-search
          class="field"
          aria-label="Search measures"
          placeholder="margin, pe, roic …"
          spellcheck="false"
        />
        <button class="plain" @click="begin">New</button>
      </div>
      <ProblemNote :problem="problem ?? listless" />
      <p v-if="all && !found.length" class="soft">
        Nothing is called so. Write it as a new measure, or try fewer words.
      </p>
      <div id="measures" v-one-stop>
        <section v-for="group in groups" :key="group.code">
          <p class="group">{{ group.title }}</p>
          <router-link
            v-for="m in group.of"
            :key="m.name"
            :to="to(m.name)"
            :class="{ on: m.name === name }"
            :title="m.formula"
            >{{ m.title }}<span v-if="m.owner" class="soft"> · {{ m.owner }}</span></router-link
          >
        </section>
      </div>
    </nav>
    <div class="right">
      <MeasureEditor
        v-if="writing"
        :key="from?.name ?? 'new'"
        :from="from"
        :subjects="choices"
        @kept="kept"
        @close="writing = false"
      />
      <MeasureView
        v-else-if="name"
        :name="name"
        :known-on="knownOn"
        :list="one('list')"
        :lists="lists ?? []"
        @edit="edit"
        @changed="again"
      />
      <div v-else class="none soft">
        <p>
          A measure is an expression with a name, so that the whole desk means the same by it.
          Choose one on the left to see what it means, how often it is filled and how it lies; or
          write your own.
        </p>
        <p>
          Its name then stands in any rule, column or panel:
          <span class="code">net_margin.q &gt; 8%</span>.
        </p>
      </div>
    </div>
  </main>
</template>

<style scoped>
main {
  --left: 250px;
}
.left {
  overflow: auto;
  padding-right: 8px;
}
.ask {
  display: flex;
  gap: 8px;
  position: sticky;
  top: 0;
  background: var(--paper);
  padding-bottom: 8px;
}
.ask .field {
  min-width: 0;
  flex: 1;
}
.group {
  font-weight: 600;
  font-size: 12px;
  color: var(--soft);
  margin: 8px 0 2px;
}
.left a {
  display: block;
  padding: 2px 0 2px 8px;
  border-left: 2px solid transparent;
  color: var(--ink);
  font-size: 13.5px;
}
.left a.on {
  border-color: var(--spruce);
  color: var(--spruce);
  font-weight: 600;
}
.none {
  padding: 50px 0;
  max-width: 480px;
  display: grid;
  gap: 10px;
}
</style>

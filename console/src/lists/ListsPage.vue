<script setup lang="ts">
import { computed, ref } from 'vue'

import * as ledger from '../api/ledger'
import type { ListChange } from '../api/types'
import ProblemNote from '../asking/ProblemNote.vue'
import RefreshTool from '../asking/RefreshTool.vue'
import { useAttempt, useQuestion } from '../asking/question'
import { useWho } from '../asking/who'
import FigurePanel, { type OpenFigure } from '../figures/FigurePanel.vue'
import PageHead from '../shell/PageHead.vue'
import ListActions from './ListActions.vue'
import ListHistory from './ListHistory.vue'
import ListIndex from './ListIndex.vue'
import ListTools from './ListTools.vue'
import MembersTable from './MembersTable.vue'
import { columnName, useListState } from './state'

const { route, router, set, ...state } = useListState()
const { knownOn, history, where, show, currency, every, opened, archived } = state
const { signed } = useWho()
const { attempt, problem: changeProblem } = useAttempt()
const changes = ref(0)
const index = ref<InstanceType<typeof ListIndex>>()
const tools = ref<InstanceType<typeof ListTools>>()

const { answer: lists, problem: listsProblem, again: listAgain } = useQuestion(
  () => ({ archived: archived.value }),
  (asked) => ledger.lists(asked.archived),
)
const chosen = computed(() => state.list.value ?? lists.value?.[0]?.name)
const info = computed(() => lists.value?.find((l) => l.name === chosen.value))
const byHand = computed(() => !!info.value && !info.value.rule && !info.value.kept_by)
const { answer: found, problem: membersProblem, loading, again } = useQuestion(
  () =>
    chosen.value
      ? {
          list: chosen.value,
          known_on: knownOn.value,
          where: where.value,
          show: show.value,
          currency: currency.value,
        }
      : null,
  ledger.members,
)
const problem = computed(() => changeProblem.value ?? membersProblem.value ?? listsProblem.value)
const keptBy = computed(() => {
  const list = info.value
  if (list?.rule) return 'Kept by a rule.'
  return list?.kept_by ? `Kept by ${list.kept_by}: copy it to change it.` : 'Kept by hand.'
})
const figure = computed<OpenFigure | null>(() => {
  const at = Number(opened.value?.column)
  const member = found.value?.members.find((m) => m.id === opened.value?.row)
  const column = found.value?.columns[at]
  const cell = member?.cells[at]
  if (!member || !column || !cell) return null
  return { company: member.id, name: member.name, template: null, column, cell }
})

function open(row: number, column: number): void {
  set({ figure: `${found.value!.members[row]!.id}:${column}` })
}

async function change(asked: ListChange): Promise<void> {
  await attempt(async () => {
    await ledger.changeList(chosen.value!, signed.value, asked)
    if (asked.archived) await router.push({ query: { known_on: route.query.known_on } })
    // The members of the stamp's day may be as before: the history is not.
    changes.value += 1
    await Promise.all([listAgain(), again()])
    tools.value?.clear()
  })
}

/** Make a list and go to it. */
async function make(name: string, work: () => Promise<void>): Promise<void> {
  await attempt(async () => {
    await work()
    await listAgain()
    await router.push({ query: { known_on: route.query.known_on, list: name } })
    index.value?.clear()
  })
}

const keep = (name: string, rule: string) => make(name, () => ledger.keepRuleList(name, rule, signed.value))
const copy = (as: string) => make(as, () => ledger.copyList(chosen.value!, as, signed.value))
</script>

<template>
  <PageHead title="Lists" :list="chosen">
    <template v-if="found"
      >{{ found.title }}, {{ found.members.length }} companies on that day, inactive ones included</template
    >
  </PageHead>
  <main :class="{ opened: figure }">
    <ListIndex v-show="!figure" ref="index" :lists="lists ?? []" :chosen="chosen" @keep="keep" />
    <section v-if="found && info" class="work">
      <div class="about">
        <div>
          <h2>
            {{ found.title }} <span class="soft code">{{ found.name }}</span>
          </h2>
          <p class="soft small">{{ keptBy }} {{ found.description }}</p>
          <p v-if="info.rule" class="code">{{ info.rule }}</p>
        </div>
        <ListActions :list="info" @change="change" @copy="copy" />
      </div>
      <div class="tabline">
        <button class="tab" :class="{ on: !history }" :aria-pressed="!history" @click="set({ view: undefined }, true)">
          Members
        </button>
        <button class="tab" :class="{ on: history }" :aria-pressed="history" @click="set({ view: 'history' }, true)">
          History
        </button>
        <span class="space" />
        <router-link :to="{ name: 'screens', query: { list: found.name, known_on: knownOn } }"
          >Screen this list</router-link
        >
      </div>
      <ListHistory v-if="history" :key="`${found.name} ${changes}`" :list="found.name" />
      <template v-else>
        <ListTools ref="tools" :editable="byHand" @add="(company) => change({ add: [company] })" />
        <ProblemNote :problem="problem" />
        <p v-if="show.length" class="refreshed">
          <RefreshTool :answer="found" :loading="loading" :every="every" @again="again" @every="(n) => set({ every: n && String(n) }, true)" />
        </p>
        <p v-if="where" class="soft small">
          {{ found.members.length }} of whom the filter is true<template v-if="found.unknown"
            >, {{ found.unknown }} of whom it is unknown</template
          >.
          <button class="link" @click="set({ where: undefined }, true)">Show all</button>
        </p>
        <MembersTable
          v-if="found.members.length"
          :found="found"
          :editable="byHand"
          :opened="opened"
          @remove="(company) => change({ remove: [company] })"
          @drop="(name) => set({ show: show.filter((s) => columnName(s) !== name), figure: undefined }, true)"
          @open="open"
        />
        <p v-else class="soft none">
          {{
            where
              ? 'The filter is true of nobody on that day.'
              : 'Nobody stood on this list on that day: move the stamp to a later one.'
          }}
        </p>
      </template>
    </section>
    <p v-else-if="lists && !lists.length" class="soft none">
      There is no list yet. Collect from a source, or keep one by a rule.
    </p>
    <ProblemNote v-else class="none" :problem="problem" />
    <FigurePanel
      v-if="figure && !history"
      :figure="figure"
      :known-on="knownOn"
      :hindsight="false"
      :currency="figure.cell.currency ?? undefined"
      @close="set({ figure: undefined })"
    />
  </main>
</template>

<style scoped>
main {
  padding: 16px 24px 32px;
  display: grid;
  grid-template-columns: 230px minmax(0, 1fr);
  gap: 32px;
}
main.opened {
  grid-template-columns: minmax(0, 1fr) 300px;
  gap: 24px;
}
.small {
  font-size: 13px;
}
.about {
  display: flex;
  flex-wrap: wrap;
  justify-content: space-between;
  gap: 8px 24px;
  margin-bottom: 10px;
}
.space {
  flex: 1;
}
.none {
  padding: 32px 0;
}
</style>

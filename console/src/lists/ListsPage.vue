<script setup lang="ts">
import { computed, ref, watch } from 'vue'

import * as ledger from '../api/ledger'
import type { ListChange } from '../api/types'
import ProblemNote from '../asking/ProblemNote.vue'
import RefreshTool from '../asking/RefreshTool.vue'
import TabLine from '../asking/TabLine.vue'
import { useAttempt, useQuestion } from '../asking/question'
import { useWho } from '../asking/who'
import { asTable } from '../figures/charting'
import FigurePanel, { type OpenFigure } from '../figures/FigurePanel.vue'
import { counted } from '../figures/numbers'
import PageHead from '../shell/PageHead.vue'
import ListActions from './ListActions.vue'
import ListHistory from './ListHistory.vue'
import ListIndex from './ListIndex.vue'
import ListTools from './ListTools.vue'
import MembersTable from './MembersTable.vue'
import { keptBy, memberRows, takenBack, type TakenBack } from './members'
import { columnName, useListState } from './state'

const VIEWS = { members: 'Members', history: 'History' }
const { route, router, set, ...state } = useListState()
const { knownOn, history, where, show, currency, every, opened, archived, sort } = state
const { signed } = useWho()
const { attempt, problem: changeProblem } = useAttempt()
const changes = ref(0)
const index = ref<InstanceType<typeof ListIndex>>()
const tools = ref<InstanceType<typeof ListTools>>()

const {
  answer: lists,
  problem: listsProblem,
  again: listAgain,
} = useQuestion(
  () => ({ archived: archived.value }),
  (asked) => ledger.lists(asked.archived),
)
const chosen = computed(() => state.list.value ?? lists.value?.[0]?.name)
watch(chosen, (name) => name && !state.list.value && set({ list: name }, true), { immediate: true })
const {
  answer: found,
  current,
  problem: membersProblem,
  loading,
  again,
} = useQuestion(
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
// Names, rule and members are those of one answer: what stands here belongs together.
const info = computed(() =>
  lists.value?.find((l) => l.name === (found.value?.name ?? chosen.value)),
)
const byHand = computed(() => !!info.value && !info.value.rule && !info.value.kept_by)
const problem = computed(() => changeProblem.value ?? membersProblem.value ?? listsProblem.value)
const figure = computed<OpenFigure | null>(() => {
  const at = Number(opened.value?.column)
  const member = found.value?.members.find((m) => m.id === opened.value?.row)
  const column = found.value?.columns[at]
  const cell = member?.cells[at]
  if (!member || !column || !cell) return null
  return { company: member.id, name: member.name, template: null, column, cell }
})

/** What was done last, and the change that takes it back. */
const done = ref<TakenBack | null>(null)

async function undo(): Promise<void> {
  const { list, back } = done.value!
  await attempt(async () => {
    await ledger.changeList(list, signed.value, back)
    done.value = null
    changes.value += 1
    await Promise.all([listAgain(), again()])
  })
}

function exported(): void {
  const of = found.value!
  asTable(memberRows(of), `${of.name} ${knownOn.value}`)
}

async function change(asked: ListChange): Promise<void> {
  await attempt(async () => {
    const back = takenBack(chosen.value!, info.value?.title, found.value?.members ?? [], asked)
    await ledger.changeList(chosen.value!, signed.value, asked)
    done.value = back
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

const keep = (name: string, rule: string) =>
  make(name, () => ledger.keepRuleList(name, rule, signed.value))
const copy = (as: string) => make(as, () => ledger.copyList(chosen.value!, as, signed.value))
</script>

<template>
  <PageHead title="Lists" :about="info?.title" :list="chosen">
    <template v-if="current"
      >{{ current.title }}, {{ counted(current.members.length, 'company') }} on that day, inactive
      ones included</template
    >
  </PageHead>
  <main class="pair" :class="{ opened: figure }">
    <ListIndex v-show="!figure" ref="index" :lists="lists ?? []" :chosen="chosen" @keep="keep" />
    <section v-if="found && info" class="work">
      <p v-if="done" class="done" role="status">
        {{ done.words }} <button class="link" @click="undo">Undo</button>
      </p>
      <div class="about">
        <div>
          <h2>
            {{ found.title }}
            <span v-if="found.title !== found.name" class="soft code">{{ found.name }}</span>
          </h2>
          <p class="soft small">{{ keptBy(info) }} {{ found.description }}</p>
          <p v-if="info.rule" class="code">{{ info.rule }}</p>
        </div>
        <ListActions :list="info" @change="change" @copy="copy" />
      </div>
      <TabLine
        label="Views"
        :tabs="VIEWS"
        :value="history ? 'history' : 'members'"
        @choose="(view) => set({ view: view === 'history' ? view : undefined }, true)"
      >
        <span class="space" />
        <router-link :to="{ name: 'screens', query: { list: found.name } }"
          >Screen this list</router-link
        >
        <button class="link" :disabled="!current?.members.length" @click="exported">
          Export CSV
        </button>
      </TabLine>
      <ListHistory v-if="history" :key="`${found.name} ${changes}`" :list="found.name" />
      <template v-else>
        <ListTools ref="tools" :editable="byHand" @add="(company) => change({ add: [company] })" />
        <ProblemNote :problem="problem" />
        <p v-if="show.length" class="refreshed">
          <RefreshTool
            :answer="found"
            :loading="loading"
            :every="every"
            @again="again"
            @every="(n) => set({ every: n && String(n) }, true)"
          />
        </p>
        <p v-if="where && current" class="soft small">
          The filter is true of {{ found.members.length
          }}<template v-if="found.unknown">, {{ found.unknown }} of whom it is unknown</template>.
          <button class="link" @click="set({ where: undefined }, true)">Show all</button>
        </p>
        <MembersTable
          v-if="found.members.length"
          :found="found"
          :editable="byHand"
          :opened="opened"
          :sort="sort"
          @sort="(by) => set({ sort: by }, true)"
          @remove="(company) => change({ remove: [company] })"
          @drop="
            (name) =>
              set({ show: show.filter((s) => columnName(s) !== name), figure: undefined }, true)
          "
          @open="(company, column) => set({ figure: `${company}:${column}` })"
        />
        <p v-else class="soft none">
          {{
            where
              ? 'The filter is true of no company on that day.'
              : 'No company was on this list on that day: move the stamp to a later one.'
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
  --left: 230px;
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
.done {
  border-left: 3px solid var(--spruce);
  padding: 2px 10px;
  margin-bottom: 10px;
}
.none {
  padding: 32px 0;
}
</style>

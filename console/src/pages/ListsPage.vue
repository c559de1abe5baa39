<script setup lang="ts">
import { computed, onMounted, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'

import * as ledger from '../api/ledger'
import type { ListInfo, ListMembers, Publications } from '../api/types'
import ListActions from '../lists/ListActions.vue'
import ListHistory from '../lists/ListHistory.vue'
import MembersTable from '../lists/MembersTable.vue'
import CurrencyChoice from '../shell/CurrencyChoice.vue'
import PageHead from '../shell/PageHead.vue'
import { useStamp } from '../time/stamp'

const route = useRoute()
const router = useRouter()
const { knownOn } = useStamp()
const publications = ref<Publications | null>(null)
const lists = ref<ListInfo[] | null>(null)
const found = ref<ListMembers | null>(null)
const problem = ref<ledger.Problem | null>(null)
const name = ref('')
const rule = ref('country == "XB" and active')
const column = ref('')
const added = ref('')
const filter = ref(typeof route.query.where === 'string' ? route.query.where : '')
const who = ref(localStorage.getItem('wise-ledger-who') ?? '')
const archived = computed(() => route.query.archived === 'yes')
const history = computed(() => route.query.view === 'history')
const chosen = computed(() => (typeof route.query.list === 'string' ? route.query.list : lists.value?.[0]?.name))
const info = computed(() => lists.value?.find((l) => l.name === chosen.value))
const where = computed(() => (typeof route.query.where === 'string' ? route.query.where : undefined))
const show = computed(() => [route.query.show ?? []].flat().filter((e): e is string => !!e))
const currency = computed(() => (typeof route.query.currency === 'string' && route.query.currency ? route.query.currency : undefined))
const byHand = computed(() => !!info.value && !info.value.rule && !info.value.kept_by)
let abort = new AbortController()

async function attempt(work: () => Promise<void>): Promise<void> {
  try {
    await work()
    problem.value = null
  } catch (error) {
    if (error instanceof ledger.Problem) problem.value = error
  }
}

async function look(): Promise<void> {
  const list = chosen.value
  if (!list) return
  abort.abort()
  abort = new AbortController()
  await attempt(async () => {
    found.value = await ledger.members(list, { known_on: knownOn.value, where: where.value, show: show.value, currency: currency.value }, abort.signal)
  })
}

async function list(): Promise<void> {
  lists.value = await ledger.lists(archived.value)
}

watch([chosen, knownOn, where, show, currency], look, { immediate: true })
watch(archived, () => attempt(list))
watch(who, (given) => localStorage.setItem('wise-ledger-who', given))
watch(chosen, () => (filter.value = where.value ?? ''))

function set(values: Record<string, string | string[] | undefined>): void {
  void router.replace({ query: { ...route.query, ...values } })
}

function addColumn(): void {
  if (column.value.trim()) set({ show: [...new Set([...show.value, column.value.trim()])] })
  column.value = ''
}

async function change(asked: ledger.ListChange): Promise<void> {
  await attempt(async () => {
    await ledger.changeList(chosen.value!, who.value || 'somebody', asked)
    if (asked.archived) await router.push({ query: { known_on: route.query.known_on } })
    await list()
    await look()
    added.value = ''
  })
}

async function show_(made: string): Promise<void> {
  await list()
  await router.push({ query: { known_on: route.query.known_on, list: made } })
}

async function keep(): Promise<void> {
  await attempt(async () => {
    await ledger.keepRuleList(name.value.trim(), rule.value, who.value || 'somebody')
    await show_(name.value.trim())
    name.value = ''
  })
}

async function copy(as: string): Promise<void> {
  await attempt(async () => {
    await ledger.copyList(chosen.value!, as, who.value || 'somebody')
    await show_(as)
  })
}

onMounted(async () => {
  await attempt(list)
  publications.value = await ledger.publications().catch(() => null)
})
</script>

<template>
  <PageHead title="Lists" :publications="publications">
    <template v-if="found">{{ found.title }}, {{ found.members.length }} companies on that day, inactive ones included</template>
  </PageHead>
  <main>
    <section>
      <h2>Lists</h2>
      <ul>
        <li v-for="entry in lists ?? []" :key="entry.name">
          <router-link
            :to="{ query: { known_on: route.query.known_on, archived: route.query.archived, list: entry.name } }"
            :class="{ on: entry.name === chosen }"
            >{{ entry.title }}</router-link
          >
          <span class="soft">{{ entry.archived ? 'archived' : entry.rule ? 'by a rule' : `${entry.companies} ever` }}</span>
        </li>
      </ul>
      <label class="check"
        ><input type="checkbox" :checked="archived" @change="set({ archived: archived ? undefined : 'yes' })" /> Archived ones too</label
      >
      <form @submit.prevent="keep">
        <h2>Keep one by a rule</h2>
        <label>Name <input v-model="name" class="field" placeholder="name-of-the-list" /></label>
        <label>Rule <textarea v-model="rule" class="field code" rows="2" spellcheck="false" /></label>
        <label>Your name, kept with every change <input v-model="who" class="field" placeholder="Your name" /></label>
        <button class="plain go" :disabled="!name.trim() || !rule.trim()">Keep</button>
      </form>
      <p class="soft small">Companies found on the <router-link :to="{ name: 'match' }">Match</router-link> page can be kept as a list too.</p>
    </section>
    <section v-if="found && info">
      <div class="about">
        <div>
          <h2>{{ found.title }} <span class="soft code">{{ found.name }}</span></h2>
          <p class="soft small">
            {{ info.rule ? 'Kept by a rule.' : info.kept_by ? `Kept by ${info.kept_by}: copy it to change it.` : 'Kept by hand.' }}
            {{ found.description }}
          </p>
          <p v-if="info.rule" class="code">{{ info.rule }}</p>
        </div>
        <ListActions :list="info" @change="change" @copy="copy" />
      </div>
      <div class="tabline">
        <button class="tab" :class="{ on: !history }" :aria-pressed="!history" @click="set({ view: undefined })">Members</button>
        <button class="tab" :class="{ on: history }" :aria-pressed="history" @click="set({ view: 'history' })">History</button>
        <span class="space" />
        <router-link :to="{ name: 'screens', query: { list: found.name, known_on: knownOn } }">Screen this list</router-link>
      </div>
      <ListHistory v-if="history" :key="`${found.name} ${found.members.length} ${info.title}`" :list="found.name" />
      <template v-else>
        <div class="tools">
          <form class="grow" @submit.prevent="set({ where: filter.trim() || undefined })">
            <input v-model="filter" class="field code" aria-label="Filter" placeholder='Filter: total_assets > 1bn USD' spellcheck="false" />
          </form>
          <form class="grow" @submit.prevent="addColumn">
            <input v-model="column" class="field code" aria-label="Add a column" placeholder="Add a column: operating_income / revenue" spellcheck="false" />
          </form>
          <CurrencyChoice v-if="show.length" :value="currency" @choose="(c) => set({ currency: c })" />
          <form v-if="byHand" @submit.prevent="change({ add: [added.trim()] })">
            <input v-model="added" class="field" aria-label="Add a company" placeholder="Add a company: AGK@ZALD" spellcheck="false" />
          </form>
        </div>
        <div role="alert">
          <p v-for="error in problem?.errors ?? []" :key="error.at" class="wrong small">
            {{ error.at }}: {{ error.problem }}<template v-if="error.mend">: {{ error.mend }}</template>
          </p>
          <p v-if="problem && !problem.errors.length" class="wrong small">{{ problem.message }}</p>
        </div>
        <p v-if="where" class="soft small">
          {{ found.members.length }} of whom the filter is true<template v-if="found.unknown">, {{ found.unknown }} of whom it is unknown</template>.
          <button class="link" @click="((filter = ''), set({ where: undefined }))">Show all</button>
        </p>
        <MembersTable
          v-if="found.members.length"
          :found="found"
          :editable="byHand"
          @remove="(c) => change({ remove: [c] })"
          @drop="(e) => set({ show: show.filter((s) => s !== e) })"
        />
        <p v-else class="soft none">
          {{ where ? 'The filter is true of nobody on that day.' : 'Nobody stood on this list on that day: move the stamp to a later one.' }}
        </p>
      </template>
    </section>
    <p v-else-if="lists && !lists.length" class="soft none">There is no list yet. Collect from a source, or keep one by a rule.</p>
    <p v-else-if="problem" class="wrong none" role="alert">{{ problem.message }}</p>
  </main>
</template>

<style scoped>
main {
  padding: 16px 24px 32px;
  display: grid;
  grid-template-columns: 230px minmax(0, 1fr);
  gap: 32px;
}
ul {
  list-style: none;
  margin-bottom: 8px;
}
li {
  display: flex;
  justify-content: space-between;
  gap: 8px;
  padding: 5px 0;
  border-bottom: 1px solid var(--rule);
}
li .soft {
  white-space: nowrap;
  font-size: 12.5px;
}
li a.on {
  font-weight: 600;
}
section > form {
  display: grid;
  gap: 8px;
  margin: 20px 0 16px;
}
form label {
  display: grid;
  gap: 2px;
  font-size: 13px;
}
.check {
  font-size: 13px;
  accent-color: var(--spruce);
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
.tools {
  display: flex;
  gap: 10px;
  margin: 10px 0;
}
.tools .grow {
  flex: 1;
}
.tools form:not(.grow) {
  width: 200px;
}
.tools .field {
  width: 100%;
}
.none {
  padding: 32px 0;
}
</style>

<script setup lang="ts">
import { computed, onMounted, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'

import * as ledger from '../api/ledger'
import type { ListInfo, Publications } from '../api/types'
import PageHead from '../shell/PageHead.vue'
import { useStamp } from '../time/stamp'

const route = useRoute()
const router = useRouter()
const { knownOn } = useStamp()
const publications = ref<Publications | null>(null)
const lists = ref<ListInfo[] | null>(null)
const found = ref<ledger.ListMembers | null>(null)
const problem = ref<ledger.Problem | null>(null)
const name = ref('')
const rule = ref('country == "XB" and active')
const who = ref(localStorage.getItem('wise-ledger-who') ?? '')
const chosen = computed(() => (typeof route.query.list === 'string' ? route.query.list : lists.value?.[0]?.name))
const info = computed(() => lists.value?.find((l) => l.name === chosen.value))
let abort = new AbortController()

async function attempt(work: () => Promise<void>): Promise<void> {
  try {
    await work()
    problem.value = null
  } catch (error) {
    if (error instanceof ledger.Problem) problem.value = error
  }
}

watch(
  [chosen, knownOn],
  ([list]) => {
    if (!list) return
    abort.abort()
    abort = new AbortController()
    void attempt(async () => {
      found.value = await ledger.members(list, knownOn.value, abort.signal)
    })
  },
  { immediate: true },
)

async function keep(): Promise<void> {
  localStorage.setItem('wise-ledger-who', who.value)
  await attempt(async () => {
    await ledger.keepRuleList(name.value.trim(), rule.value, who.value || 'somebody')
    lists.value = await ledger.lists()
    await router.push({ query: { ...route.query, list: name.value.trim() } })
    name.value = ''
  })
}

onMounted(async () => {
  await attempt(async () => {
    lists.value = await ledger.lists()
  })
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
        <li v-for="list in lists ?? []" :key="list.name">
          <router-link :to="{ query: { ...route.query, list: list.name } }" :class="{ on: list.name === chosen }">{{
            list.title
          }}</router-link>
          <span class="soft">{{ list.rule ? 'by a rule' : `${list.companies} ever` }}</span>
        </li>
      </ul>
      <form @submit.prevent="keep">
        <h2>Keep one by a rule</h2>
        <label>Name <input v-model="name" placeholder="name-of-the-list" /></label>
        <label>Rule <textarea v-model="rule" class="code" rows="2" spellcheck="false" /></label>
        <label>Kept by <input v-model="who" placeholder="Your name" /></label>
        <button class="plain go" :disabled="!name.trim() || !rule.trim()">Keep</button>
        <div role="alert">
          <p v-for="error in problem?.errors ?? []" :key="error.at" class="wrong">
            {{ error.problem }}<template v-if="error.mend">: {{ error.mend }}</template>
          </p>
        </div>
      </form>
      <p class="soft small">Companies found on the <router-link :to="{ name: 'match' }">Match</router-link> page can be kept as a list too.</p>
    </section>
    <section v-if="found">
      <p v-if="info?.rule" class="code rule">{{ info.rule }}</p>
      <table v-if="found.members.length">
        <thead>
          <tr><th>Company</th><th>Listing</th><th>Country</th><th>Industry</th><th>State</th></tr>
        </thead>
        <tbody>
          <tr v-for="company in found.members" :key="company.id">
            <td>
              <router-link :to="{ name: 'company', params: { id: company.id }, query: { known_on: knownOn } }">{{
                company.name
              }}</router-link>
            </td>
            <td>{{ company.listings.map((l) => `${l.symbol}@${l.mic}`).join(', ') || 'not listed' }}</td>
            <td>{{ company.country ?? 'not known' }}</td>
            <td>{{ company.industry_title ?? 'not known' }}</td>
            <td class="soft">{{ company.active ? 'active' : 'not active' }}</td>
          </tr>
        </tbody>
      </table>
      <p v-else class="soft none">Nobody stood on this list on that day: move the stamp to a later one.</p>
      <p>
        <router-link :to="{ name: 'screens', query: { list: found.name, known_on: knownOn } }">Screen this list</router-link>
      </p>
    </section>
    <p v-else-if="lists && !lists.length" class="soft none">There is no list yet. Collect from a source, or keep one by a rule.</p>
  </main>
</template>

<style scoped>
main {
  padding: 16px 24px 32px;
  display: grid;
  grid-template-columns: 260px minmax(0, 1fr);
  gap: 32px;
}
ul {
  list-style: none;
  margin-bottom: 20px;
}
li {
  display: flex;
  justify-content: space-between;
  padding: 5px 0;
  border-bottom: 1px solid var(--rule);
}
li a.on {
  font-weight: 600;
}
form {
  display: grid;
  gap: 8px;
  margin-bottom: 16px;
}
label {
  display: grid;
  gap: 2px;
  font-size: 13px;
}
input,
textarea {
  background: var(--sheet);
  color: var(--ink);
  border: 1px solid var(--rule);
  border-radius: 4px;
  padding: 5px 10px;
}
.small {
  font-size: 13px;
}
.rule {
  padding: 4px 0 12px;
}
table {
  border-collapse: collapse;
  width: 100%;
  margin-bottom: 12px;
}
th {
  text-align: left;
  font-weight: 600;
  font-size: 12.5px;
  color: var(--soft);
  border-bottom: 1.5px solid var(--ink);
  padding: 4px 12px 4px 0;
}
td {
  height: 32px;
  border-bottom: 1px solid var(--rule);
  padding: 0 12px 0 0;
  white-space: nowrap;
}
.wrong {
  color: var(--brick);
  font-size: 13px;
}
.none {
  padding: 32px 0;
}
</style>

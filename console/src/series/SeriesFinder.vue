<script setup lang="ts">
import { computed, ref } from 'vue'

import { findSeries } from '../api/series'
import { useAddress } from '../asking/address'
import ProblemNote from '../asking/ProblemNote.vue'
import { useQuestion } from '../asking/question'
import { vLeadsTo, vOneStop } from '../figures/stops'
import { common, distinctParts, keyOfAll, wholly } from './state'

/** Series by words, subject and the dimensions of their family; one of them, or all as one key. */
const props = defineProps<{ knownOn: string; chosen: string[] }>()
const emit = defineEmits<{ add: [key: string] }>()
const { one, several, set } = useAddress()
const FILTERS = {
  subject: 'Subject',
  family: 'Family',
  area: 'Area',
  frequency: 'Frequency',
  adjustment: 'Adjustment',
} as const
/** Dimensions that are a filter of their own. */
const TITLED = Object.fromEntries(Object.values(FILTERS).map((title) => [title, true]))
const MOST = 200

const {
  answer: found,
  problem,
  loading,
} = useQuestion(
  () => ({
    text: one('q') ?? '',
    known_on: props.knownOn,
    ...Object.fromEntries(Object.keys(FILTERS).map((name) => [name, one(name)])),
    where: several('where'),
    limit: MOST,
  }),
  findSeries,
)
const all = computed(() => {
  const keys = (found.value?.series ?? []).map((s) => s.key)
  if (!found.value || found.value.total > MOST) return null
  const made = keyOfAll(keys)
  // A part that has every code there is stands as *.
  return made && wholly(made, found.value.dimensions)
})
const code = (id: string): string =>
  several('where')
    .find((w) => w.startsWith(`${id}=`))
    ?.slice(id.length + 1) ?? ''
function narrow(id: string, value: string): void {
  const rest = several('where').filter((w) => !w.startsWith(`${id}=`))
  set({ where: value ? [...rest, `${id}=${value}`] : rest.length ? rest : undefined }, true)
}
function filter(name: string, value: string): void {
  set({ [name]: value || undefined, where: undefined }, true)
}
const names = computed(() => distinctParts((found.value?.series ?? []).map((s) => s.title)))
const shared = computed(() =>
  found.value && found.value.series.length > 1
    ? common(found.value.series.map((s) => s.title))
    : '',
)
const typed = ref(one('q') ?? '')
let later: ReturnType<typeof setTimeout> | undefined
function type(): void {
  clearTimeout(later)
  later = setTimeout(() => set({ q: typed.value || undefined }, true), 150)
}
const narrowed = computed(
  () => !!one('q') || several('where').length > 0 || Object.keys(FILTERS).some((f) => one(f)),
)
function clear(): void {
  typed.value = ''
  set(
    {
      q: undefined,
      where: undefined,
      ...Object.fromEntries(Object.keys(FILTERS).map((f) => [f, undefined])),
    },
    true,
  )
}
</script>

<template>
  <section class="finder" aria-label="Find series" :aria-busy="loading">
    <input
      v-model="typed"
      v-leads-to="'#series-found'"
      data-search
      class="field"
      aria-label="Search the series"
      placeholder="house prices, unemployment …"
      spellcheck="false"
      @input="type"
    />
    <div class="filters">
      <select
        v-for="(title, name) in FILTERS"
        :key="name"
        class="field"
        :aria-label="title"
        :value="one(name) ?? ''"
        @change="filter(name, ($event.target as HTMLSelectElement).value)"
      >
        <option value="">{{ title }}</option>
        <option v-for="(count, value) in found?.filters[name] ?? {}" :key="value" :value="value">
          {{ value }} ({{ count }})
        </option>
        <option
          v-if="one(name) && !(one(name)! in (found?.filters[name] ?? {}))"
          :value="one(name)"
        >
          {{ one(name) }}
        </option>
      </select>
      <template v-for="d in found?.dimensions ?? []" :key="d.id">
        <select
          v-if="!(d.title in TITLED) && (d.codes.length > 1 || code(d.id))"
          class="field dimension"
          :aria-label="d.title"
          :value="code(d.id)"
          @change="narrow(d.id, ($event.target as HTMLSelectElement).value)"
        >
          <option value="">{{ d.title }}: any</option>
          <option v-for="c in d.codes" :key="c.code" :value="c.code">
            {{ c.name }} ({{ c.count }})
          </option>
        </select>
      </template>
    </div>
    <ProblemNote :problem="problem" />
    <p v-if="loading && !found" class="soft" aria-busy="true">Looking …</p>
    <p v-if="found" class="soft count">
      <span
        >{{ found.total }} series<template v-if="shared">: {{ shared }}</template
        ><template v-if="found.total > MOST">, the first {{ MOST }}</template></span
      >
      <button v-if="narrowed" class="link" @click="clear">all of them</button>
      <button
        v-if="all"
        class="link end"
        :disabled="chosen.includes(all)"
        :title="all"
        @click="emit('add', all)"
      >
        take all {{ found.total }} as one key
      </button>
    </p>
    <ul
      v-if="found?.series.length"
      id="series-found"
      v-one-stop
      tabindex="0"
      aria-label="Series found"
    >
      <li v-for="(s, n) in found.series" :key="s.key">
        <button
          class="link"
          :disabled="chosen.includes(s.key)"
          :title="`${s.key}: ${s.frequency}, ${s.unit} ${s.base}`"
          @click="emit('add', s.key)"
        >
          <span class="title">{{ names[n] }}</span>
          <span class="soft about"
            >{{ s.frequency }}, {{ s.unit }} · {{ s.first_period ?? 'nothing known'
            }}<template v-if="s.last_period"> to {{ s.last_period }}</template></span
          >
        </button>
        <span v-if="chosen.includes(s.key)" class="soft on">on the sheet</span>
      </li>
    </ul>
    <p v-else-if="found" class="soft">
      Nothing is found so: fewer words, or <button class="link" @click="clear">all of them</button>.
    </p>
  </section>
</template>

<style scoped>
.finder {
  display: flex;
  flex-direction: column;
  gap: 8px;
  min-height: 0;
}
.filters {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 6px;
}
.filters .field {
  min-width: 0;
  width: 100%;
  padding: 3px 6px;
  font-size: 13px;
}
.dimension {
  border-style: dashed;
}
.count {
  display: flex;
  gap: 4px 12px;
  flex-wrap: wrap;
  font-size: 13px;
}
.end {
  margin-left: auto;
}
.link:disabled {
  color: var(--soft);
  cursor: default;
  text-decoration: none;
}
ul {
  list-style: none;
  overflow-y: auto;
  min-height: 0;
  flex: 1;
}
li {
  border-bottom: 1px solid var(--rule);
  padding: 4px 0;
  display: flex;
  align-items: center;
  gap: 8px;
}
li .link {
  flex: 1;
  min-width: 0;
}
.title {
  display: block;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.about {
  display: block;
  font-size: 12px;
}
.on {
  font-size: 12px;
  white-space: nowrap;
}
</style>

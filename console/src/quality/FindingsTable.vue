<script setup lang="ts">
import { computed, ref } from 'vue'

import type { Finding } from '../api/types'
import PlainTable from '../figures/PlainTable.vue'
import { bracketed, counted } from '../figures/numbers'
import Neighbours from './Neighbours.vue'

/**
 * What checks found: a document a row, unfolded a figure a row; those that a person can decide on
 * can be chosen.
 */
const props = defineProps<{ findings: Finding[]; choosable: number[] }>()
const emit = defineEmits<{ open: [finding: Finding] }>()
const chosen = defineModel<number[]>('chosen', { required: true })
const all = computed(
  () => props.choosable.length > 0 && chosen.value.length === props.choosable.length,
)

/** Findings of one document belong together: who decides on one mostly decides on all. */
const groups = computed(() => {
  const by = new Map<string, Finding[]>()
  for (const f of props.findings)
    by.set(`${f.company} ${f.sha256}`, [...(by.get(`${f.company} ${f.sha256}`) ?? []), f])
  return [...by].map(([key, of]) => ({
    key,
    of,
    choosable: of.map((f) => f.fact).filter((fact) => props.choosable.includes(fact)),
  }))
})
const SEVERAL = 5 // findings chosen at once, of which each shows its neighbours
const unfolded = ref(new Set<string>())
const beside = ref<string | null>(null)

function toggle(key: string): void {
  const now = new Set(unfolded.value)
  if (!now.delete(key)) now.add(key)
  unfolded.value = now
}

function chooseAll(facts: number[], event: Event): void {
  const others = chosen.value.filter((fact) => !facts.includes(fact))
  chosen.value = (event.target as HTMLInputElement).checked
    ? [...new Set([...others, ...facts])]
    : others
}

/** Who is about to decide sees what the figure would stand among, without asking for it. */
function standsBeside(f: Finding, of: number): boolean {
  const seen = of === 1 || unfolded.value.has(`${f.company} ${f.sha256}`)
  return (
    beside.value === keyOf(f) ||
    (seen && chosen.value.length <= SEVERAL && chosen.value.includes(f.fact))
  )
}

const keyOf = (f: Finding) => `${f.fact} ${f.check}`

function choose(event: Event): void {
  chosen.value = (event.target as HTMLInputElement).checked ? [...props.choosable] : []
}

/** In full: a slip of scale is seen by its digits. */
function reading(value: number | null, unit: string): string {
  return value === null ? 'none' : `${bracketed(value, 2, 0)} ${unit}`
}
</script>

<template>
  <PlainTable label="Findings">
    <thead>
      <tr>
        <th>
          <input
            v-if="choosable.length"
            type="checkbox"
            aria-label="Choose all"
            :checked="all"
            @change="choose"
          />
        </th>
        <th>State</th>
        <th>Company</th>
        <th>Line</th>
        <th>Period</th>
        <th class="n">Figure</th>
        <th>What is wrong</th>
        <th>Document</th>
      </tr>
    </thead>
    <tbody v-for="group in groups" :key="group.key">
      <tr v-if="group.of.length > 1">
        <td>
          <input
            v-if="group.choosable.length"
            type="checkbox"
            :aria-label="`Choose all of ${group.of[0]!.document} of ${group.of[0]!.name}`"
            :checked="group.choosable.every((fact) => chosen.includes(fact))"
            @change="chooseAll(group.choosable, $event)"
          />
        </td>
        <td>
          <button class="link" :aria-expanded="unfolded.has(group.key)" @click="toggle(group.key)">
            {{ unfolded.has(group.key) ? '▾' : '▸' }} {{ counted(group.of.length, 'finding') }}
          </button>
        </td>
        <th scope="row">
          <router-link :to="{ name: 'statements', query: { company: group.of[0]!.company } }">{{
            group.of[0]!.name
          }}</router-link>
        </th>
        <td colspan="4" class="what soft">
          {{ [...new Set(group.of.map((f) => f.title))].slice(0, 5).join(', ')
          }}{{ group.of.length > 5 ? ' …' : '' }}
        </td>
        <td>
          <button class="link" @click="emit('open', group.of[0]!)">
            {{ group.of[0]!.document }}
          </button>
        </td>
      </tr>
      <template v-for="f in group.of" :key="keyOf(f)">
        <tr
          v-if="group.of.length === 1 || unfolded.has(group.key)"
          :class="{ within: group.of.length > 1 }"
        >
          <td>
            <input
              v-if="choosable.includes(f.fact)"
              v-model="chosen"
              type="checkbox"
              :value="f.fact"
              :aria-label="`Choose ${f.title} of ${f.name}`"
            />
          </td>
          <td :class="{ wrong: f.state === 'quarantined', soft: f.state === 'rejected' }">
            {{ f.state }}
          </td>
          <th scope="row">
            <router-link :to="{ name: 'statements', query: { company: f.company } }">{{
              f.name
            }}</router-link>
          </th>
          <td>{{ f.title }}</td>
          <td>{{ f.period }}</td>
          <td class="n">
            <button
              class="link"
              title="The periods around it"
              :aria-expanded="standsBeside(f, group.of.length)"
              @click="beside = beside === keyOf(f) ? null : keyOf(f)"
            >
              {{ reading(f.value, f.unit) }}
            </button>
          </td>
          <td class="what">
            {{ f.detail }}<span v-if="f.who" class="soft"> · {{ f.who }}: {{ f.why }}</span>
          </td>
          <td>
            <button class="link" @click="emit('open', f)">{{ f.document }}</button>
          </td>
        </tr>
        <tr v-if="standsBeside(f, group.of.length)">
          <td colspan="2" />
          <td colspan="6" class="what"><Neighbours :finding="f" /></td>
        </tr>
      </template>
    </tbody>
  </PlainTable>
</template>

<style scoped>
.within td:nth-child(2) {
  padding-left: 14px;
}
.what {
  white-space: normal;
  min-width: 220px;
  line-height: 1.3;
}
</style>

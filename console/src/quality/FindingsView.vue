<script setup lang="ts">
import { computed, ref, watch } from 'vue'

import { decideQuarantine, preferSources } from '../api/quality'
import type { Finding, Quality } from '../api/types'
import { useAddress } from '../asking/address'
import ProblemNote from '../asking/ProblemNote.vue'
import { useAttempt } from '../asking/question'
import { useWho } from '../asking/who'
import { useDocument } from '../figures/document'
import DocumentDialog from '../figures/DocumentDialog.vue'
import FindingsCuts from './FindingsCuts.vue'
import FindingsTable from './FindingsTable.vue'
import SourceOrders from './SourceOrders.vue'

/**
 * What checks found: figures in quarantine to accept or reject, sources that disagree to put in an
 * order.
 */
const STATES: Record<string, string> = {
  '': 'All',
  quarantined: 'In quarantine',
  flagged: 'Flagged',
  accepted: 'Accepted',
  rejected: 'Rejected',
}
const CHECKED =
  'Every batch is checked as it comes in: balance, subtotals, cash, quarters, sign, scale, unit, ' +
  'order of periods, duplicates, sources that disagree.'
const props = defineProps<{ found: Quality }>()
const emit = defineEmits<{ changed: [] }>()
const { one, set } = useAddress()
const { who } = useWho()
const { attempt, problem } = useAttempt()
const file = useDocument()
const chosen = ref<number[]>([])
const why = ref('')
const orders = ref<InstanceType<typeof SourceOrders>>()
watch(
  () => props.found,
  () => (chosen.value = []),
)

const decidable = computed(() => props.found.findings.filter((f) => f.state !== 'flagged'))
// Where sources disagree a person may say which one is read first.
const disagreeing = computed(() => props.found.findings.filter((f) => f.check === 'sources'))
const choosable = computed(() => [
  ...new Set([...decidable.value, ...disagreeing.value].map((f) => f.fact)),
])
const decided = computed(() =>
  decidable.value.filter((f) => chosen.value.includes(f.fact)).map((f) => f.fact),
)
const preferred = computed(() => disagreeing.value.filter((f) => chosen.value.includes(f.fact)))

async function decide(accept: boolean): Promise<void> {
  await attempt(async () => {
    await decideQuarantine(decided.value, accept, who.value, why.value)
    why.value = ''
    emit('changed')
  })
}

async function prefer(): Promise<void> {
  await attempt(async () => {
    const lines = new Map(preferred.value.map((f) => [`${f.company} ${f.item} ${f.source}`, f]))
    for (const { source, item, company } of lines.values()) {
      await preferSources({ sources: [source], who: who.value, why: why.value, item, company })
    }
    why.value = ''
    emit('changed')
    await orders.value?.again()
  })
}

function open(finding: Finding): void {
  file.open(finding.sha256, finding.place)
}
</script>

<template>
  <FindingsCuts :found="found" />
  <div class="bar">
    <button
      v-for="(title, state) in STATES"
      :key="state"
      class="plain"
      :class="{ go: (one('state') ?? '') === state }"
      :aria-pressed="(one('state') ?? '') === state"
      @click="set({ state: state || undefined })"
    >
      {{ title }}{{ state ? ` ${found.by_state[state] ?? 0}` : '' }}
    </button>
    <template v-if="choosable.length">
      <input v-model="who" class="field" placeholder="Who" aria-label="Who decides" />
      <input v-model="why" class="field why" placeholder="Why" aria-label="Why" />
      <template v-if="decidable.length">
        <button class="plain" :disabled="!decided.length" @click="decide(true)">
          Accept {{ decided.length || '' }}
        </button>
        <button class="plain" :disabled="!decided.length" @click="decide(false)">
          Reject {{ decided.length || '' }}
        </button>
      </template>
      <button
        v-if="disagreeing.length"
        class="plain"
        :disabled="!preferred.length"
        title="Read the source of the chosen figures before others, for their lines of their companies"
        @click="prefer"
      >
        Read first {{ preferred.length || '' }}
      </button>
    </template>
  </div>
  <ProblemNote :problem="problem" />
  <SourceOrders
    v-if="disagreeing.length"
    ref="orders"
    :who="who"
    :why="why"
    @changed="emit('changed')"
  />
  <div class="scroll" tabindex="0" role="region" aria-label="Findings">
    <FindingsTable
      v-if="found.findings.length"
      v-model:chosen="chosen"
      :findings="found.findings"
      :choosable="choosable"
      @open="open"
    />
    <p v-else class="soft none">
      {{
        Object.keys(found.by_check).length
          ? 'Nothing passes these filters: take one away.'
          : CHECKED
      }}
    </p>
    <p v-if="found.total > found.findings.length" class="soft">
      {{ found.findings.length }} of {{ found.total }}; the rest with wise-ledger quality --limit
    </p>
  </div>
  <DocumentDialog :address="file.address.value" :place="file.place.value" @close="file.close" />
</template>

<style scoped>
.scroll {
  overflow-x: auto;
}
.none {
  padding: 24px 0;
}
</style>

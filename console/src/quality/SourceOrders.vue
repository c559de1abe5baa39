<script setup lang="ts">
import { computed } from 'vue'

import { preferSources, sourceOrders } from '../api/quality'
import type { SourceOrder } from '../api/types'
import ProblemNote from '../asking/ProblemNote.vue'
import { useAttempt, useQuestion } from '../asking/question'

/**
 * Which source is read first, for all, an item, a company or both; what was decided can be taken
 * back.
 */
const props = defineProps<{ who: string; why: string }>()
const emit = defineEmits<{ changed: [] }>()
const { attempt, problem } = useAttempt()
const {
  answer,
  problem: unread,
  again,
} = useQuestion(
  () => ({}),
  (_, signal) => sourceOrders(signal),
)
const orders = computed(() => answer.value ?? [])

async function takeBack({ item, company }: SourceOrder): Promise<void> {
  await attempt(async () => {
    await preferSources({ sources: [], who: props.who, why: props.why, item, company })
    await again()
    emit('changed')
  })
}

function scope(order: SourceOrder): string {
  const parts = [order.item?.replaceAll('_', ' '), order.name && `of ${order.name}`]
  return parts.filter(Boolean).join(' ') || 'everything'
}

defineExpose({ again })
</script>

<template>
  <section v-if="orders.length || unread" class="orders">
    <h2>Which source is read first</h2>
    <ProblemNote :problem="problem ?? unread" />
    <p v-for="o in orders" :key="`${o.item}:${o.company}`">
      <b>{{ o.sources.join(', then ') }}</b>
      <span class="soft"> for {{ scope(o) }}</span>
      <button
        v-if="o.item || o.company"
        class="link"
        :disabled="!who.trim()"
        :title="who.trim() ? '' : 'Say who decides first'"
        @click="takeBack(o)"
      >
        take back
      </button>
    </p>
  </section>
</template>

<style scoped>
.orders {
  margin: 0 0 12px;
}
.orders .link {
  margin-left: 8px;
}
.orders p {
  margin: 2px 0;
}
</style>

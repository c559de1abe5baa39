<script setup lang="ts">
import { onMounted, ref } from 'vue'

import { preferSources, type SourceOrder, sourceOrders } from '../api/statements'

/** Which source is read first, for all, an item, a company or both; what was said can be taken back. */
const props = defineProps<{ who: string; why: string; attempt: (work: () => Promise<void>) => Promise<void> }>()
const emit = defineEmits<{ changed: [] }>()
const orders = ref<SourceOrder[]>([])

async function look(): Promise<void> {
  orders.value = await sourceOrders()
}

async function takeBack(order: SourceOrder): Promise<void> {
  await props.attempt(async () => {
    await preferSources([], props.who, props.why, order.item, order.company)
    await look()
    emit('changed')
  })
}

onMounted(() => props.attempt(look))
defineExpose({ look })
</script>

<template>
  <section v-if="orders.length" class="orders">
    <h2>Which source is read first</h2>
    <p v-for="o in orders" :key="`${o.item}:${o.company}`">
      <b>{{ o.sources.join(', then ') }}</b>
      <span class="soft"> for {{ [o.item?.replaceAll('_', ' '), o.name && `of ${o.name}`].filter(Boolean).join(' ') || 'everything' }}</span>
      <button v-if="o.item || o.company" class="link" :disabled="!who.trim()" :title="who.trim() ? '' : 'Say who decides first'" @click="takeBack(o)">take back</button>
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

<script setup lang="ts">
import { ref, watch } from 'vue'

import CurrencyChoice from '../figures/CurrencyChoice.vue'
import { useListState } from './state'

/** Filter the members, add columns, choose a currency; add a company where people keep the list. */
defineProps<{ editable: boolean }>()
const emit = defineEmits<{ add: [company: string] }>()
const { set, where, show, currency } = useListState()
const filter = ref(where.value ?? '')
const column = ref('')
const added = ref('')
watch(where, (now) => (filter.value = now ?? ''))

function addColumn(): void {
  if (column.value.trim()) set({ show: [...new Set([...show.value, column.value.trim()])] }, true)
  column.value = ''
}

defineExpose({ clear: () => (added.value = '') })
</script>

<template>
  <div class="tools">
    <form class="grow" @submit.prevent="set({ where: filter.trim() || undefined }, true)">
      <input
        v-model="filter"
        class="field code"
        aria-label="Filter"
        placeholder="Filter: total_assets > 1bn USD"
        spellcheck="false"
      />
    </form>
    <form class="grow" @submit.prevent="addColumn">
      <input
        v-model="column"
        class="field code"
        aria-label="Add a column"
        placeholder="Add a column: operating_income / revenue"
        spellcheck="false"
      />
    </form>
    <CurrencyChoice
      v-if="show.length"
      :value="currency"
      @choose="(c) => set({ currency: c }, true)"
    />
    <form v-if="editable" @submit.prevent="emit('add', added.trim())">
      <input
        v-model="added"
        class="field"
        aria-label="Add a company"
        placeholder="Add a company: AGK@ZALD"
        spellcheck="false"
      />
    </form>
  </div>
</template>

<style scoped>
.tools {
  display: flex;
  gap: 10px;
  margin: 10px 0;
}
.grow {
  flex: 1;
}
form:not(.grow) {
  width: 200px;
}
.field {
  width: 100%;
}
</style>

<script setup lang="ts">
import { ref, watch } from 'vue'

import type { ListChange, ListInfo } from '../api/types'

/** What can be done with a list: describe it, copy it, archive it or bring it back. */
const props = defineProps<{ list: ListInfo }>()
const emit = defineEmits<{ change: [change: ListChange]; copy: [name: string] }>()
const open = ref<'describe' | 'copy' | null>(null)
const title = ref('')
const description = ref('')
const copyName = ref('')

watch(
  () => props.list,
  (list) => {
    open.value = null
    title.value = list.title
    description.value = list.description
    copyName.value = `${list.name}-copy`
  },
  { immediate: true },
)
</script>

<template>
  <div class="actions">
    <button
      class="plain"
      :aria-expanded="open === 'describe'"
      @click="open = open === 'describe' ? null : 'describe'"
    >
      Describe
    </button>
    <button
      class="plain"
      :aria-expanded="open === 'copy'"
      @click="open = open === 'copy' ? null : 'copy'"
    >
      Copy
    </button>
    <button class="plain" @click="emit('change', { archived: !list.archived })">
      {{ list.archived ? 'Bring back' : 'Archive' }}
    </button>
  </div>
  <form
    v-if="open === 'describe'"
    class="sheet edit"
    @submit.prevent="emit('change', { title, description })"
  >
    <label>Title <input v-model="title" class="field" /></label>
    <label class="long">What it is for <input v-model="description" class="field" /></label>
    <button class="plain go">Save</button>
  </form>
  <form v-if="open === 'copy'" class="sheet edit" @submit.prevent="emit('copy', copyName.trim())">
    <label class="long">Name of the copy <input v-model="copyName" class="field code" /></label>
    <button class="plain go" :disabled="!copyName.trim()">Keep a copy</button>
  </form>
</template>

<style scoped>
.actions {
  display: flex;
  gap: 8px;
  align-items: start;
}
.edit {
  grid-column: 1 / -1;
  display: flex;
  gap: 12px;
  align-items: end;
  padding: 10px 14px;
  width: 100%;
}
label {
  display: grid;
  gap: 2px;
  font-size: 13px;
}
.long {
  flex: 1;
}
</style>

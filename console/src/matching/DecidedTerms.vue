<script setup lang="ts">
import type { Decision } from '../api/types'

/** What people decided, each of which can be taken back. */
defineProps<{ decisions: Decision[] }>()
const emit = defineEmits<{ undo: [term: string] }>()
</script>

<template>
  <section>
    <h2>What people decided</h2>
    <ul>
      <li v-for="d in decisions" :key="d.term">
        <span class="code">{{ d.term }}</span> <b>{{ d.name }}</b>
        <span class="soft">{{ [d.who, d.why].filter(Boolean).join(', ') }}</span>
        <button class="link" :aria-label="`Undo ${d.term}`" @click="emit('undo', d.term)">
          undo
        </button>
      </li>
    </ul>
  </section>
</template>

<style scoped>
li {
  display: flex;
  gap: 14px;
  padding: 5px 0;
  border-bottom: 1px solid var(--rule);
  list-style: none;
}
</style>

<script setup lang="ts">
import { useRouter } from 'vue-router'

import { KEYS, PAGES } from './keys'

/** The keys there are. */
const emit = defineEmits<{ close: [] }>()
const router = useRouter()
const title = (name: string) => String(router.resolve({ name }).meta.title)
</script>

<template>
  <v-dialog
    :model-value="true"
    aria-label="Keys"
    max-width="640"
    @update:model-value="emit('close')"
  >
    <section class="sheet">
      <header>
        <h2>Keys</h2>
        <button class="plain" @click="emit('close')">Close</button>
      </header>
      <dl>
        <template v-for="[keys, what] in KEYS" :key="keys">
          <dt>
            <kbd>{{ keys }}</kbd>
          </dt>
          <dd>{{ what }}</dd>
        </template>
      </dl>
      <h3>To a page: <kbd>g</kbd>, then</h3>
      <ul>
        <li v-for="(name, letter) in PAGES" :key="letter">
          <kbd>{{ letter }}</kbd> {{ title(name) }}
        </li>
      </ul>
    </section>
  </v-dialog>
</template>

<style scoped>
section {
  padding: 16px 22px 20px;
  background: var(--sheet);
  color: var(--ink);
}
header {
  display: flex;
  justify-content: space-between;
}
h2 {
  font: 600 18px/1.3 var(--title);
}
h3 {
  font: 600 14px/1.4 var(--body);
  margin: 14px 0 6px;
}
dl {
  display: grid;
  grid-template-columns: max-content 1fr;
  gap: 4px 16px;
  margin-top: 8px;
}
dd {
  margin: 0;
}
ul {
  list-style: none;
  columns: 3;
}
kbd {
  font: 12px/1.4 var(--code);
  border: 1px solid var(--rule);
  border-radius: 3px;
  padding: 0 5px;
  background: var(--paper);
}
</style>

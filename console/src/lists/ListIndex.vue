<script setup lang="ts">
import { ref } from 'vue'

import type { ListInfo } from '../api/types'
import { useWho } from '../asking/who'
import { useListState } from './state'

/** All lists, and a form to keep one by a rule. */
defineProps<{ lists: ListInfo[]; chosen: string | undefined }>()
const emit = defineEmits<{ keep: [name: string, rule: string] }>()
const { route, set, archived } = useListState()
const { who } = useWho()
const name = ref('')
const rule = ref('country == "XB" and active')

function kind(entry: ListInfo): string {
  return entry.archived ? 'archived' : entry.rule ? 'by a rule' : `${entry.companies} over time`
}

function keep(): void {
  emit('keep', name.value.trim(), rule.value)
}

defineExpose({ clear: () => (name.value = '') })
</script>

<template>
  <section>
    <h2>Lists</h2>
    <ul>
      <li v-for="entry in lists" :key="entry.name">
        <router-link
          :to="{
            query: {
              known_on: route.query.known_on,
              archived: route.query.archived,
              list: entry.name,
            },
          }"
          :class="{ on: entry.name === chosen }"
          >{{ entry.title }}</router-link
        >
        <span class="soft">{{ kind(entry) }}</span>
      </li>
    </ul>
    <label class="check"
      ><input
        type="checkbox"
        :checked="archived"
        @change="set({ archived: archived ? undefined : 'yes' }, true)"
      />
      Archived ones too</label
    >
    <form @submit.prevent="keep">
      <h2>Keep one by a rule</h2>
      <label>Name <input v-model="name" class="field" placeholder="name-of-the-list" /></label>
      <label>Rule <textarea v-model="rule" class="field code" rows="2" spellcheck="false" /></label>
      <label
        >Your name, kept with every change
        <input v-model="who" class="field" placeholder="Your name"
      /></label>
      <button class="plain go" :disabled="!name.trim() || !rule.trim()">Keep</button>
    </form>
    <p class="soft small">
      Companies found on the <router-link :to="{ name: 'match' }">Match</router-link> page can be
      kept as a list too.
    </p>
  </section>
</template>

<style scoped>
ul {
  list-style: none;
  margin-bottom: 8px;
}
li {
  display: flex;
  justify-content: space-between;
  gap: 8px;
  padding: 5px 0;
  border-bottom: 1px solid var(--rule);
}
li .soft {
  white-space: nowrap;
  font-size: 12.5px;
}
li a.on {
  font-weight: 600;
}
form {
  display: grid;
  gap: 8px;
  margin: 20px 0 16px;
}
form label {
  display: grid;
  gap: 2px;
  font-size: 13px;
}
.check {
  font-size: 13px;
  accent-color: var(--spruce);
}
.small {
  font-size: 13px;
}
</style>

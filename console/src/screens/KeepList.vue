<script setup lang="ts">
import { ref } from 'vue'

import { keepList } from '../api/ledger'
import ProblemNote from '../asking/ProblemNote.vue'
import { useAttempt } from '../asking/question'
import { useWho } from '../asking/who'
import { counted } from '../figures/numbers'

/** Those who pass, kept as a list under a name. */
const props = defineProps<{ companies: string[] }>()
const { who, signed } = useWho()
const { attempt, problem, busy } = useAttempt()
const open = ref(false)
const name = ref('')
const kept = ref('')

async function keep(): Promise<void> {
  const as = name.value.trim()
  if (!(await attempt(() => keepList(as, props.companies, signed.value)))) return
  kept.value = as
  open.value = false
}
</script>

<template>
  <span class="keep">
    <span v-if="kept" role="status">
      Kept as <router-link :to="{ name: 'lists', query: { list: kept } }">{{ kept }}</router-link>
    </span>
    <button
      class="plain"
      :disabled="!companies.length"
      :aria-expanded="open"
      @click="((open = !open), (kept = ''))"
    >
      Keep as list
    </button>
    <form v-if="open" class="sheet" @submit.prevent="keep" @keydown.esc.stop="open = false">
      <label
        >Name of the list <input v-model="name" class="field code" autofocus spellcheck="false"
      /></label>
      <label>Your name <input v-model="who" class="field" /></label>
      <ProblemNote :problem="problem" />
      <button class="plain go" :disabled="busy || !name.trim()">
        Keep {{ counted(companies.length, 'company') }}
      </button>
    </form>
  </span>
</template>

<style scoped>
.keep {
  position: relative;
  white-space: nowrap;
  font-size: 13px;
  display: inline-flex;
  gap: 10px;
  align-items: center;
}
form {
  position: absolute;
  right: 0;
  top: 34px;
  z-index: 6;
  width: 250px;
  padding: 12px 14px;
  display: grid;
  gap: 8px;
  box-shadow: 0 4px 16px #0002;
}
label {
  display: grid;
  gap: 2px;
}
</style>

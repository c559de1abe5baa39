<script setup lang="ts">
import { ref } from 'vue'

import { useSession } from './session'

const session = useSession()
const token = ref('')
const problem = ref('')
const busy = ref(false)

async function enter(): Promise<void> {
  busy.value = true
  problem.value = ''
  try {
    if (!(await session.signIn(token.value.trim())))
      problem.value = 'This token is not accepted. Copy the whole of it, from wl_ to the end.'
  } catch {
    problem.value = 'The service does not answer. Check that it still runs, then try again.'
  } finally {
    busy.value = false
  }
}
</script>

<template>
  <main class="door">
    <form class="sheet" @submit.prevent="enter">
      <div class="brand">
        <img src="/favicon.svg" width="28" height="28" alt="" />
        <h1>Wise Ledger</h1>
      </div>
      <p v-if="session.ended" class="ended" role="alert">
        Your token has ended or was revoked. Sign in with another: you come back to where you were.
      </p>
      <p v-else class="soft">
        Every figure knows when it became public, where it came from and why it is missing.
      </p>
      <label for="token">Token</label>
      <input
        id="token"
        v-model="token"
        class="code"
        type="password"
        autocomplete="current-password"
        spellcheck="false"
        autofocus
        :aria-invalid="problem !== ''"
        aria-describedby="token-help"
      />
      <p v-if="problem" id="token-help" class="wrong" role="alert">{{ problem }}</p>
      <p v-else id="token-help" class="soft help">
        <span class="code">wise-ledger demo</span> and
        <span class="code">wise-ledger serve</span> print one when they start.
      </p>
      <button class="plain go" :disabled="busy || !token.trim()">Sign in</button>
    </form>
  </main>
</template>

<style scoped>
.door {
  min-height: 100vh;
  display: grid;
  place-items: center;
  padding: 24px;
}
form {
  width: 400px;
  max-width: 100%;
  padding: 28px 32px 32px;
  display: grid;
  gap: 10px;
}
.brand {
  display: flex;
  gap: 10px;
  align-items: center;
}
label {
  font-weight: 600;
  margin-top: 8px;
}
input {
  border: 1px solid var(--rule);
  border-radius: 4px;
  background: var(--paper);
  color: var(--ink);
  padding: 7px 10px;
}
.help,
.wrong {
  font-size: 13px;
}
.wrong {
  color: var(--brick);
}
.ended {
  border-left: 3px solid var(--ochre);
  padding-left: 10px;
}
.go {
  min-height: 34px;
  margin-top: 6px;
}
</style>

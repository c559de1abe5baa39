<script setup lang="ts">
import { computed, ref } from 'vue'

import { makeToken, revokeToken, tokens } from '../api/tokens'
import type { MadeToken, TokenInfo } from '../api/types'
import ProblemNote from '../asking/ProblemNote.vue'
import { useAttempt, useQuestion } from '../asking/question'
import PlainTable from '../figures/PlainTable.vue'
import { useSession } from '../shell/session'
import { instant } from '../time/format'

/**
 * Who may call: tokens with when each was last used; a new one is shown once, a lost one is
 * revoked.
 */
const SPANS = { 30: '30 days', 90: '90 days', 365: 'a year', 0: 'until revoked' } as const
const session = useSession()
const { answer: found, problem, again } = useQuestion(() => 'all', tokens)
const { attempt, problem: changeProblem } = useAttempt()
const name = ref('')
const days = ref(90)
const made = ref<MadeToken | null>(null)
const asked = ref<string | null>(null) // the token that is about to be revoked
const copied = ref(false)
const own = computed(() => session.token?.split('_')[1])
const ended = computed(() => (found.value ?? []).filter((t) => !t.holds).length)

function state(token: TokenInfo): string {
  if (token.revoked_at) return `revoked ${instant(token.revoked_at)}`
  if (!token.holds) return `ended ${instant(token.expires_at!)}`
  return token.expires_at ? `until ${instant(token.expires_at)}` : 'until revoked'
}

async function make(): Promise<void> {
  await attempt(async () => {
    made.value = await makeToken(name.value.trim(), days.value || null)
    copied.value = false
    name.value = ''
    await again()
  })
}

async function copy(): Promise<void> {
  await navigator.clipboard.writeText(made.value!.token)
  copied.value = true
}

async function revoke(id: string): Promise<void> {
  asked.value = null
  await attempt(async () => {
    await revokeToken(id)
    if (made.value?.id === id) made.value = null
    await again()
  })
}
</script>

<template>
  <header>
    <h1>Tokens</h1>
    <p class="soft">
      Whoever has a token may do everything here.
      <template v-if="found"
        >{{ found.length - ended }} hold<template v-if="ended">, {{ ended }} ended</template
        >.</template
      >
    </p>
  </header>
  <main>
    <form class="make" @submit.prevent="make">
      <label
        ><span class="soft">For</span
        ><input
          v-model="name"
          class="field"
          maxlength="100"
          placeholder="Ada's notebook, the night job …"
          aria-label="Whose the token is, or what for"
      /></label>
      <label
        ><span class="soft">It holds for</span
        ><select v-model.number="days" class="field" aria-label="How long it holds">
          <option v-for="(title, span) in SPANS" :key="span" :value="Number(span)">
            {{ title }}
          </option>
        </select></label
      >
      <button class="plain go" :disabled="!name.trim()">Make a token</button>
    </form>
    <ProblemNote :problem="changeProblem ?? problem" />
    <section v-if="made" class="sheet fresh" aria-live="polite">
      <p>
        <b>The token for {{ made.name }}</b
        >, shown this once: only its hash is kept.
      </p>
      <p class="secret">
        <code class="code">{{ made.token }}</code><button class="plain" @click="copy">
          {{ copied ? 'Copied' : 'Copy' }}
        </button>
      </p>
    </section>
    <p v-if="!found && !problem" class="soft">Looking …</p>
    <div v-if="found" class="scroll" tabindex="0" role="region" aria-label="Tokens">
      <PlainTable label="Tokens, the newest first">
        <thead>
          <tr>
            <th scope="col">For</th>
            <th scope="col">Token</th>
            <th scope="col">Made</th>
            <th scope="col">Last used</th>
            <th scope="col">Holds</th>
            <th scope="col"><span class="visually-hidden">Revoke</span></th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="t in found" :key="t.id" :class="{ gone: !t.holds }">
            <th scope="row">
              {{ t.name }}<span v-if="t.id === own" class="soft">, this browser's</span>
            </th>
            <td class="code">{{ t.id }}</td>
            <td>{{ instant(t.created_at) }}</td>
            <td>{{ t.last_used_at ? instant(t.last_used_at) : 'never' }}</td>
            <td>{{ state(t) }}</td>
            <td class="end">
              <template v-if="t.holds">
                <template v-if="asked === t.id"
                  ><button class="link wrong" @click="revoke(t.id)">
                    {{ t.id === own ? 'Revoke, and sign out here' : 'Revoke it' }}
                  </button>
                  · <button class="link" @click="asked = null">Keep it</button></template
                >
                <button
                  v-else
                  class="link"
                  :aria-label="`Revoke the token for ${t.name}`"
                  @click="asked = t.id"
                >
                  Revoke …
                </button>
              </template>
            </td>
          </tr>
        </tbody>
      </PlainTable>
    </div>
  </main>
</template>

<style scoped>
.scroll {
  overflow-x: auto;
}
header {
  padding: 20px 24px 0;
}
main {
  padding: 14px 24px 32px;
  max-width: 1000px;
}
.make {
  display: flex;
  flex-wrap: wrap;
  gap: 14px;
  align-items: end;
  margin-bottom: 14px;
}
.make label {
  display: grid;
  gap: 2px;
}
.make input {
  width: 280px;
}
.fresh {
  padding: 10px 14px;
  margin: 0 0 16px;
}
.secret {
  display: flex;
  gap: 12px;
  align-items: center;
  margin-top: 6px;
  overflow-wrap: anywhere;
}
.make .field {
  height: 30px;
}
.end {
  text-align: right;
  white-space: nowrap;
}
.gone {
  color: var(--soft);
}
</style>

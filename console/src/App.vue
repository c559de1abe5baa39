<script setup lang="ts">
import { onMounted, onUnmounted } from 'vue'
import { useRouter } from 'vue-router'

import SignIn from './shell/SignIn.vue'
import { useSession } from './shell/session'
import LeftRail from './shell/LeftRail.vue'

const session = useSession()
const router = useRouter()
const PAGES: Record<string, string> = { s: 'screens', c: 'companies', l: 'lists', m: 'match', k: 'collect', a: 'catalogue', t: 'statements', q: 'quality', r: 'market', e: 'estimates', d: 'calendar', n: 'series', u: 'measures', p: 'panels', o: 'tokens' }
let going = false

/** `/` to the page's search, `g` and a letter to a page; never while something is being typed. */
function key(event: KeyboardEvent): void {
  const target = event.target as HTMLElement
  if (target.closest('input, textarea, [contenteditable]') || event.ctrlKey || event.metaKey || event.altKey) return
  if (going && PAGES[event.key]) void router.push({ name: PAGES[event.key] })
  going = event.key === 'g'
  if (event.key === '/') {
    event.preventDefault()
    document.querySelector<HTMLElement>('[data-search]')?.focus()
  }
}

onMounted(() => addEventListener('keydown', key))
onUnmounted(() => removeEventListener('keydown', key))
</script>

<template>
  <v-app>
    <div v-if="session.token" class="frame">
      <LeftRail />
      <div class="page"><router-view /></div>
    </div>
    <SignIn v-else />
  </v-app>
</template>

<style scoped>
.frame {
  display: grid;
  grid-template-columns: 172px minmax(0, 1fr);
  min-height: 100vh;
}
.page {
  min-width: 0;
}
</style>

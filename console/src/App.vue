<script setup lang="ts">
import { provide, ref, watch } from 'vue'

import { useBroken } from './asking/broken'
import ProblemNote from './asking/ProblemNote.vue'
import { STANDING, useStanding } from './asking/standing'
import KeyHelp from './shell/KeyHelp.vue'
import { useKeys } from './shell/keys'
import LeftRail from './shell/LeftRail.vue'
import { useSession } from './shell/session'
import SignIn from './shell/SignIn.vue'

const session = useSession()
const help = ref(false)
useKeys(() => (help.value = true))

const { add, stale, awaited, words, failed, again } = useStanding()
provide(STANDING, { add, again })
const broken = useBroken()
// What comes at once is not announced as late.
const late = ref(false)
let timer: ReturnType<typeof setTimeout> | undefined
watch(
  () => stale.value || awaited.value,
  (now) => {
    clearTimeout(timer)
    if (now) timer = setTimeout(() => (late.value = true), 300)
    else late.value = false
  },
)
</script>

<template>
  <v-app>
    <div v-if="session.token" class="frame">
      <a class="skip" href="#page">To the page</a>
      <LeftRail />
      <div
        id="page"
        class="page"
        tabindex="-1"
        :class="{ late: late && stale }"
        :aria-busy="stale || awaited"
      >
        <p class="standing" aria-live="polite" :class="{ on: late }">
          {{ words }} <button v-if="failed" class="link" @click="again">Try again</button>
        </p>
        <ProblemNote class="broken" :problem="broken" />
        <router-view />
      </div>
    </div>
    <SignIn v-else />
    <KeyHelp v-if="help" @close="help = false" />
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
.broken {
  margin: 12px 24px 0;
}
.page:focus {
  outline: none;
}
.skip {
  position: absolute;
  left: 8px;
  top: -60px;
  z-index: 20;
  background: var(--sheet);
  border: 1px solid var(--spruce);
  border-radius: 4px;
  padding: 6px 12px;
}
.skip:focus {
  top: 8px;
}
.standing .link {
  color: inherit;
  text-decoration: underline;
  margin-left: 8px;
}
.standing {
  position: fixed;
  z-index: 12;
  left: calc(50% + 86px);
  bottom: 18px;
  translate: -50% 0;
  background: var(--plum);
  color: var(--paper);
  border-radius: 14px;
  padding: 4px 14px;
  font-size: 13px;
  visibility: hidden;
  opacity: 0;
}
.standing.on {
  visibility: visible;
  opacity: 1;
}
/* Dimmed, and still to be read: every ink is the soft one. */
.page.late :deep(:is(table, figure)) {
  --ink: var(--soft);
  --spruce: var(--soft);
  --plum: var(--soft);
  --brick: var(--soft);
  --ochre: var(--rule);
  --ochre-ink: var(--soft);
  color: var(--soft);
}
@media (max-width: 1100px) {
  .frame {
    grid-template-columns: 148px minmax(0, 1fr);
  }
}
@media (max-width: 800px) {
  .frame {
    grid-template-columns: minmax(0, 1fr);
    grid-template-rows: auto 1fr;
  }
}
</style>

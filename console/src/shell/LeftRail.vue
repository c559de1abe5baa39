<script setup lang="ts">
import { useRoute } from 'vue-router'
import { useTheme } from 'vuetify'

import { useSession } from './session'
import { keepTheme } from '../theme'

/** The pages in the order of the work; one appears here when it works. */
const groups = [
  {
    title: 'Find',
    pages: [
      { name: 'companies', title: 'Companies' },
      { name: 'match', title: 'Match' },
      { name: 'lists', title: 'Lists' },
      { name: 'catalogue', title: 'Catalogue' },
    ],
  },
  {
    title: 'Gather',
    pages: [
      { name: 'collect', title: 'Collect' },
      { name: 'statements', title: 'Statements' },
      { name: 'market', title: 'Market' },
      { name: 'estimates', title: 'Estimates' },
      { name: 'calendar', title: 'Calendar' },
      { name: 'series', title: 'Series' },
    ],
  },
  {
    title: 'Work',
    pages: [
      { name: 'measures', title: 'Measures' },
      { name: 'screens', title: 'Screens' },
      { name: 'panels', title: 'Panels' },
    ],
  },
  {
    title: 'Keep',
    pages: [
      { name: 'quality', title: 'Quality' },
      { name: 'tokens', title: 'Tokens' },
    ],
  },
]
const session = useSession()
const route = useRoute()
const theme = useTheme()

function turn(): void {
  const name = theme.global.current.value.dark ? 'light' : 'dark'
  theme.change(name)
  keepTheme(name)
}
</script>

<template>
  <nav aria-label="Pages">
    <div class="brand">
      <img src="/favicon.svg" width="22" height="22" alt="" />
      Wise Ledger
    </div>
    <section v-for="group in groups" :key="group.title">
      <p class="group">{{ group.title }}</p>
      <router-link
        v-for="page in group.pages"
        :key="page.name"
        :to="{ name: page.name }"
        active-class="on"
        :class="{
          on:
            (page.name === 'companies' &&
              (route.name === 'company' || route.name === 'directory')) ||
            (page.name === 'collect' && route.name === 'run') ||
            (page.name === 'catalogue' && route.name === 'item'),
        }"
      >
        {{ page.title }}
      </router-link>
    </section>
    <footer>
      <button class="link" @click="turn">
        {{ theme.global.current.value.dark ? 'Light' : 'Dark' }} theme
      </button>
      <button class="link" @click="session.signOut()">Sign out</button>
    </footer>
  </nav>
</template>

<style scoped>
nav {
  position: sticky;
  top: 0;
  height: 100vh;
  border-right: 1px solid var(--rule);
  padding: 20px 0 16px 20px;
  display: flex;
  flex-direction: column;
}
.brand {
  font: 600 18px/1 var(--title);
  letter-spacing: -0.2px;
  display: flex;
  align-items: center;
  gap: 9px;
  margin-bottom: 20px;
}
.group {
  font-weight: 600;
  font-size: 11px;
  letter-spacing: 0.06em;
  color: var(--soft);
  margin: 6px 0 3px;
}
nav a {
  display: block;
  padding: 3px 0 3px 10px;
  margin-left: -10px;
  border-left: 2px solid transparent;
  color: var(--ink);
}
nav a.on {
  border-color: var(--spruce);
  color: var(--spruce);
  font-weight: 600;
}
footer {
  margin-top: auto;
  display: grid;
  gap: 6px;
  justify-items: start;
}
footer .link {
  color: var(--soft);
  font-size: 13px;
}
@media (max-width: 800px) {
  nav {
    position: static;
    height: auto;
    flex-flow: row wrap;
    gap: 2px 14px;
    padding: 10px 16px;
    border-right: 0;
    border-bottom: 1px solid var(--rule);
  }
  nav section {
    display: contents;
  }
  .brand {
    margin: 0 8px 0 0;
  }
  .group {
    display: none;
  }
  nav a {
    margin: 0;
    padding: 2px 0;
    border-left: 0;
    border-bottom: 2px solid transparent;
  }
  footer {
    margin: 0;
    display: flex;
    gap: 14px;
  }
}
</style>

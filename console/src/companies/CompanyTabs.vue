<script setup lang="ts">
import { useRoute } from 'vue-router'

/** Companies and the directories beside them. */
const route = useRoute()
const KINDS = ['venues', 'securities', 'listings']
</script>

<template>
  <nav class="tabline" aria-label="Directories">
    <router-link :to="{ name: 'companies' }" :class="{ on: route.name === 'companies' }"
      >Companies</router-link
    >
    <router-link
      v-for="kind in KINDS"
      :key="kind"
      :to="{ name: 'directory', params: { kind } }"
      :class="{ on: route.params.kind === kind }"
      >{{ kind[0]!.toUpperCase() + kind.slice(1) }}</router-link
    >
  </nav>
</template>

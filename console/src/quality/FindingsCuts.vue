<script setup lang="ts">
import type { Quality } from '../api/types'
import { useAddress } from '../asking/address'

/**
 * Where findings lie, by check, company and source; pressing one shows those alone, pressing it
 * again all.
 */
defineProps<{ found: Quality }>()
const { one, set } = useAddress()

function cut(name: string, value: string): void {
  set({ [name]: one(name) === value ? undefined : value })
}
</script>

<template>
  <div class="cuts">
    <section>
      <h2>By check</h2>
      <p v-for="(n, name) in found.by_check" :key="name">
        <button
          class="link"
          :class="{ on: one('check') === name }"
          :title="found.checks[name]"
          @click="cut('check', String(name))"
        >
          {{ String(name).replaceAll('_', ' ') }}
        </button>
        <b>{{ n }}</b> <span class="soft small">{{ found.checks[name] }}</span>
      </p>
      <p v-if="!Object.keys(found.by_check).length" class="soft">No check found anything wrong.</p>
    </section>
    <section>
      <h2>By company</h2>
      <p v-for="c in found.by_company.slice(0, 6)" :key="c.company">
        <button
          class="link"
          :class="{ on: one('company') === c.company }"
          @click="cut('company', c.company)"
        >
          {{ c.name }}
        </button>
        <b>{{ c.findings }}</b>
      </p>
    </section>
    <section>
      <h2>By source</h2>
      <p v-for="(n, name) in found.by_source" :key="name">
        <button
          class="link"
          :class="{ on: one('source') === name }"
          @click="cut('source', String(name))"
        >
          {{ name }}
        </button>
        <b>{{ n }}</b>
      </p>
    </section>
  </div>
</template>

<style scoped>
.cuts {
  display: grid;
  grid-template-columns: minmax(0, 2fr) minmax(0, 1.2fr) minmax(0, 0.7fr);
  gap: 32px;
  margin: 10px 0;
}
.link.on {
  font-weight: 600;
  text-decoration: underline;
}
.small {
  font-size: 12.5px;
}
.cuts button {
  margin-right: 4px;
}
</style>

<script setup lang="ts">
import { vOneStop } from './stops'

/**
 * A table of words and figures that are no cells of a question: named, lined, one stop of the tab
 * key.
 */
defineProps<{ label: string }>()
</script>

<template>
  <table v-one-stop class="lined">
    <caption class="visually-hidden">
      {{
        label
      }}
    </caption>
    <slot />
  </table>
</template>

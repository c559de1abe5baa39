<script setup lang="ts">
import { partOf } from './open'

/** How the figures of a statement are to be read. */
defineProps<{ basis: string }>()
</script>

<template>
  <p class="soft hint">
    <template v-if="basis !== 'consolidated'"
      >Figures of {{ partOf(basis) }} alone; they are never mixed with the consolidated ones.
    </template>
    Heads: period and when it first became public. In brackets: taken from its subtotal, or negative
    (red).
    <i>Italic</i>: derived from other figures. Open a figure to see where it comes from; press a
    line's name to draw it.
  </p>
</template>

<style scoped>
.hint {
  font-size: 12.5px;
  margin-top: 8px;
}
</style>

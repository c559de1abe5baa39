<script setup lang="ts">
import type { Look } from './look'

/** One figure: a button that opens it; a corner says that it was restated, brackets and red that it is negative. */
defineProps<{ look: Look; place: string; on: boolean }>()
defineEmits<{ open: [] }>()
</script>

<template>
  <td :class="{ restated: look.restated, later: look.later, words: look.words }">
    <span v-if="look.words" :class="{ missing: look.missing }" :title="look.about">{{ look.text }}</span>
    <button
      v-else
      class="figure"
      :class="{ missing: look.missing, negative: look.negative, formed: look.formed, on }"
      :data-cell="place"
      :title="look.about"
      :aria-description="look.about || undefined"
      @click="$emit('open')"
    ><small v-if="look.currency" class="currency">{{ look.currency }}&nbsp;</small>{{ look.text }}</button><span v-if="look.flagged" class="flag" aria-hidden="true">!</span>
  </td>
</template>

<style scoped>
.figure {
  all: unset;
  cursor: pointer;
  padding: 3px 2px;
  border-radius: 2px;
}
.figure:hover {
  color: var(--spruce);
  text-decoration: underline;
}
.figure:focus-visible {
  outline: 2px solid var(--spruce);
}
.figure.on {
  outline: 1.5px solid var(--spruce);
}
.currency {
  color: var(--soft);
  font-size: 11.5px;
  font-style: normal;
  margin-right: 2px;
}
.formed {
  font-style: italic;
}
.missing {
  color: var(--soft);
  font-size: 12.5px;
  font-weight: 400;
  font-style: normal;
}
.negative {
  color: var(--brick);
}
.words {
  text-align: left;
}
.flag {
  color: var(--ochre);
  font-weight: 700;
  margin-left: 2px;
}
</style>

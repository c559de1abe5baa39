<script setup lang="ts">
import { computed } from 'vue'

/**
 * The head of a plain column by which the rows can stand: lowest first, highest first, as they
 * were.
 */
const props = defineProps<{ name: string; sort: string | undefined; number?: boolean }>()
const emit = defineEmits<{ sort: [by: string | undefined] }>()
const direction = computed(() =>
  props.sort === props.name ? 'ascending' : props.sort === `-${props.name}` ? 'descending' : 'none',
)

function next(): void {
  const [first, second] = props.number
    ? [`-${props.name}`, props.name]
    : [props.name, `-${props.name}`]
  emit('sort', props.sort === first ? second : props.sort === second ? undefined : first)
}
</script>

<template>
  <th scope="col" :aria-sort="direction" :class="{ n: number }">
    <button class="head" :class="{ by: direction !== 'none' }" @click="next">
      <slot /><span aria-hidden="true">{{
        { ascending: '↑', descending: '↓', none: '' }[direction]
      }}</span>
    </button>
  </th>
</template>

<style scoped>
.head {
  all: unset;
  cursor: pointer;
}
.head:hover,
.head.by {
  color: var(--spruce);
}
.head:focus-visible {
  outline: 2px solid var(--spruce);
}
span {
  margin-left: 3px;
}
</style>

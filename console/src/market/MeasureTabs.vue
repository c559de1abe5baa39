<script setup lang="ts">
/** Which measure of the estimates is shown. */
defineProps<{ value: string }>()
const emit = defineEmits<{ choose: [measure: string] }>()
</script>

<template>
  <nav class="tabline" aria-label="Measures">
    <button
      v-for="m in ['eps', 'revenue']"
      :key="m"
      class="tab"
      :class="{ on: value === m }"
      :aria-pressed="value === m"
      @click="emit('choose', m)"
    >
      {{ m }}
    </button>
  </nav>
</template>

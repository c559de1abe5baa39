<script setup lang="ts">
/** Views of a page side by side, one of them shown; what else belongs into the line follows them. */
defineProps<{
  label: string
  tabs: Record<string, string>
  value: string
  off?: string // cannot be shown now
}>()
const emit = defineEmits<{ choose: [name: string] }>()
</script>

<template>
  <div class="tabline" role="group" :aria-label="label">
    <button
      v-for="(title, name) in tabs"
      :key="name"
      class="tab"
      :class="{ on: value === name }"
      :aria-pressed="value === name"
      :disabled="off === name"
      @click="emit('choose', name)"
    >
      {{ title }}
    </button>
    <slot />
  </div>
</template>

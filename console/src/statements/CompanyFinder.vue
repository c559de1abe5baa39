<script setup lang="ts">
import { computed, ref, watch } from 'vue'

import { companies } from '../api/ledger'
import { useQuestion } from '../asking/question'

/**
 * Another company, by name, symbol or identifier: in the place of the one shown, or (with Shift)
 * beside it.
 */
const props = defineProps<{ knownOn: string; beside: boolean }>()
const emit = defineEmits<{ choose: [company: string, beside: boolean] }>()
const text = ref('')
const at = ref(0)
const { answer: found, loading } = useQuestion(
  () =>
    text.value.length > 1 ? { query: text.value, on: props.knownOn, with_inactive: true } : null,
  companies,
  { keep: false, apart: true },
)
const offered = computed(() => found.value?.companies.slice(0, 8) ?? [])
const open = computed(
  () => text.value.length > 1 && (offered.value.length > 0 || (!!found.value && !loading.value)),
)
watch(offered, () => (at.value = 0))

function choose(company: string, beside: boolean): void {
  text.value = ''
  emit('choose', company, beside && props.beside)
}

function key(event: KeyboardEvent): void {
  const count = offered.value.length
  if (event.key === 'Escape' && text.value) {
    event.stopPropagation()
    text.value = ''
  } else if (count && (event.key === 'ArrowDown' || event.key === 'ArrowUp')) {
    event.preventDefault()
    at.value = (at.value + (event.key === 'ArrowDown' ? 1 : count - 1)) % count
  } else if (count && event.key === 'Enter') {
    event.preventDefault()
    choose(offered.value[at.value]!.id, event.shiftKey)
  }
}
</script>

<template>
  <div class="finder">
    <input
      v-model="text"
      data-search
      class="field"
      role="combobox"
      aria-autocomplete="list"
      aria-controls="companies-offered"
      :aria-expanded="open"
      :aria-activedescendant="open && offered.length ? `offered-${at}` : undefined"
      placeholder="Another company"
      aria-label="Another company"
      :title="beside ? 'Enter shows it; with Shift it stands beside' : undefined"
      spellcheck="false"
      autocomplete="off"
      @keydown="key"
    />
    <ul v-if="open" id="companies-offered" class="sheet" role="listbox" aria-label="Companies">
      <li
        v-for="(c, n) in offered"
        :id="`offered-${n}`"
        :key="c.id"
        role="option"
        :aria-selected="n === at"
        :class="{ at: n === at }"
        @mousemove="at = n"
        @click="choose(c.id, $event.shiftKey)"
      >
        <span
          >{{ c.name }}
          <span class="soft small">{{
            c.listings[0] ? `${c.listings[0].symbol}@${c.listings[0].mic}` : c.id
          }}</span></span
        >
        <button
          v-if="beside"
          class="link soft"
          tabindex="-1"
          :aria-label="`${c.name} beside`"
          @click.stop="choose(c.id, true)"
        >
          Compare
        </button>
      </li>
      <li v-if="!offered.length" class="soft" role="option" aria-selected="false">
        No company is called like this.
      </li>
    </ul>
  </div>
</template>

<style scoped>
.finder {
  position: relative;
}
ul {
  position: absolute;
  right: 0;
  top: 34px;
  z-index: 6;
  list-style: none;
  padding: 4px;
  width: 340px;
  box-shadow: 0 4px 16px #0002;
}
li {
  display: flex;
  justify-content: space-between;
  gap: 12px;
  padding: 4px 8px;
  border-radius: 3px;
  cursor: pointer;
}
li.at {
  background: var(--chosen);
}
.small {
  font-size: 12px;
}
</style>

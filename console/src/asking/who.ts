import { computed, ref, watch } from 'vue'

const KEPT = 'wise-ledger-who'
const who = ref(localStorage.getItem(KEPT) ?? '')
watch(who, (name) => localStorage.setItem(KEPT, name))

/** Who is at work: a name given once, kept by the browser, put beside every change. */
export function useWho() {
  return { who, signed: computed(() => who.value.trim() || 'somebody') }
}

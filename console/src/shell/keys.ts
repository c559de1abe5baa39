import { onMounted, onUnmounted } from 'vue'
import { useRouter } from 'vue-router'

/** The pages by the letter that leads to them after `g`. */
export const PAGES: Record<string, string> = {
  c: 'companies',
  m: 'match',
  l: 'lists',
  a: 'catalogue',
  k: 'collect',
  t: 'statements',
  r: 'market',
  e: 'estimates',
  d: 'calendar',
  n: 'series',
  u: 'measures',
  s: 'screens',
  p: 'panels',
  q: 'quality',
  o: 'tokens',
}

/** The keys that hold on every page, as `?` lists them. */
export const KEYS: [keys: string, what: string][] = [
  ['/', 'to the search of the page'],
  ['?', 'this list'],
  ['Esc', 'closes what was opened last: a document, a figure, a list of proposals'],
  ['[ and ]', 'the stamp to the month end before, and to the next'],
  ['↓ and Enter in a search', 'into what it found; opens the first of it'],
  ['← → ↑ ↓', 'from figure to figure, link to link in a table; Home and End to the ends'],
  ['Enter', 'opens a figure, takes a proposal'],
  ['← → on the ruler', 'by months; with Shift by days; Page Up and Page Down by years'],
]

/** Keys that hold everywhere, never while something is being typed. */
export function useKeys(help: () => void): void {
  const router = useRouter()
  let going = false

  function key(event: KeyboardEvent): void {
    const target = event.target as HTMLElement
    const typing = target.closest(
      'input:not([type=checkbox]):not([type=radio]), textarea, select, [contenteditable]',
    )
    if (typing || event.ctrlKey || event.metaKey || event.altKey) return
    if (going && PAGES[event.key]) void router.push({ name: PAGES[event.key] })
    going = event.key === 'g'
    if (event.key === '?') help()
    if (event.key === '[' || event.key === ']')
      document.querySelector<HTMLElement>(`[data-step="${event.key}"]`)?.click()
    if (event.key === '/') {
      event.preventDefault()
      document.querySelector<HTMLElement>('[data-search]')?.focus()
    }
  }

  onMounted(() => addEventListener('keydown', key))
  onUnmounted(() => removeEventListener('keydown', key))
}

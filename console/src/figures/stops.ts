import type { Directive } from 'vue'

const REACHED = ':is(a[href], button:not(:disabled), input[type=checkbox]:not(:disabled))'

/** What the tab key alone led to, row by row, in the order in which it is read. */
export function rowsOf(within: Element): HTMLElement[][] {
  const rows = new Map<Element, HTMLElement[]>()
  for (const item of within.querySelectorAll<HTMLElement>(REACHED)) {
    if (item.closest('thead')) continue // heads that sort are stops of their own
    const row = item.closest('tr, li') ?? item
    rows.set(row, [...(rows.get(row) ?? []), item])
  }
  return [...rows.values()]
}

/** Where a key leads from an item; undefined where it leads nowhere. */
export function led<T>(rows: T[][], from: T, key: string): T | undefined {
  const down = rows.findIndex((row) => row.includes(from))
  const across = rows[down]?.indexOf(from) ?? -1
  const to = (row: number): T | undefined => {
    const there = rows[Math.min(rows.length - 1, Math.max(0, row))]!
    return there[Math.min(across, there.length - 1)]
  }
  if (across < 0) return undefined
  if (key === 'ArrowDown') return to(down + 1)
  if (key === 'ArrowUp') return to(down - 1)
  if (key === 'PageDown') return to(down + 12)
  if (key === 'PageUp') return to(down - 12)
  if (key === 'ArrowRight') return rows[down]![across + 1]
  if (key === 'ArrowLeft') return rows[down]![across - 1]
  if (key === 'Home') return rows[0]![0]
  if (key === 'End') return rows.at(-1)![0]
  return undefined
}

/** The field that found what stands inside. */
function leader(within: Element): HTMLElement | undefined {
  const fields = document.querySelectorAll<HTMLElement>('[data-leads-to]')
  return [...fields].find((field) => within.closest(field.dataset.leadsTo!))
}

/**
 * One stop of the tab key for all links, buttons and boxes inside; the arrows lead on from there.
 */
function oneStop(within: HTMLElement): () => void {
  let here: HTMLElement | undefined
  const settle = (): void => {
    const all = rowsOf(within).flat()
    if (!here || !all.includes(here)) here = all[0]
    for (const item of all) item.tabIndex = item === here ? 0 : -1
  }
  const come = (event: FocusEvent): void => {
    const item = (event.target as Element).closest<HTMLElement>(REACHED)
    if (!item || item.closest('thead') || item === here) return
    if (here) here.tabIndex = -1
    here = item
    item.tabIndex = 0
  }
  const lead = (event: KeyboardEvent): void => {
    if (event.ctrlKey || event.metaKey || event.altKey || event.shiftKey) return
    const rows = rowsOf(within)
    const from = event.target as HTMLElement
    const next = led(rows, from, event.key)
    if (!next) return
    event.preventDefault()
    const atTheTop = event.key === 'ArrowUp' && next === from
    ;(atTheTop ? (leader(within) ?? next) : next).focus()
  }
  settle()
  const seen = new MutationObserver(settle)
  seen.observe(within, { childList: true, subtree: true, attributeFilter: ['disabled', 'href'] })
  within.addEventListener('focusin', come)
  within.addEventListener('keydown', lead)
  return () => {
    seen.disconnect()
    within.removeEventListener('focusin', come)
    within.removeEventListener('keydown', lead)
  }
}

const ends = new WeakMap<HTMLElement, () => void>()

/** `v-one-stop`: a list or table is one stop of the tab key. */
export const vOneStop: Directive<HTMLElement> = {
  mounted: (el) => void ends.set(el, oneStop(el)),
  beforeUnmount: (el) => ends.get(el)?.(),
}

const CALM = 250 // ms after the last letter in which the question for it begins

/**
 * `v-leads-to="'#found'"`: from a field that searches, down into what was found; Enter opens the
 * first of it.
 */
export const vLeadsTo: Directive<HTMLElement, string> = {
  mounted(el, { value }) {
    el.dataset.leadsTo = value
    let typed = -CALM
    let turn = 0
    el.addEventListener('input', (event) => (typed = event.timeStamp))
    el.addEventListener('keydown', (event) => {
      const mine = ++turn
      if (event.key !== 'ArrowDown' && event.key !== 'Enter') return
      event.preventDefault()
      // What stands there may have been found for other letters: it goes on once it belongs to
      // these.
      const go = (): void => {
        if (mine !== turn || document.activeElement !== el) return
        const busy = performance.now() - typed < CALM || document.querySelector('[aria-busy=true]')
        if (busy) return void setTimeout(go, 40)
        const place = document.querySelector(value)
        const first = place && rowsOf(place)[0]?.[0]
        if (event.key === 'Enter') first?.click()
        else first?.focus()
      }
      go()
    })
  },
}

/** Arrows between the tabs of a row, as Home and End: the tab key stops at the chosen one alone. */
export function arrowTabs(event: KeyboardEvent): void {
  const row = event.currentTarget as HTMLElement
  const tabs = [...row.querySelectorAll<HTMLElement>('[role=tab]')]
  const here = tabs.indexOf(event.target as HTMLElement)
  const to = { ArrowLeft: here - 1, ArrowRight: here + 1, Home: 0, End: tabs.length - 1 }[event.key]
  if (here < 0 || to === undefined) return
  event.preventDefault()
  const next = tabs[(to + tabs.length) % tabs.length]!
  next.focus()
  next.click()
}

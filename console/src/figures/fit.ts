/** Whole columns at both ends of a table that scrolls beneath a column that stays. */

import { nextTick, onMounted, onUnmounted, type Ref, ref, watch } from 'vue'

/**
 * `spare` is the room behind the last column, so that at the end, too, a column begins where the
 * ones that stay end; `first` is the width of what stays at the left. Both are pixels, and only of
 * a table that is read from its end. `fit` reckons them again.
 */
export function useFit(
  place: Readonly<Ref<HTMLElement | null>>,
  table: { fromEnd?: boolean; opened: unknown; columns: { key: string }[] },
) {
  const spare = ref(0)
  const first = ref(0)

  async function fit(toEnd: boolean): Promise<void> {
    const box = place.value
    if (!box) return
    first.value = box.querySelector<HTMLElement>('thead .first')?.offsetWidth ?? 0
    const most = box.scrollWidth - spare.value - box.clientWidth
    // By rectangles: the offsets of heads that stay in sight move with the scroll.
    const zero = box.getBoundingClientRect().left - box.scrollLeft + first.value
    const begins = [...box.querySelectorAll('thead th.column')].map((th) =>
      Math.round(th.getBoundingClientRect().left - zero),
    )
    spare.value =
      table.fromEnd && most > 0
        ? Math.max(0, Math.round((begins.find((b) => b >= most - 1) ?? most) - most))
        : 0
    await nextTick()
    if (toEnd && table.fromEnd && !table.opened) box.scrollLeft = box.scrollWidth
    else if (table.fromEnd) align(box, begins)
  }

  /** No column stands half behind the one that stays; nor is the open figure pushed behind it. */
  function align(box: HTMLElement, begins: number[]): void {
    const now = box.scrollLeft
    const cell = box.querySelector('.figure.on')?.closest('td')
    const open = cell
      ? cell.getBoundingClientRect().left - box.getBoundingClientRect().left + now
      : Infinity
    const next = begins.find((begin) => begin >= now - 1) ?? now
    box.scrollLeft =
      next + first.value <= open ? next : Math.max(0, ...begins.filter((begin) => begin <= now))
  }

  const watcher = new ResizeObserver(() => void fit(false))
  onMounted(() => {
    watcher.observe(place.value!)
    void fit(true)
  })
  onUnmounted(() => watcher.disconnect())
  watch(
    () => table.columns.map((c) => c.key).join(),
    () => void nextTick(() => fit(true)),
  )
  return { spare, first, fit }
}

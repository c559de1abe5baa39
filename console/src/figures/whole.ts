const CUT = '.cut, .lined td, .lined tbody th'

/** Whatever a table has no room for is read whole where the pointer stands, as it is then. */
export function readWhole(within: Document): void {
  const ours = new WeakSet<HTMLElement>()
  within.addEventListener('pointerover', (event) => {
    const cell = event.target instanceof Element ? event.target.closest<HTMLElement>(CUT) : null
    if (!cell || (cell.title && !ours.has(cell))) return // it says something else
    const cut = cell.scrollWidth > cell.clientWidth
    if (cut) ours.add(cell)
    if (cut || cell.title) cell.title = cut ? cell.innerText : ''
  })
}

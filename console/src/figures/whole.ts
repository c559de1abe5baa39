const CUT = '.cut, .lined td, .lined tbody th'

/** Whatever a table has no room for is read whole where the pointer stands. */
export function readWhole(within: Document): void {
  within.addEventListener('pointerover', (event) => {
    const cell = event.target instanceof Element ? event.target.closest<HTMLElement>(CUT) : null
    if (cell && !cell.title && cell.scrollWidth > cell.clientWidth) cell.title = cell.innerText
  })
}

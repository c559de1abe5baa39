// @vitest-environment happy-dom
import { expect, it } from 'vitest'

import { readWhole } from '../src/figures/whole'

it('says what a cell has no room for, as it is then, and leaves other words', () => {
  document.body.innerHTML =
    '<table class="lined"><tr><td><a>long</a></td><td title="why">x</td></tr></table>'
  readWhole(document)
  const cells = [...document.querySelectorAll<HTMLElement>('td')]
  const [cell, told] = [cells[0]!, cells[1]!]
  let wide = 10
  for (const each of cells) Object.defineProperty(each, 'scrollWidth', { get: () => wide })
  const come = (to: Element): boolean =>
    to.dispatchEvent(new Event('pointerover', { bubbles: true }))
  come(cell.querySelector('a')!)
  come(told)
  expect([cell.title, told.title]).toEqual(['long', 'why'])
  cell.firstElementChild!.textContent = 'another'
  come(cell)
  expect(cell.title).toBe('another')
  wide = 0
  come(cell)
  expect(cell.title).toBe('')
})

import { describe, expect, it } from 'vitest'

import { led } from '../src/figures/stops'

describe('the arrows in a table of links', () => {
  const rows = [['a'], ['b', 'c', 'd'], ['e', 'f']]
  it('lead through rows and along them, and stay inside', () => {
    const way = (from: string, ...keys: string[]): string =>
      keys.reduce((at, key) => led(rows, at, key) ?? at, from)
    expect(way('a', 'ArrowUp', 'ArrowLeft')).toBe('a')
    expect(way('a', 'ArrowDown', 'ArrowRight', 'ArrowRight', 'ArrowRight')).toBe('d')
    expect(way('d', 'ArrowDown', 'ArrowDown')).toBe('f') // a shorter row gives its last
    expect(way('f', 'ArrowUp')).toBe('c')
    expect(way('c', 'PageDown')).toBe('f')
    expect([way('c', 'Home'), way('a', 'End')]).toEqual(['a', 'e'])
  })
  it('are left alone for all that is not inside, and for every other key', () => {
    expect(led(rows, 'z', 'ArrowDown')).toBeUndefined()
    expect(led(rows, 'a', 'x')).toBeUndefined()
  })
})

// @vitest-environment happy-dom
import fc from 'fast-check'
import { describe, expect, it } from 'vitest'

import { machines, PAGES, words } from './service/pages'
import { close, open, settled, wrong } from './service/standin'

// So many rounds by hand, of whatever chance gives: DEEDS=50 npx vitest run tests/everycontrol
const { DEEDS } = process.env
const rounds = DEEDS ? { numRuns: Number(DEEDS) } : { numRuns: 1, seed: 20261127 }
const TEXTS = [
  'revenue',
  'AGK@ZALD',
  '2023-06-30',
  '12',
  '',
  ' ',
  '<b>&"',
  '-1',
  'monthly',
  "o'clock",
  'no such thing',
  '2024-13-45',
  '1e400',
  '株式',
]
const KEYS = [
  'ArrowDown',
  'ArrowRight',
  'ArrowUp',
  'ArrowLeft',
  'Home',
  'End',
  'Enter',
  'Escape',
  'Tab',
  ' ',
  '?',
  '/',
  't',
  '[',
]
const CONTROLS = [
  'button:not([disabled])',
  'input',
  'select',
  'textarea',
  'a[href^="/"]',
  'summary',
  '[tabindex="0"]',
].join()

interface Deed {
  at: number
  choice: number
  text: string
  key: string
  struck: boolean
}

/** Whatever somebody may do at one of the controls: press, choose, write or strike a key. */
const deed: fc.Arbitrary<Deed> = fc.record({
  at: fc.nat(400),
  choice: fc.nat(40),
  text: fc.constantFrom(...TEXTS),
  key: fc.constantFrom(...KEYS),
  struck: fc.boolean(),
})

function isWritten(one: HTMLElement): one is HTMLInputElement | HTMLTextAreaElement {
  if (one instanceof HTMLTextAreaElement) return true
  return one instanceof HTMLInputElement && !['checkbox', 'radio', 'file'].includes(one.type)
}

/** Do it, and say what was done. */
function done(page: HTMLElement, { at, choice, text, key, struck }: Deed): string {
  const controls = [...page.querySelectorAll<HTMLElement>(CONTROLS)]
  const one = controls[at % controls.length]
  if (!one) return 'nothing to do'
  const label = one.getAttribute('aria-label') ?? one.textContent ?? ''
  const name = `${one.tagName.toLowerCase()} "${label.trim().slice(0, 40)}"`
  one.focus()
  if (struck) {
    one.dispatchEvent(new KeyboardEvent('keydown', { key, bubbles: true, cancelable: true }))
    return `${key} at ${name}`
  }
  if (one instanceof HTMLSelectElement) {
    one.selectedIndex = choice % Math.max(1, one.options.length)
    one.dispatchEvent(new Event('change', { bubbles: true }))
    return `choice ${choice} of ${name}`
  }
  if (isWritten(one)) {
    one.value = text
    one.dispatchEvent(new Event('input', { bubbles: true }))
    one.dispatchEvent(new Event('change', { bubbles: true }))
    return `"${text}" into ${name}`
  }
  one.click()
  return `pressed ${name}`
}

describe.each(PAGES)('%s', (path) => {
  it('takes whatever is done to it', async () => {
    await fc.assert(
      fc.asyncProperty(fc.array(deed, { minLength: 12, maxLength: 12 }), async (deeds) => {
        const page = await open(path, (operation) => operation.example)
        const made: string[] = []
        for (const one of deeds) {
          made.push(done(page, one))
          await settled()
        }
        const found = machines(words(page))
        close()
        expect(wrong.splice(0), made.join('; ')).toEqual([])
        expect(found, made.join('; ')).toBeNull()
      }),
      { ...rounds, endOnFailure: true },
    )
  }, 60_000)
})

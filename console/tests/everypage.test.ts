// @vitest-environment happy-dom
import fc from 'fast-check'
import { describe, expect, it } from 'vitest'

import { emptied, OPERATIONS, single, varied } from './service/document'
import { machines, PAGES, words } from './service/pages'
import { close, NEVER, open, refused, settled, wrong } from './service/standin'

const whatever = fc.tuple(
  ...OPERATIONS.map((o) => {
    return o.type === 'application/json' ? varied(o.schema, o.example) : fc.constant(o.example)
  }),
)
// A count in a table, a name and a verdict stand beside a word and do not count it.
const PLURALS =
  /\b1 (?!series|pass|files|assets|days|changes|whose)(?:[a-z]+ )?[a-z]{2,}(?<!s|is|was|has|plus)s\b/g
const CLAIMS = /\b(?:No|Nothing|None|Nobody|nothing|none|empty|0 [a-z]+)\b.{0,30}/g

const about = (path: string) => path.replace(/\?.*/, '')

describe.each(PAGES)('%s', (path) => {
  it('shows whatever the service may answer, and nothing that is for machines', async () => {
    await fc.assert(
      fc.asyncProperty(whatever, async (answers) => {
        const page = await open(path, (o) => {
          const one = answers[OPERATIONS.indexOf(o)]
          // What a run found is of its kind: the example is of a verification.
          if (o.path !== '/api/v1/runs/{run}') return one
          return { ...(one as object), kind: 'verification' }
        })
        const text = words(page)
        close()
        expect(wrong.splice(0)).toEqual([])
        expect(machines(text)).toBeNull()
      }),
      { numRuns: 3, seed: 20261127, endOnFailure: true }, // a smaller one takes minutes to be found
    )
  })

  it('says one where there is one', async () => {
    const page = await open(path, (operation) => single(operation.example))
    expect(wrong).toEqual([])
    expect(words(page).match(PLURALS)).toBeNull()
  })

  it('is whole where there is nothing', async () => {
    const page = await open(path, (operation) => emptied(operation.example))
    expect(wrong).toEqual([])
    expect(words(page).length).toBeGreaterThan(200)
  })

  it('claims nothing while an answer is awaited, and says that it is', async () => {
    const page = await open(path, () => NEVER)
    expect(wrong).toEqual([])
    expect(words(page)).toMatch(/Looking|Reading|Reckoning/)
    expect(words(page).match(CLAIMS)).toBeNull()
  })

  it('says what is wrong, offers to try again, and is well again then', async () => {
    let well = false
    const broken = (): Response => refused(500, 'Out of order', 'the disk is full')
    const page = await open(path, (operation) => (well ? operation.example : broken()))
    expect(words(page)).toContain('Out of order')
    well = true
    const buttons = [...page.querySelectorAll('button')]
    const again = buttons.filter((b) => b.textContent!.trim() === 'Try again')
    expect(again.length, 'a way to try again').toBeGreaterThan(0)
    again.at(-1)!.click()
    await settled()
    expect(words(page)).not.toContain('Out of order')
    expect(wrong).toEqual([])
  })

  it('says that nobody answers', async () => {
    const page = await open(path, () => Promise.reject(new TypeError('Failed to fetch')))
    expect(words(page)).toContain('does not answer')
    expect(wrong).toEqual([])
  })

  it('asks for a token where the one held does no more, and for the same page then', async () => {
    const page = await open(path, () => refused(401, 'Not signed in', 'the token was revoked'))
    expect(words(page)).toContain('Sign in')
    expect(about(location.pathname)).toBe(about(path))
    expect(wrong).toEqual([])
  })
})

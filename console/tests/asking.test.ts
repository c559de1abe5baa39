import { describe, expect, it, vi } from 'vitest'
import { effectScope, nextTick, ref } from 'vue'

import { address, Problem } from '../src/api/http'
import { one, several } from '../src/asking/address'
import { problemLines } from '../src/asking/problems'
import { useAttempt, useQuestion } from '../src/asking/question'

vi.stubGlobal('addEventListener', () => undefined)
vi.stubGlobal('removeEventListener', () => undefined)
vi.mock('../src/shell/session', () => ({ useSession: () => ({ token: '', end: () => undefined }) }))

/** Answers that come when the test says so. */
function slow() {
  const given: {
    question: string
    signal: AbortSignal
    answer: (a: string) => void
    fail: (e: unknown) => void
  }[] = []
  const ask = (question: string, signal: AbortSignal) =>
    new Promise<string>((answer, fail) => given.push({ question, signal, answer, fail }))
  return { given, ask }
}

const settled = async () => {
  for (let i = 0; i < 10; i++) await nextTick()
}

describe('a question', () => {
  it('is asked when it changes, one at a time, and of those that come meanwhile the last alone', async () => {
    const [what, surroundings] = [ref('a'), ref(0)]
    const { given, ask } = slow()
    useQuestion(() => (surroundings.value >= 0 ? what.value : null), ask)
    surroundings.value += 1
    await nextTick()
    for (what.value of ['b', 'c', 'd']) await nextTick()
    expect(given.map((g) => g.question)).toEqual(['a'])
    given[0]!.answer('of a')
    await settled()
    expect(given.map((g) => g.question)).toEqual(['a', 'd'])
  })

  it.each([...Array(12).keys()])(
    'that changes %i turns after the answer before has come is asked too',
    async (turns) => {
      const what = ref('a')
      const { given, ask } = slow()
      const { current } = useQuestion(() => what.value, ask)
      given[0]!.answer('of a')
      for (let n = 0; n < turns; n++) await Promise.resolve()
      what.value = 'b'
      await settled()
      expect(given.map((g) => g.question)).toEqual(['a', 'b'])
      given[1]!.answer('of b')
      await settled()
      expect(current.value).toBe('of b')
    },
  )

  it('says of an answer to another that it is stale, and which one it belongs to', async () => {
    const what = ref('a')
    const { given, ask } = slow()
    const { answer, current, stale, shown, loading } = useQuestion(() => what.value, ask)
    what.value = 'b'
    await nextTick()
    given[0]!.answer('of a')
    await settled()
    expect([answer.value, shown.value, stale.value, current.value]).toEqual([
      'of a',
      'a',
      true,
      null,
    ])
    given[1]!.answer('of b')
    await settled()
    expect([answer.value, shown.value, stale.value, current.value]).toEqual([
      'of b',
      'b',
      false,
      'of b',
    ])
    expect(loading.value).toBe(false)
    what.value = 'c'
    await nextTick()
    given[2]!.fail(new Error('no'))
    await settled()
    expect([stale.value, current.value]).toEqual([true, null])
  })

  it('that is taken back while it is under way is no longer waited for', async () => {
    const what = ref<string | null>('a')
    const { given, ask } = slow()
    const { answer, loading } = useQuestion(() => what.value, ask)
    what.value = null
    await nextTick()
    await new Promise((soon) => setTimeout(soon, 5))
    expect(given[0]!.signal.aborted).toBe(true)
    given[0]!.fail(new DOMException('given up', 'AbortError'))
    await settled()
    expect([answer.value, loading.value, given.length]).toEqual([null, false, 1])
  })

  it('gives one up that takes too long when another waits, and asks again by itself where nobody answered', async () => {
    vi.useFakeTimers()
    const what = ref('a')
    const { given, ask } = slow()
    const { answer, problem } = useQuestion(() => what.value, ask)
    what.value = 'b'
    await nextTick()
    vi.advanceTimersByTime(1000)
    expect(given[0]!.signal.aborted).toBe(true)
    given[0]!.fail(new DOMException('given up', 'AbortError'))
    await settled()
    expect(given[1]!.question).toBe('b')
    given[1]!.fail(new Problem(0, 'The service does not answer', ''))
    await settled()
    expect(problem.value!.status).toBe(0)
    vi.advanceTimersByTime(4000)
    given[2]!.answer('of b')
    await settled()
    expect([answer.value, problem.value]).toEqual(['of b', null])
    vi.useRealTimers()
  })

  it.each([true, false])(
    'keeps the answer before while the next one comes only where asked to (%s)',
    async (keep) => {
      const what = ref<string | null>('a')
      const { given, ask } = slow()
      const { answer } = useQuestion(() => what.value, ask, { keep })
      given[0]!.answer('of a')
      await settled()
      what.value = 'b'
      await nextTick()
      expect(answer.value).toBe(keep ? 'of a' : null)
    },
  )

  it('that fails says so, is well again after the next answer, and ends with its page', async () => {
    const what = ref('a')
    const { given, ask } = slow()
    const page = effectScope()
    const { problem } = page.run(() => useQuestion(() => what.value, ask))!
    given[0]!.fail(new TypeError('x is not a function'))
    await settled()
    expect(problem.value?.message).toBe('x is not a function')
    what.value = 'b'
    await nextTick()
    given[1]!.answer('of b')
    await settled()
    expect(problem.value).toBeNull()
    page.stop()
    expect(given[1]!.signal.aborted).toBe(true)
  })
})

describe('an attempt', () => {
  it('says whether it worked, and what was wrong', async () => {
    const { attempt, problem, busy } = useAttempt()
    const failed = attempt(() => Promise.reject(new Problem(422, 'Wrong', 'so it is')))
    expect(busy.value).toBe(true)
    expect(await failed).toBe(false)
    expect(problemLines(problem.value!)).toEqual(['Wrong. so it is'])
    expect(await attempt(async () => undefined)).toBe(true)
    expect([problem.value, busy.value]).toEqual([null, false])
  })

  it('names each thing wrong with its place and its mend', () => {
    const errors = [
      { at: 'rule', value: 'x', problem: 'no such item', mend: 'did you mean y?', line: '' },
    ]
    expect(problemLines(new Problem(422, 'Wrong', '', errors))).toEqual([
      'rule: no such item; did you mean y?',
    ])
  })
})

describe('an address', () => {
  it('leaves out what is not given, keeps several of one name, and escapes what needs it', () => {
    expect(
      address('/x', { a: undefined, b: null, show: ['p/q', 'r&s'], limit: 3, on: false }),
    ).toBe('/x?show=p%2Fq&show=r%26s&limit=3&on=false')
    expect(address('/x')).toBe('/x')
  })

  it('is read name by name', () => {
    const query = { a: 'x', b: ['y', 'z'], empty: '' }
    expect([one(query, 'a'), one(query, 'b'), one(query, 'empty'), one(query, 'none')]).toEqual([
      'x',
      undefined,
      undefined,
      undefined,
    ])
    expect([several(query, 'a'), several(query, 'b'), several(query, 'none')]).toEqual([
      ['x'],
      ['y', 'z'],
      [],
    ])
  })
})

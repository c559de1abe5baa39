import type { Query } from '../api/http'
import { statement } from '../api/statements'
import type { Statement } from '../api/types'
import { type Arranged, together } from './arranged'

/** What is asked of one company: its statement, and what stands beside it. */
export interface Wish {
  question: Query
  both: boolean
  ratios: boolean
  compared: string | null
}

/**
 * A statement with what stands beside it: growth and shares in percent, and itself on another day.
 */
export interface Answered {
  found: Arranged
  growth: Statement | null
  share: Statement | null
  earlier: Statement | null
}

/** Years and their quarters are asked for as many years back. */
async function arranged(wish: Wish, more: Query, signal: AbortSignal): Promise<Arranged> {
  const question = { ...wish.question, ...more }
  if (!wish.both) return statement(question, signal)
  const newest = Number(question.periods ?? 0)
  const quarters = { ...question, frequency: 'quarter', periods: newest ? newest * 4 : undefined }
  return together(
    ...(await Promise.all([statement(question, signal), statement(quarters, signal)])),
  )
}

export async function answered(wish: Wish, signal: AbortSignal): Promise<Answered> {
  const { question } = wish
  const quiet = wish.ratios && question.show === 'amounts'
  const income = question.statement === 'income'
  const [found, growth, share, earlier] = await Promise.all([
    arranged(wish, {}, signal),
    quiet ? arranged(wish, { show: 'growth' }, signal) : null,
    quiet && income ? arranged(wish, { show: 'common_size' }, signal) : null,
    wish.compared ? arranged(wish, { known_on: wish.compared, hindsight: false }, signal) : null,
  ])
  return { found, growth, share, earlier }
}

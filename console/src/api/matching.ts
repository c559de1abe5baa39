/** Terms, matches and what people decided, as the console asks for them. */

import { address, call, get, post } from './http'
import type { Decision, MatchAnswer, MatchRequest, TermsRead } from './types'

export type MatchQuestion = Required<Pick<MatchRequest, 'terms' | 'on' | 'ever' | 'all_listings' | 'types'>>

export async function readTerms(content: Blob, column?: string): Promise<TermsRead> {
  return (await call(address('/matches/terms', { column }), { method: 'POST', body: content })).json()
}

export function match(asked: MatchQuestion, signal?: AbortSignal): Promise<MatchAnswer> {
  return post('/matches', asked, signal)
}

export async function decisions(): Promise<Decision[]> {
  return (await get<{ decisions: Decision[] }>('/matches/decisions')).decisions
}

/** Say which company a term means; null takes an earlier decision back. */
export async function decide(term: string, company: string | null, who: string): Promise<void> {
  await post('/matches/decisions', { term, company, who, why: 'settled in the console' })
}

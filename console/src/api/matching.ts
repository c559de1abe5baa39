/** Terms, matches and what people decided, as the console asks for them. */

import { answered } from './collecting'
import { address, call, get, post } from './http'
import type { Decision, MatchAnswer, MatchRequest, Run, TermsRead } from './types'

export type MatchQuestion = Required<
  Pick<MatchRequest, 'terms' | 'on' | 'ever' | 'all_listings' | 'types'>
>

export async function readTerms(content: Blob, column?: string): Promise<TermsRead> {
  return (
    await call(address('/matches/terms', { column }), { method: 'POST', body: content })
  ).json()
}

/** Many terms are a run: `each` is called with how far it is. */
export async function match(
  asked: MatchQuestion,
  signal: AbortSignal,
  each: (run: Run) => void,
): Promise<MatchAnswer> {
  const found = await post<MatchAnswer | Run>('/matches', asked, signal)
  return 'rows' in found ? found : answered(found, each, signal)
}

export async function decisions(): Promise<Decision[]> {
  return (await get<{ decisions: Decision[] }>('/matches/decisions')).decisions
}

/** Say which company a term means; null takes an earlier decision back. */
export async function decide(term: string, company: string | null, who: string): Promise<void> {
  await post('/matches/decisions', { term, company, who, why: 'settled in the console' })
}

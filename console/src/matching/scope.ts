import type { MatchQuestion } from '../api/matching'

/**
 * Among what terms are sought: the security types, other listings than the primary one, other
 * times than the stamp's.
 */
export type Scope = Pick<MatchQuestion, 'ever' | 'all_listings' | 'types'>

import type { MatchAnswer, MatchOutcome, MatchRow } from '../api/types'

/**
 * What became of a row, as people work through them: where somebody may be meant, there is
 * something to settle.
 */
export type Group = Exclude<MatchOutcome, 'ambiguous'> | 'to_settle'
export const GROUPS: Group[] = [
  'matched',
  'to_settle',
  'renamed',
  'inactive',
  'invalid',
  'not_found',
]

export function groupOf(row: Pick<MatchRow, 'outcome' | 'candidates'>): Group {
  if (row.outcome === 'ambiguous') return 'to_settle'
  return row.outcome === 'not_found' && row.candidates.length ? 'to_settle' : row.outcome
}

export function countsOf(answer: MatchAnswer | null): Record<Group, number> {
  const counts = Object.fromEntries(GROUPS.map((group) => [group, 0])) as Record<Group, number>
  for (const row of answer?.rows ?? []) counts[groupOf(row)] += 1
  return counts
}

export const inWords = (group: Group): string => group.replace('_', ' ')

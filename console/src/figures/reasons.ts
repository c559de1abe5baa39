/** Why a figure is missing, and what is to be said of one that is there: the words of the glossary. */

const REASONS: Record<string, [short: string, full: string]> = {
  not_applicable: ['n/a', 'The statements of this kind of company have no such line.'],
  not_reported: ['not reported', 'The statement was known, but never with this line.'],
  not_known: ['not known', 'No such statement was known by this date.'],
  withdrawn: ['withdrawn', 'The company took the figure back.'],
  stale: ['stale', 'The newest period ended more than 550 days before this date.'],
  incomplete: ['incomplete', 'Not all figures that it is formed from were known by this date.'],
  not_derivable: ['not derivable', 'Figures of this kind are neither added nor subtracted.'],
  not_meaningful: ['not meaningful', 'The result would say nothing, such as growth from a loss.'],
  zero_denominator: ['zero denominator', 'It would be a division by zero.'],
  no_rate: ['no rate', 'The amounts are in different currencies and there is no rate between them.'],
  inactive: ['inactive', 'The company was no longer active.'],
  no_estimates: ['no estimates', 'No estimate was standing.'],
}

export function reasonShort(reason: string | null, template?: string | null): string {
  const short = REASONS[reason ?? '']?.[0] ?? reason ?? ''
  return reason === 'not_applicable' && template ? `${short} ${template}` : short
}

export function reasonFull(reason: string | null): string {
  return REASONS[reason ?? '']?.[1] ?? ''
}

export const MARKS: Record<string, string> = {
  assumed: 'The source gave no publication date: one was assumed from the end of the period.',
  approximate: 'Formed from per-share figures, which add up only approximately.',
  mixed_basis: 'One figure behind it was restated, another that covers the same time was not.',
  implied: 'Not on the statement, which means zero.',
  extreme: 'Above 1,000 or below 0.001: what it is divided by, or what is divided, is near zero.',
  flagged: 'A check found something about a figure behind it: see Quality.',
}

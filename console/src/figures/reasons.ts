/**
 * Why a figure is missing, in the words of the command line, and what is to be said of one that is
 * there.
 */

const REASONS: Record<string, [short: string, full: string]> = {
  not_applicable: ['n/a', "The company's statements have no such line."],
  not_reported: ['not reported', 'Its statement, or its row of prices, was known, but without it.'],
  not_known: ['not known', 'Nothing of the kind was known by then.'],
  withdrawn: ['withdrawn', 'It was reported and then taken back.'],
  stale: ['stale', 'The last one known is too old to say anything of that day.'],
  incomplete: ['incomplete', 'Not all that it is formed from was known.'],
  not_derivable: ['not derivable', 'It cannot be formed from other periods: it does not add up.'],
  not_meaningful: [
    'not meaningful',
    'The result would mean nothing, such as a growth from a loss.',
  ],
  zero_denominator: ['zero denominator', 'It would be divided by zero.'],
  no_rate: [
    'no rate',
    'There is no rate between the currencies for that time, or there are too few.',
  ],
  inactive: ['inactive', 'The company was no longer active, or its shares no longer traded.'],
  no_estimates: ['no estimates', 'No estimate stood then.'],
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

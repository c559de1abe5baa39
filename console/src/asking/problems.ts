import type { Problem } from '../api/http'

/**
 * A problem in lines: each thing that is wrong with its place and its mend, or the whole in one
 * line.
 */
export function problemLines(problem: Problem): string[] {
  if (!problem.errors.length) return [[problem.title, problem.message].filter(Boolean).join('. ')]
  return problem.errors.map((e) => `${e.at}: ${e.problem}${e.mend ? `; ${e.mend}` : ''}`)
}

/** Completing the word at the caret of an expression, and where a mistake stands in its text. */

import type { InputProblem } from '../api/types'

/**
 * The word that ends at a place of a text, where one is being typed: small letters, digits and _,
 * two at the least.
 */
export function wordAt(text: string, caret: number): string {
  const word = /[a-z][a-z0-9_]+$/.exec(text.slice(0, caret))?.[0] ?? ''
  return /[a-z0-9_]/.test(text[caret] ?? '') ? '' : word
}

/** The text with the word before the caret replaced, and where the caret then stands. */
export function completed(
  text: string,
  caret: number,
  name: string,
): { text: string; caret: number } {
  const begin = caret - wordAt(text, caret).length
  return { text: text.slice(0, begin) + name + text.slice(caret), caret: begin + name.length }
}

/** The part of a text that a problem is about: its begin and end, where it says line and column. */
export function placeOf(
  text: string,
  problem: InputProblem,
): { begin: number; end: number } | null {
  const found = /^line (\d+), column (\d+)$/.exec(problem.at)
  if (!found) return null
  const lines = text.split('\n')
  const begin =
    lines.slice(0, Number(found[1]) - 1).reduce((n, line) => n + line.length + 1, 0) +
    Number(found[2]) -
    1
  return {
    begin,
    end: text.startsWith(problem.value, begin) ? begin + problem.value.length : begin + 1,
  }
}

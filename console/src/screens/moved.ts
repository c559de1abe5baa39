import type { ScreenAnswer } from '../api/types'

function passing(answer: ScreenAnswer): Map<string, string> {
  return new Map(
    answer.companies.filter((c) => c.verdict === 'pass').map((c) => [c.company, c.name]),
  )
}

/**
 * Who joined and who left between two answers to one rule over one list; nothing between any
 * others.
 */
export function moved(before: ScreenAnswer | null, now: ScreenAnswer): string {
  if (
    !before ||
    before.rule !== now.rule ||
    before.list !== now.list ||
    before.known_on === now.known_on
  )
    return ''
  const [old, fresh] = [passing(before), passing(now)]
  const joined = [...fresh].filter(([id]) => !old.has(id)).map(([, name]) => name)
  const left = [...old].filter(([id]) => !fresh.has(id)).map(([, name]) => name)
  const lines = [
    joined.length ? `joined: ${joined.join(', ')}` : '',
    left.length ? `left: ${left.join(', ')}` : '',
  ]
  return lines.filter(Boolean).join(' · ')
}

/** The members of a list: as rows to take away, and what takes a change of them back. */

import type { ListChange, ListInfo, ListMembers } from '../api/types'

/** Heads and rows: each figure with its currency, its period and why it is missing. */
export function memberRows(of: ListMembers): (string | number)[][] {
  const own = ['company', 'name', 'listing', 'country', 'industry', 'weight']
  const heads = of.columns.flatMap((c) => [
    c.name,
    `${c.name} currency`,
    `${c.name} period`,
    `${c.name} reason`,
  ])
  const rows = of.members.map((m) => [
    m.id,
    m.name,
    m.listings.map((l) => `${l.symbol}@${l.mic}`).join(' '),
    m.country ?? '',
    m.industry_title ?? '',
    m.weight ?? '',
    ...m.cells.flatMap((cell) => [
      cell.value ?? '',
      cell.currency ?? '',
      cell.period ?? '',
      cell.reason ?? '',
    ]),
  ])
  return [[...own, ...heads], ...rows]
}

/** What was done to a list in words, and the change that takes it back. */
export interface TakenBack {
  words: string
  list: string
  back: ListChange
}

/** Null for what needs no undoing: what was added stands there and can be removed. */
export function takenBack(
  list: string,
  title: string | undefined,
  members: { id: string; name: string }[],
  asked: ListChange,
): TakenBack | null {
  if (asked.archived !== undefined) {
    const words = `${title ?? list} ${asked.archived ? 'is archived' : 'is back'}.`
    return { words, list, back: { archived: !asked.archived } }
  }
  if (!asked.remove?.length) return null
  const names = asked.remove.map((id) => members.find((m) => m.id === id)?.name ?? id)
  return { words: `${names.join(', ')} removed.`, list, back: { add: asked.remove } }
}

/** Who keeps a list, and so how it changes. */
export function keptBy(list: ListInfo): string {
  if (list.rule) return 'Kept by a rule.'
  return list.kept_by ? `Kept by ${list.kept_by}: copy it to change it.` : 'Kept by hand.'
}

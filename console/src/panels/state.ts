/** A panel in the address of its page, and as it is asked. */

import type { LocationQueryRaw } from 'vue-router'

import type { PanelQuestion } from '../api/panels'
import type { QuestionInfo } from '../api/types'

/** The marks whose figures can be left out, as people read them. */
export const LEFT_OUT = {
  assumed: 'assumed',
  approximate: 'approximate',
  mixed_basis: 'on a mixed basis',
  implied: 'implied',
  flagged: 'flagged',
}

export const FREQUENCIES = ['yearly', 'quarterly', 'monthly', 'weekly', 'daily'] as const

interface Read {
  one: (name: string) => string | undefined
  several: (name: string) => string[]
}

/** The parts of a text between its commas. */
export const commas = (text: string): string[] =>
  text
    .split(',')
    .map((part) => part.trim())
    .filter(Boolean)

/** The question that an address says; null while no column is asked for. */
export function questionOf({ one, several }: Read, knownOn: string): PanelQuestion | null {
  const expressions = several('c')
  if (!expressions.length) return null
  const periods = one('periods')
  const companies = several('co')
  return {
    expressions,
    known_on: instantOf(one('at'), knownOn) ?? knownOn,
    list: companies.length ? undefined : one('list'),
    companies: companies.length ? companies : undefined,
    dates: periods ? undefined : datesOf(several, knownOn),
    periods,
    where: one('where'),
    lag: one('lag') ? Number(one('lag')) : undefined,
    at_close: one('close') === 'on' || undefined,
    first_reported: one('first') === 'on' || undefined,
    ahead: several('ahead').length ? several('ahead') : undefined,
    currency: one('currency'),
    leave_out: several('leave').length
      ? (several('leave') as PanelQuestion['leave_out'])
      : undefined,
    recorded_by: batchOf(one('batch')),
  }
}

/**
 * The instant that an address says, while the stamp stands on its day; undefined where the whole
 * day is meant.
 */
export function instantOf(text: string | undefined, knownOn: string): string | undefined {
  return text && utcDay(text) === knownOn ? text : undefined
}

/**
 * The day, UTC, of a day or an instant; of what is neither as it is written, so that it is
 * refused.
 */
function utcDay(text: string): string {
  const at = new Date(text)
  return Number.isNaN(at.getTime()) ? text : at.toISOString().slice(0, 10)
}

/** A number of a batch; whatever else stands there is asked for too, so that it is refused. */
function batchOf(text: string | undefined): number | undefined {
  return text && /^\d+$/.test(text) ? Number(text) : (text as number | undefined)
}

/** The dates that an address names: several, or a range of its own without any. */
export function datesOf(several: Read['several'], knownOn: string): string[] {
  const named = several('dates')
  return named.length ? named : [datesUpTo(knownOn)]
}

/** All that an address may say of a panel, so that another one leaves nothing of it behind. */
export const NOTHING: LocationQueryRaw = Object.fromEntries(
  [
    'list',
    'co',
    'dates',
    'periods',
    'where',
    'lag',
    'close',
    'first',
    'ahead',
    'currency',
    'leave',
    'batch',
    'at',
  ].map((name) => [name, undefined]),
)

/** The address of a kept question. */
export function addressOf(kept: QuestionInfo): LocationQueryRaw {
  const q = kept.question as Partial<PanelQuestion>
  return {
    kept: kept.name,
    c: q.expressions,
    list: q.list ?? undefined,
    co: q.companies?.length ? q.companies : undefined,
    dates: q.dates?.length ? q.dates : undefined,
    periods: q.periods ?? undefined,
    where: q.where ?? undefined,
    lag: q.lag ? String(q.lag) : undefined,
    close: q.at_close ? 'on' : undefined,
    first: q.first_reported ? 'on' : undefined,
    ahead: q.ahead?.length ? q.ahead : undefined,
    currency: q.currency ?? undefined,
    leave: q.leave_out?.length ? q.leave_out : undefined,
    batch: q.recorded_by == null ? undefined : String(q.recorded_by),
    at: q.known_on && q.known_on.length > 10 ? q.known_on : undefined,
    ...(q.known_on ? { known_on: utcDay(q.known_on) } : {}),
  }
}

/** Ten years of year ends up to a day: what a panel is over until somebody says otherwise. */
export function datesUpTo(day: string): string {
  return `${Number(day.slice(0, 4)) - 9}-01-01/${day} yearly`
}

/** The parts of a range of dates as it is written; null where it is none of the plain ones. */
export function partsOf(dates: string): { from: string; to: string; every: string } | null {
  const found = /^(\d{4}-\d{2}-\d{2})\/(\d{4}-\d{2}-\d{2}) (\w+)$/.exec(dates)
  return found ? { from: found[1]!, to: found[2]!, every: found[3]! } : null
}

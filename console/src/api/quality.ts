/** Findings, the quarantine, coverage, limits and the order of sources, as the console asks for them. */

import { get, post, type Query } from './http'
import type {
  CoverageMatrix,
  LimitList,
  MarketFinding,
  MarketQuality,
  Quality,
  SourceOrder,
} from './types'

export function quality(asked: Query, signal?: AbortSignal): Promise<Quality> {
  return get('/quality', { ...asked, limit: 300 }, signal)
}

export function marketQuality(asked: Query, signal?: AbortSignal): Promise<MarketQuality> {
  return get('/quality/market', { ...asked, limit: 300 }, signal)
}

export async function decideMarket(
  found: MarketFinding[],
  accept: boolean,
  who: string,
  why: string,
): Promise<void> {
  const rows = found.map(({ kind, subject, date }) => ({ kind, subject, date }))
  await post('/quality/market/decisions', { rows, accept, who, why })
}

export function coverage(
  list: string,
  statement?: string,
  signal?: AbortSignal,
): Promise<CoverageMatrix> {
  return get('/quality/coverage', { list, statement }, signal)
}

export async function decideQuarantine(
  facts: number[],
  accept: boolean,
  who: string,
  why: string,
): Promise<void> {
  await post('/quality/decisions', { facts, accept, who, why })
}

export async function sourceOrders(signal?: AbortSignal): Promise<SourceOrder[]> {
  return (await get<{ orders: SourceOrder[] }>('/sources/order', {}, signal)).orders
}

export function limits(signal?: AbortSignal): Promise<LimitList> {
  return get('/limits', {}, signal)
}

export interface LimitSaid {
  name: string
  /** Nothing takes an earlier word back. */
  days: number | null
  source: string | null
  who: string
  why: string
}

export function setLimit(said: LimitSaid): Promise<LimitList> {
  return post('/limits', said)
}

export interface SourcePreference {
  /** The sources in the order they are read; none takes an earlier decision back. */
  sources: string[]
  who: string
  why: string
  item: string | null
  company: string | null
}

export async function preferSources(asked: SourcePreference): Promise<void> {
  await post('/sources/order', asked)
}

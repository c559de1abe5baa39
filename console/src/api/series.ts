/** Economic series, as the console asks for them. */

import { address, call, get, post, postedCsv, put } from './http'
import type {
  Revisions,
  SeriesAnswer,
  SeriesAsked,
  SeriesComparison,
  SeriesDescription,
  SeriesFound,
  SeriesSheet,
  SheetChange,
  Vintages,
} from './types'

export interface SeriesQuery {
  text?: string
  known_on: string
  subject?: string
  area?: string
  frequency?: string
  adjustment?: string
  family?: string
  where?: string[]
  limit?: number
}

export function findSeries(asked: SeriesQuery, signal?: AbortSignal): Promise<SeriesFound> {
  return get('/series', { ...asked }, signal)
}

export interface SheetQuestion {
  series: SeriesAsked[]
  known_on: string
  start?: string
  which: 'known' | 'first' | 'last'
}

export function observations(asked: SheetQuestion, signal?: AbortSignal): Promise<SeriesAnswer> {
  return post('/series/observations', asked, signal)
}

export function sheetCsv(asked: SheetQuestion): Promise<Blob> {
  return postedCsv('/series/observations', { ...asked, layout: 'wide' })
}

export function description(
  asked: { key: string; known_on: string },
  signal?: AbortSignal,
): Promise<SeriesDescription> {
  return get('/series/description', { ...asked }, signal)
}

/** Every release of a series as a file: CSV, or SDMX-CSV. */
export async function releasesFile(
  asked: { key: string; known_on: string },
  format: 'csv' | 'sdmx',
): Promise<Blob> {
  return (await call(address('/series/releases', { ...asked, format }))).blob()
}

export function vintages(
  asked: { key: string; known_on: string; start?: string; most: number },
  signal?: AbortSignal,
): Promise<Vintages> {
  return get('/series/vintages', { ...asked }, signal)
}

export function revisions(
  asked: { key: string; period: string; known_on: string },
  signal?: AbortSignal,
): Promise<Revisions> {
  return get('/series/revisions', { ...asked }, signal)
}

export interface ComparisonQuestion {
  series: SeriesAsked[]
  known_on: string
  start?: string
  end?: string
  lags: number
}

export function comparison(
  asked: ComparisonQuestion,
  signal?: AbortSignal,
): Promise<SeriesComparison> {
  return post('/series/comparison', asked, signal)
}

export async function sheets(signal?: AbortSignal): Promise<SeriesSheet[]> {
  return (await get<{ sheets: SeriesSheet[] }>('/series/sheets', {}, signal)).sheets
}

export function keepSheet(
  name: string,
  asked: { title: string; description: string; series: SeriesAsked[]; start?: string; who: string },
): Promise<SeriesSheet> {
  return put(`/series/sheets/${encodeURIComponent(name)}`, asked)
}

export async function sheetChanges(
  asked: { name: string; since: string; known_on: string },
  signal?: AbortSignal,
): Promise<SheetChange[]> {
  const { name, ...rest } = asked
  return (
    await get<{ changes: SheetChange[] }>(
      `/series/sheets/${encodeURIComponent(name)}/changes`,
      rest,
      signal,
    )
  ).changes
}

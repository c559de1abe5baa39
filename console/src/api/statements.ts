/** Statements, restatements and the catalogue, as the console asks for them. */

import { call } from './ledger'

export interface StatementColumn {
  label: string
  calendar: string
  period_end: string
  nominal_end: string
  published_at: string
  currency: string | null
}

export interface StatementCell {
  value: number | null
  reason: string | null
  marks: string[]
  formed: boolean
  restated: boolean
  restated_later: boolean | null
  known_at: string | null
  flags: string[]
}

export interface StatementLine {
  item: string
  title: string
  statement: string
  unit: string
  nature: string
  indent: number
  applies: boolean
  cells: StatementCell[]
}

export interface Statement {
  company: string
  name: string
  symbol: string | null
  template: string | null
  statement: string
  frequency: string
  show: string
  currency: string | null
  basis: string
  bases: string[]
  known_on: string
  batch: number
  columns: StatementColumn[]
  lines: StatementLine[]
}

export interface Restatement {
  company: string
  name: string
  item: string
  title: string
  period: string
  unit: string
  old: number | null
  new: number | null
  percent: number | null
  original: number | null
  latest: number | null
  published_at: string
  document: string
  sha256: string
}

export interface CatalogueItem {
  code: string
  title: string
  statement: string
  nature: string
  unit: string
  definition: string
  templates: string[]
  synonyms: string[]
  source: string
  stale_after: number | null
}

export interface Coverage {
  companies: number
  share: number
  facts: number
  first: string
  last: string
}

export interface CatalogueEntry {
  kind: string
  name: string
  title: string
  call: string
  meaning: string
  unit: string
  statement: string
  templates: string[]
  found_by: string
  coverage: Coverage | null
  value: { value: number | string | null; reason: string | null; currency: string | null; period_end: string | null } | null
}

export interface ItemPage {
  item: CatalogueItem
  coverage: Coverage | null
  years: { year: number; companies: number }[]
  tags: { source: string; tag: string; template: string | null }[]
  adds_to: { item: string; sign: number }[]
  made_of: { item: string; sign: number }[]
  neighbours: { item: string; title: string; meaning: string }[]
  spreads: {
    currency: string | null
    companies: number
    least: number
    lower_quartile: number
    median: number
    upper_quartile: number
    greatest: number
    bins: number[]
  }[]
}

function query(params: Record<string, string | undefined>): string {
  return new URLSearchParams(Object.entries(params).filter((p): p is [string, string] => p[1] !== undefined)).toString()
}

export async function statement(asked: Record<string, string | undefined>, signal?: AbortSignal): Promise<Statement> {
  return (await call(`/statements?${query(asked)}`, { signal })).json()
}

export async function statementAsCsv(asked: Record<string, string | undefined>): Promise<Blob> {
  // Hindsight has no place in an export.
  return (await call(`/statements?${query({ ...asked, hindsight: undefined })}`, { headers: { Accept: 'text/csv' } })).blob()
}

export async function restatements(
  asked: Record<string, string | undefined>,
  signal?: AbortSignal,
): Promise<{ restatements: Restatement[]; total: number }> {
  return (await call(`/restatements?${query(asked)}`, { signal })).json()
}

export async function search(
  asked: Record<string, string | undefined>,
  signal?: AbortSignal,
): Promise<{ entries: CatalogueEntry[]; company: string | null }> {
  return (await call(`/catalogue/search?${query(asked)}`, { signal })).json()
}

export async function item(code: string): Promise<ItemPage> {
  return (await call(`/items/${encodeURIComponent(code)}`)).json()
}

export interface QualityFinding {
  fact: number
  check: string
  state: string
  detail: string
  company: string
  name: string
  item: string
  title: string
  period: string
  value: number | null
  unit: string
  published_at: string
  source: string
  document: string
  sha256: string
  place: string
  who: string | null
  why: string | null
}

export interface Quality {
  findings: QualityFinding[]
  total: number
  by_check: Record<string, number>
  by_state: Record<string, number>
  by_company: { company: string; name: string; findings: number }[]
  by_source: Record<string, number>
  checks: Record<string, string>
}

export interface CoverageMatrix {
  list: string
  members: number
  years: number[]
  rows: { item: string; title: string; companies: number[] }[]
}

export async function quality(asked: Record<string, string | undefined>): Promise<Quality> {
  return (await call(`/quality?${query(asked)}`)).json()
}

export async function coverage(list: string, statement?: string): Promise<CoverageMatrix> {
  return (await call(`/quality/coverage?${query({ list, statement })}`)).json()
}

export async function decideQuarantine(facts: number[], accept: boolean, who: string, why: string): Promise<void> {
  const headers = { 'Content-Type': 'application/json' }
  await call('/quality/decisions', { method: 'POST', headers, body: JSON.stringify({ facts, accept, who, why }) })
}

export interface SourceOrder {
  item: string | null
  company: string | null
  name: string | null
  sources: string[]
}

export async function sourceOrders(): Promise<SourceOrder[]> {
  return (await (await call('/sources/order')).json()).orders
}

/** Say which sources are read first, for an item, a company or both; none takes an earlier word back. */
export async function preferSources(sources: string[], who: string, why: string, item: string | null, company: string | null): Promise<void> {
  const headers = { 'Content-Type': 'application/json' }
  await call('/sources/order', { method: 'POST', headers, body: JSON.stringify({ sources, who, why, item, company }) })
}

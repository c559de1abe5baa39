/**
 * Screens, explanations, documents, lists, companies and directories, as the console asks for
 * them.
 */

import { address, call, get, patch, post, postedCsv } from './http'
import type {
  Companies,
  CompanyPage,
  DocumentInfo,
  Explanation,
  ListChange,
  ListedCompany,
  ListInfo,
  ListMembers,
  ListVersion,
  Publications,
  ScreenAnswer,
  ScreenRequest,
  SecurityInfo,
  VenueCount,
} from './types'

export type ScreenQuestion = Partial<ScreenRequest> & Pick<ScreenRequest, 'rule' | 'list'>

export function screen(asked: ScreenQuestion, signal?: AbortSignal): Promise<ScreenAnswer> {
  return post('/screens', asked, signal)
}

/** The same answer as a CSV file; hindsight has no place in it. */
export function screenAsCsv(asked: ScreenQuestion): Promise<Blob> {
  return postedCsv('/screens', { ...asked, hindsight: false })
}

export interface FigureQuestion {
  company: string
  expression: string
  known_on: string
  period_end?: string
  hindsight: boolean
  currency?: string
}

export function explain(asked: FigureQuestion, signal?: AbortSignal): Promise<Explanation> {
  return get('/explanations', { ...asked }, signal)
}

/** How much became public by month: of one company, of a list, or of all. */
export function publications(
  of: { list?: string; company?: string },
  signal?: AbortSignal,
): Promise<Publications> {
  return get('/facts/publications', of, signal)
}

export function documentInfo(sha256: string, signal?: AbortSignal): Promise<DocumentInfo> {
  return get(documentPath(sha256), {}, signal)
}

export async function documentText(sha256: string, signal?: AbortSignal): Promise<string> {
  return (await call(`/documents/${sha256}/content`, { signal })).text()
}

export async function lists(archived = false): Promise<ListInfo[]> {
  return (await get<{ lists: ListInfo[] }>('/lists', { archived })).lists
}

export interface MembersQuestion {
  list: string
  known_on: string
  where?: string
  show: string[]
  currency?: string
}

export function members(
  { list, ...asked }: MembersQuestion,
  signal?: AbortSignal,
): Promise<ListMembers> {
  return get(`/lists/${encodeURIComponent(list)}/members`, asked, signal)
}

export async function listVersions(name: string, signal?: AbortSignal): Promise<ListVersion[]> {
  const path = `/lists/${encodeURIComponent(name)}/versions`
  return (await get<{ versions: ListVersion[] }>(path, {}, signal)).versions
}

export function changeList(name: string, who: string, change: ListChange): Promise<void> {
  return patch(`/lists/${encodeURIComponent(name)}`, { ...change, who })
}

export async function copyList(from: string, name: string, who: string): Promise<void> {
  await post('/lists', { name, who, how: 'union', lists: [from] })
}

export async function keepRuleList(name: string, rule: string, who: string): Promise<void> {
  await post('/lists', { name, rule, who })
}

export async function keepList(name: string, companies: string[], who: string): Promise<void> {
  await post('/lists', { name, companies, who })
}

export interface CompaniesQuestion {
  query: string
  on: string
  with_inactive: boolean
}

export function companies(asked: CompaniesQuestion, signal?: AbortSignal): Promise<Companies> {
  return get('/companies', { ...asked, limit: 500 }, signal)
}

export function company(id: string, on: string, signal?: AbortSignal): Promise<CompanyPage> {
  return get(`/companies/${encodeURIComponent(id)}`, { on }, signal)
}

export async function venues(on: string, signal?: AbortSignal): Promise<VenueCount[]> {
  return (await get<{ venues: VenueCount[] }>('/venues', { on }, signal)).venues
}

export async function securities(
  on: string,
  type?: string,
  signal?: AbortSignal,
): Promise<SecurityInfo[]> {
  const query = { on, security_type: type }
  return (await get<{ securities: SecurityInfo[] }>('/securities', query, signal)).securities
}

export async function listings(
  on: string,
  venue?: string,
  type?: string,
  signal?: AbortSignal,
): Promise<ListedCompany[]> {
  const query = { on, venue, security_type: type }
  return (await get<{ listings: ListedCompany[] }>('/listings', query, signal)).listings
}

/** Where a document stands in the API. */
export const documentPath = (sha256: string): string => address(`/documents/${sha256}`)

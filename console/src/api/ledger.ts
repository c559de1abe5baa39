import { useSession } from '../session'
import type {
  Companies,
  CompanyPage,
  Explanation,
  InputProblem,
  ListedCompany,
  ListInfo,
  ListMembers,
  ListVersion,
  MatchAnswer,
  Publications,
  ScreenAnswer,
  SecurityInfo,
  TermAsked,
  TermsRead,
  VenueCount,
} from './types'

/** What the service says is wrong, with the mend. */
export class Problem extends Error {
  constructor(
    readonly status: number,
    readonly title: string,
    detail: string,
    readonly errors: InputProblem[],
  ) {
    super(detail)
  }
}

export async function call(path: string, init: RequestInit = {}): Promise<Response> {
  const session = useSession()
  const headers = { Accept: 'application/json', ...init.headers, Authorization: `Bearer ${session.token}` }
  let response: Response
  try {
    response = await fetch(`/api/v1${path}`, { ...init, headers })
  } catch (error) {
    if (error instanceof DOMException && error.name === 'AbortError') throw error
    throw new Problem(0, 'The service does not answer', 'Check that it still runs, then try again.', [])
  }
  if (response.ok) return response
  const said = await response.json().catch(() => ({}))
  if (response.status === 401) session.signOut()
  throw new Problem(response.status, said.title ?? 'The call failed', said.detail ?? '', said.errors ?? [])
}

function query(params: Record<string, string | undefined>): string {
  const given = Object.entries(params).filter((pair): pair is [string, string] => pair[1] !== undefined)
  return new URLSearchParams(given).toString()
}

export interface ScreenQuestion {
  rule: string
  list: string
  known_on: string
  hindsight: boolean
  currency?: string
}

export async function screen(asked: ScreenQuestion, signal?: AbortSignal): Promise<ScreenAnswer> {
  const init = { method: 'POST', headers: { 'Content-Type': 'application/json' }, body: JSON.stringify(asked), signal }
  return (await call('/screens', init)).json()
}

/** The same answer as a CSV file; hindsight has no place in it. */
export async function screenAsCsv(asked: ScreenQuestion): Promise<Blob> {
  const body = JSON.stringify({ ...asked, hindsight: false })
  const headers = { 'Content-Type': 'application/json', Accept: 'text/csv' }
  return (await call('/screens', { method: 'POST', headers, body })).blob()
}

export async function explain(
  asked: { company: string; expression: string; known_on: string; period_end?: string; hindsight: boolean; currency?: string },
  signal?: AbortSignal,
): Promise<Explanation> {
  const params = query({ ...asked, hindsight: String(asked.hindsight) })
  return (await call(`/explanations?${params}`, { signal })).json()
}

export async function lists(archived = false): Promise<ListInfo[]> {
  return (await (await call(`/lists?archived=${archived}`)).json()).lists
}

export async function publications(list?: string): Promise<Publications> {
  return (await call(`/facts/publications?${query({ list })}`)).json()
}

export async function documentText(sha256: string): Promise<string> {
  return (await call(`/documents/${sha256}/content`)).text()
}

export async function post(path: string, body: unknown, signal?: AbortSignal): Promise<Response> {
  const headers = { 'Content-Type': 'application/json' }
  return call(path, { method: 'POST', headers, body: JSON.stringify(body), signal })
}

export async function readTerms(content: Blob, column?: string): Promise<TermsRead> {
  return (await call(`/matches/terms?${query({ column })}`, { method: 'POST', body: content })).json()
}

export interface Decision {
  term: string
  company: string | null
  name: string | null
  who: string
  why: string
  stands: boolean
}

export async function decisions(): Promise<Decision[]> {
  return (await (await call('/matches/decisions')).json()).decisions
}

export async function match(asked: { terms: TermAsked[]; on: string; ever: boolean; all_listings: boolean; types: string[] }, signal?: AbortSignal): Promise<MatchAnswer> {
  return (await post('/matches', asked, signal)).json()
}

export async function decide(term: string, company: string | null, who: string): Promise<void> {
  await post('/matches/decisions', { term, company, who, why: 'settled in the console' })
}

export async function members(
  name: string,
  asked: { known_on: string; where?: string; show: string[]; currency?: string },
  signal?: AbortSignal,
): Promise<ListMembers> {
  const shown = asked.show.map((e) => `&show=${encodeURIComponent(e)}`).join('')
  const params = query({ known_on: asked.known_on, where: asked.where, currency: asked.currency }) + shown
  return (await call(`/lists/${encodeURIComponent(name)}/members?${params}`, { signal })).json()
}

export async function listVersions(name: string): Promise<ListVersion[]> {
  return (await (await call(`/lists/${encodeURIComponent(name)}/versions`)).json()).versions
}

export interface ListChange {
  title?: string
  description?: string
  archived?: boolean
  add?: string[]
  remove?: string[]
}

export async function changeList(name: string, who: string, change: ListChange): Promise<void> {
  const headers = { 'Content-Type': 'application/json' }
  const body = JSON.stringify({ ...change, who })
  await call(`/lists/${encodeURIComponent(name)}`, { method: 'PATCH', headers, body })
}

export async function copyList(from: string, name: string, who: string): Promise<void> {
  await post('/lists', { name, who, how: 'union', lists: [from] })
}

export async function venues(on: string): Promise<VenueCount[]> {
  return (await (await call(`/venues?${query({ on })}`)).json()).venues
}

export async function securities(on: string, type?: string): Promise<SecurityInfo[]> {
  return (await (await call(`/securities?${query({ on, security_type: type })}`)).json()).securities
}

export async function listings(on: string, venue?: string, type?: string): Promise<ListedCompany[]> {
  return (await (await call(`/listings?${query({ on, venue, security_type: type })}`)).json()).listings
}

export async function keepRuleList(name: string, rule: string, who: string): Promise<void> {
  await post('/lists', { name, rule, who })
}

export async function keepList(name: string, title: string, companies: string[], who: string): Promise<void> {
  await post('/lists', { name, title, companies, who })
}

export async function companies(text: string, on: string, withInactive: boolean, signal?: AbortSignal): Promise<Companies> {
  const params = query({ query: text, on, with_inactive: String(withInactive), limit: '500' })
  return (await call(`/companies?${params}`, { signal })).json()
}

export async function company(id: string, on: string, signal?: AbortSignal): Promise<CompanyPage> {
  return (await call(`/companies/${encodeURIComponent(id)}?${query({ on })}`, { signal })).json()
}

/** The currencies that amounts can be shown in. */
export async function currencies(): Promise<string[]> {
  return (await (await call('/catalogue')).json()).currencies
}

/** The codes of all items. */
export async function items(): Promise<string[]> {
  return (await (await call('/catalogue')).json()).items.map((i: { code: string }) => i.code)
}

import { useSession } from '../session'
import type {
  Companies,
  CompanyInfo,
  CompanyPage,
  Explanation,
  InputProblem,
  ListInfo,
  MatchAnswer,
  Publications,
  ScreenAnswer,
  TermAsked,
  TermsRead,
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

async function call(path: string, init: RequestInit = {}): Promise<Response> {
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
  asked: { company: string; expression: string; known_on: string; period_end?: string; hindsight: boolean },
  signal?: AbortSignal,
): Promise<Explanation> {
  const params = query({ ...asked, hindsight: String(asked.hindsight) })
  return (await call(`/explanations?${params}`, { signal })).json()
}

export async function lists(): Promise<ListInfo[]> {
  return (await (await call('/lists')).json()).lists
}

export async function publications(list?: string): Promise<Publications> {
  return (await call(`/facts/publications?${query({ list })}`)).json()
}

export async function documentText(sha256: string): Promise<string> {
  return (await call(`/documents/${sha256}/content`)).text()
}

async function post(path: string, body: unknown, signal?: AbortSignal): Promise<Response> {
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

export async function match(asked: { terms: TermAsked[]; on: string; ever: boolean; types: string[] }, signal?: AbortSignal): Promise<MatchAnswer> {
  return (await post('/matches', asked, signal)).json()
}

export async function decide(term: string, company: string | null, who: string): Promise<void> {
  await post('/matches/decisions', { term, company, who, why: 'settled in the console' })
}

export interface ListMembers {
  name: string
  title: string
  on: string
  members: CompanyInfo[]
}

export async function members(name: string, on: string, signal?: AbortSignal): Promise<ListMembers> {
  return (await call(`/lists/${encodeURIComponent(name)}/members?${query({ on })}`, { signal })).json()
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

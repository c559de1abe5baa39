/** One door to the service: a call with the token, and what it says when it goes wrong. */

import { useSession } from '../shell/session'
import type { InputProblem } from './types'

/** What the service says is wrong, with the mend. */
export class Problem extends Error {
  /** Asks once more, where what failed was a question. */
  again?: () => void

  constructor(
    readonly status: number,
    readonly title: string,
    detail: string,
    readonly errors: InputProblem[] = [],
  ) {
    super(detail)
  }
}

/**
 * Values of an address: what is not given does not stand in it, several of one name stand one
 * after another.
 */
export type Query = Record<string, string | number | boolean | string[] | undefined | null>

/** A path with its query. */
export function address(path: string, query: Query = {}): string {
  const given = new URLSearchParams()
  for (const [name, value] of Object.entries(query)) {
    if (value === undefined || value === null) continue
    for (const one of Array.isArray(value) ? value : [value]) given.append(name, String(one))
  }
  return given.size ? `${path}?${given}` : path
}

export function isAbort(error: unknown): boolean {
  return error instanceof DOMException && error.name === 'AbortError'
}

const TURNS = 20 // times that a busy service is asked again

/** So many seconds, about; none where the question is given up. */
function pause(seconds: number, signal?: AbortSignal | null): Promise<void> {
  return new Promise((done) => {
    const timer = setTimeout(done, seconds * 1000 * (0.5 + Math.random()))
    signal?.addEventListener('abort', () => (clearTimeout(timer), done()), { once: true })
  })
}

/** The answer as it comes; a Problem when it is none. */
export async function call(path: string, init: RequestInit = {}): Promise<Response> {
  const session = useSession()
  const headers = {
    Accept: 'application/json',
    ...init.headers,
    Authorization: `Bearer ${session.token}`,
  }
  let response: Response
  try {
    response = await fetch(`/api/v1${path}`, { ...init, headers })
    // The service has its hands full, and stored nothing: it says when to come again.
    for (
      let turn = 0;
      response.status === 503 && response.headers.has('Retry-After') && turn < TURNS;
      turn++
    ) {
      await pause(Number(response.headers.get('Retry-After')), init.signal)
      response = await fetch(`/api/v1${path}`, { ...init, headers })
    }
  } catch (error) {
    if (isAbort(error)) throw error
    throw new Problem(0, 'The service does not answer', 'Check that it still runs, then try again.')
  }
  if (response.ok) return response
  const body = await response.json().catch(() => ({}))
  if (response.status === 401) session.end()
  const title = body.title ?? `The service could not answer (${response.status})`
  throw new Problem(response.status, title, body.detail ?? '', body.errors ?? [])
}

export async function get<A>(path: string, query?: Query, signal?: AbortSignal): Promise<A> {
  return (await call(address(path, query), { signal })).json()
}

function sent(method: string, body: unknown): RequestInit {
  return { method, headers: { 'Content-Type': 'application/json' }, body: JSON.stringify(body) }
}

export async function post<A>(
  path: string,
  body: unknown = null,
  signal?: AbortSignal,
): Promise<A> {
  return (await call(path, { ...sent('POST', body), signal })).json()
}

export async function put<A>(path: string, body: unknown): Promise<A> {
  return (await call(path, sent('PUT', body))).json()
}

export async function patch(path: string, body: unknown): Promise<void> {
  await call(path, sent('PATCH', body))
}

export async function remove<A>(path: string): Promise<A> {
  return (await call(path, { method: 'DELETE' })).json()
}

/** The same question answered as a CSV file. */
export async function csv(path: string, init: RequestInit = {}): Promise<Blob> {
  return (await call(path, { ...init, headers: { ...init.headers, Accept: 'text/csv' } })).blob()
}

/** The answer to a posted question as a CSV file. */
export async function postedCsv(path: string, body: unknown): Promise<Blob> {
  return csv(path, sent('POST', body))
}

/** Statements and restatements as the console asks for them. */

import { address, csv, get, type Query } from './http'
import type { Restatements, Statement } from './types'

export function statement(asked: Query, signal?: AbortSignal): Promise<Statement> {
  return get('/statements', asked, signal)
}

/** A statement as a CSV file; hindsight has no place in it. */
export function statementAsCsv(asked: Query): Promise<Blob> {
  return csv(address('/statements', { ...asked, hindsight: undefined }))
}

export function restatements(asked: Query, signal?: AbortSignal): Promise<Restatements> {
  return get('/restatements', { ...asked, limit: 500 }, signal)
}
